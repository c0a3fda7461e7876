using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Load.Sources;

/// <summary>Opens what the settings name.</summary>
static class RowSources
{
    /// <summary>The source.</summary>
    /// <exception cref="StepFailedException">There is none, or more than one, or it can't be opened.</exception>
    public static RowSource Open(LoadSettings settings, AttemptContext context, CancellationToken cancel)
    {
        var from = settings.From;
        string?[] places =
        [
            from.Csv,
            from.Fixed,
            from.Jsonl,
            from.Json,
            from.Xml,
            from.Parquet,
            from.Xlsx,
            from.Connection,
        ];
        var named = places.Count(n => n is not null);
        if (named != 1)
        {
            throw new StepFailedException(
                "setting",
                "“from” needs one of csv, fixed, jsonl, json, xml, parquet, xlsx or connection, "
                    + $"and has {(named == 0 ? "none" : "several")}"
            );
        }
        // What is new is found only where all names are asked for.
        List<string> wanted = settings.Into.New is null
            ? [.. settings.Columns.SelectMany(c => NewColumns.Reads(c.Key, c.Value)).Distinct()]
            : [];
        return from.Connection is null
            ? CleanSource.Of(Files(from, wanted, context, cancel), from.Text)
            : Query(from, settings.Into, context, cancel);
    }

    static RowSource Files(
        LoadFrom from,
        IReadOnlyList<string> wanted,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var path = from.Csv ?? from.Fixed ?? from.Jsonl ?? from.Json ?? from.Xml ?? from.Parquet ?? from.Xlsx!;
        // The name of the file is no column of it.
        var inIt = from.FileColumn is { } column ? [.. wanted.Where(w => w != column)] : wanted;
        if (from.Server is { } server)
        {
            var fetched = FetchedFiles.Fetch(server, path, context, cancel);
            return fetched is [var only] && from.FileColumn is null
                ? OpenOne(only.Name, only.Path)
                : new FilesSource(path, [.. fetched], from.FileColumn, OpenOne);
        }
        if (!NamePattern.Is(path))
        {
            return from.FileColumn is null
                ? OpenOne(path, context.Resolve(path))
                : new FilesSource(path, [(path, context.Resolve(path))], from.FileColumn, OpenOne);
        }
        var found = FilePattern.Match(context.Folders, context.WorkFolder, path, cancel);
        if (found.Count == 0)
        {
            throw new StepFailedException(
                "no-file",
                $"no file is named like {path}",
                "Put one there and resume the run. A guard with a file probe waits for files."
            );
        }
        context.Log.Note($"{found.Count} file{(found.Count == 1 ? "" : "s")} like {path}");
        return new FilesSource(
            path,
            [.. found.Select(f => (Path.GetRelativePath(context.WorkFolder, f.FullName), f.FullName))],
            from.FileColumn,
            OpenOne
        );

        RowSource OpenOne(string name, string full) => OpenFile(new(name, full, from), inIt);
    }

    /// <summary>A single file.</summary>
    /// <param name="open">It, and how it is read.</param>
    /// <param name="wanted">The names that are asked for, where rows may have any; none for all.</param>
    /// <exception cref="StepFailedException">It can't be opened.</exception>
    public static RowSource OpenFile(OpenText open, IReadOnlyList<string> wanted) =>
        open.From switch
        {
            { Csv: not null } => new CsvSource(open),
            { Fixed: not null } => new FixedSource(open),
            { Jsonl: not null } => new JsonLinesSource(open, wanted),
            { Json: not null } => new JsonSource(open, wanted),
            { Xml: not null } => new XmlSource(open, wanted),
            { Parquet: not null } => new ParquetSource(open.Name, open.Path),
            _ => new XlsxSource(open.Name, open.Path, open.From.Sheet),
        };

    static QuerySource Query(LoadFrom from, LoadInto into, AttemptContext context, CancellationToken cancel)
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
        var position = Position.Of(from, into, context);
        var session = Session.OpenForRows(from.Connection!, context, cancel);
        var what = from.Table is { } table ? $"{from.Connection}.{table}" : $"a query of {from.Connection}";
        var rows = text ?? $"SELECT * FROM {session.Dialect.QuoteTable(from.Table!)}";
        return new(
            what,
            session,
            rows,
            from.Bind,
            aside: session.Dialect is SqliteDialect && into.Connection == from.Connection,
            position
        );
    }
}
