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
        if ((into.Csv ?? into.Jsonl ?? into.Parquet) is not { } path)
            return TableTargets.Open(settings, columns, reader.Fields, context, cancel);
        var here = into.Server is null ? context.Resolve(path) : ServerTarget.PathFor(context, path);
        LoadTarget file = into switch
        {
            { Csv: not null } => new CsvTarget(here, columns.Names, reader.Fields),
            { Jsonl: not null } => new JsonLinesTarget(here, columns.Names, reader.Fields),
            _ => new ParquetTarget(
                here,
                [.. columns.Names.Select(name => (name, columns.TypeOf(name) ?? new(CellKind.Text)))],
                reader.Fields
            ),
        };
        return into.Server is { } server ? new ServerTarget(file, here, path, server, context, cancel) : file;
    }
}
