using GateChain.Core.Expressions;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
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
        var columns = RowReader.Wanted(settings, source).Select(c => (c.Key, c.Value.Type, c.Value.Scale)).ToList();
        string[] names = [.. columns.Select(c => c.Key)];
        return into switch
        {
            { Csv: { } csv } => new CsvTarget(context.Resolve(csv), names, reader.Fields),
            { Jsonl: { } jsonl } => new JsonLinesTarget(context.Resolve(jsonl), names, reader.Fields),
            { Parquet: { } parquet } => new ParquetTarget(
                context.Resolve(parquet),
                [
                    .. columns.Select(c =>
                        (c.Key, TypeOf(c.Type, c.Scale) ?? FromSource(settings, source, c.Key) ?? new(CellKind.Text))
                    ),
                ],
                reader.Fields
            ),
            _ => Table(settings, columns, source, reader, context, cancel),
        };
    }

    // What is said of a column, else what its source says.
    static CellType? TypeOf(ColumnType? type, int? scale) =>
        type switch
        {
            ColumnType.Int => new(CellKind.Int),
            ColumnType.Double => new(CellKind.Double),
            ColumnType.Decimal => scale is { } digits ? new(CellKind.Decimal, 38, digits) : new(CellKind.Decimal),
            ColumnType.Bool => new(CellKind.Bool),
            ColumnType.Timestamp => new(CellKind.Timestamp),
            ColumnType.Date => new(CellKind.Date),
            ColumnType.Time => new(CellKind.Time),
            ColumnType.Bytes => new(CellKind.Bytes),
            ColumnType.Uuid => new(CellKind.Uuid),
            ColumnType.Json => new(CellKind.Json),
            ColumnType.String => new(CellKind.Text),
            _ => null,
        };

    static CellType? FromSource(LoadSettings settings, RowSource source, string column) =>
        Place(settings, source, column) is { } at ? source.TypeOf(at) : null;

    // Where a column stands in the source as it is; null for one that is computed.
    static int? Place(LoadSettings settings, RowSource source, string column)
    {
        var rule = settings.Columns.GetValueOrDefault(column);
        var at = rule?.Value is not null ? -1 : source.Names.ToList().IndexOf(rule?.From ?? column);
        return at < 0 ? null : at;
    }

    static TableTarget Table(
        LoadSettings settings,
        List<(string Name, ColumnType? Type, int? Scale)> columns,
        RowSource source,
        RowReader reader,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var into = settings.Into;
        if (into.Table is null)
            throw new StepFailedException("setting", "“into” with a connection needs “table”");
        if (into.IsByKey && into.Key.Count == 0)
        {
            throw new StepFailedException(
                "setting",
                $"mode {into.Mode.ToString().ToLowerInvariant()} needs “key”: the columns that tell rows apart"
            );
        }
        var session = Session.OpenForRows(into.Connection!, context, cancel);
        try
        {
            var there = session.ColumnsOf(into.Table);
            if (there.Count == 0 && into.Create)
            {
                var keys =
                    into.Key.Count == 0
                        ? ""
                        : $", PRIMARY KEY ({string.Join(", ", into.Key.Select(session.Dialect.Quote))})";
                // Another load may just be creating it too: then it is there, and taken as it is.
                try
                {
                    session.Execute(
                        null,
                        $"CREATE TABLE {session.Dialect.QuoteTable(into.Table)} ("
                            + string.Join(", ", columns.Select(c => $"{session.Dialect.Quote(c.Name)} {TypeName(c)}"))
                            + $"{keys}){session.Dialect.TableOptions}"
                    );
                    context.Log.Note($"the table {into.Table} was created");
                }
                catch (System.Data.Common.DbException) when (session.ColumnsOf(into.Table) is { Count: > 0 } made)
                {
                    Check(into, made, [.. columns.Select(c => c.Name)]);
                }
            }
            else
            {
                Check(into, there, [.. columns.Select(c => c.Name)]);
            }
            string[] names = [.. columns.Select(c => c.Name)];
            var stage = new StageTable(session, into, into.Table, names, context.WorkKey.ToString());
            var staged = WhyStaged(settings, session);
            context.Log.Note(
                staged is null
                    ? $"rows go straight into {into.Table}, in one transaction"
                    : $"rows gather in a stage beside {into.Table}: {staged}"
            );
            return staged is null
                ? new DirectTarget(session, stage, into.Table, names, reader.Fields, context)
                : new StagedTarget(session, stage, names, reader.Fields, context);

            // As the settings say, else as the source has it, else a text.
            string TypeName((string Name, ColumnType? Type, int? Scale) column)
            {
                var isKey = into.Key.Contains(column.Name);
                if (
                    column.Type is null
                    && Place(settings, source, column.Name) is { } at
                    && source.OwnTypeOf(at, session.Dialect.Type) is { } own
                )
                {
                    return own;
                }
                var type =
                    column.Type is null ? FromSource(settings, source, column.Name)
                    : column.Type is ColumnType.Timestamp ? null
                    : TypeOf(column.Type, column.Scale);
                return type is { } known
                    ? session.Dialect.TypeOf(known, isKey)
                    : session.Dialect.TypeOf(column.Type, isKey);
            }
        }
        catch
        {
            session.Dispose();
            throw;
        }
    }

    // Null for a load that goes straight into its table.
    static string? WhyStaged(LoadSettings settings, Session session) =>
        settings switch
        {
            { Restart: LoadRestart.Batch } => "after a crash it continues after the last batch",
            { Into.IsByKey: true } => "they are compared with those of the table",
            { Into.Mode: LoadMode.Truncate } when !session.Dialect.DdlCommits =>
                "the table is emptied only when all of them are there",
            _ => session.Dialect.NotStraight(session, settings.Into.Table!),
        };

    static void Check(LoadInto into, IReadOnlyList<string> there, IReadOnlyList<string> wanted)
    {
        if (there.Count == 0)
        {
            throw new StepFailedException(
                "no-table",
                $"there is no table “{into.Table}” in “{into.Connection}”",
                "Create it with a sql step before this one, or say create: true."
            );
        }
        var unknown = wanted.Where(w => !there.Contains(w, StringComparer.OrdinalIgnoreCase)).ToList();
        if (unknown.Count == 0)
            return;
        var near = Nearest.Find(unknown[0], there);
        throw new StepFailedException(
            "columns",
            $"the table “{into.Table}” has no column {string.Join(", ", unknown.Select(u => $"“{u}”"))}"
                + $"{(near is null ? "" : $"; it has “{near}”")}",
            $"Its columns: {string.Join(", ", there)}"
        );
    }
}
