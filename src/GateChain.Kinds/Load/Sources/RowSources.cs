using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Sources;

/// <summary>Opens what the settings name.</summary>
static class RowSources
{
    /// <summary>The source.</summary>
    /// <exception cref="StepFailedException">There is none, or more than one, or it can't be opened.</exception>
    public static RowSource Open(LoadSettings settings, AttemptContext context, CancellationToken cancel)
    {
        var from = settings.From;
        var named = new[] { from.Csv, from.Jsonl, from.Parquet, from.Xlsx, from.Connection }.Count(n => n is not null);
        if (named != 1)
        {
            throw new StepFailedException(
                "setting",
                "“from” needs one of csv, jsonl, parquet, xlsx or connection, "
                    + $"and has {(named == 0 ? "none" : "several")}"
            );
        }
        var wanted = settings
            .Columns.SelectMany(c =>
                c.Value.Value is { } text ? RowComputer.Reads(RowComputer.Read(c.Key, text)) : [c.Value.From ?? c.Key]
            )
            .Distinct()
            .ToList();
        return from switch
        {
            { Csv: { } csv } => new CsvSource(csv, context.Resolve(csv), from.Delimiter),
            { Jsonl: { } jsonl } => new JsonLinesSource(jsonl, context.Resolve(jsonl), wanted),
            { Parquet: { } parquet } => new ParquetSource(parquet, context.Resolve(parquet)),
            { Xlsx: { } xlsx } => new XlsxSource(xlsx, context.Resolve(xlsx), from.Sheet),
            _ => Query(from, settings.Into.Connection, context, cancel),
        };
    }

    static QuerySource Query(LoadFrom from, string? into, AttemptContext context, CancellationToken cancel)
    {
        if (from.Table is null == from.Query is null)
            throw new StepFailedException("setting", "“from” with a connection needs either “table” or “query”");
        var text = from.Query is { } query
            ? context.Read(query)
                ?? throw new StepFailedException(
                    "no-file",
                    $"the attachment “{query.File}” is missing",
                    "Push the workspace with the file beside the chain."
                )
            : null;
        var session = Session.OpenForRows(from.Connection!, context, cancel);
        var what = from.Table is { } table ? $"{from.Connection}.{table}" : $"a query of {from.Connection}";
        var rows = text ?? $"SELECT * FROM {session.Dialect.QuoteTable(from.Table!)}";
        return new(what, session, rows, from.Bind, aside: session.Dialect is SqliteDialect && into == from.Connection);
    }
}
