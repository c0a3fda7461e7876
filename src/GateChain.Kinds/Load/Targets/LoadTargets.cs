using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load.Targets;

/// <summary>Opens what the settings name.</summary>
static class LoadTargets
{
    /// <summary>The target.</summary>
    /// <exception cref="StepFailedException">There is none, or more than one, or it can't be opened, or lacks a
    /// column.</exception>
    public static LoadTarget Open(
        LoadSettings settings,
        RowSource source,
        RowReader reader,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var into = settings.Into;
        var named = new[] { into.Csv, into.Jsonl, into.Parquet, into.Connection }.Count(n => n is not null);
        if (named != 1)
        {
            throw new StepFailedException(
                "setting",
                $"“into” needs one of csv, jsonl, parquet or connection, and has {(named == 0 ? "none" : "several")}"
            );
        }
        var columns = new TargetColumns(settings, source);
        return into switch
        {
            { Csv: { } csv } => new CsvTarget(context.Resolve(csv), columns.Names, reader.Fields),
            { Jsonl: { } jsonl } => new JsonLinesTarget(context.Resolve(jsonl), columns.Names, reader.Fields),
            { Parquet: { } parquet } => new ParquetTarget(
                context.Resolve(parquet),
                [.. columns.Names.Select(name => (name, columns.TypeOf(name) ?? new(CellKind.Text)))],
                reader.Fields
            ),
            _ => TableTargets.Open(settings, columns, reader.Fields, context, cancel),
        };
    }
}
