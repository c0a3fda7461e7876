using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Load.Targets;

namespace GateChain.Kinds.Load;

/// <summary>Columns of a source that the target knows nothing of yet.</summary>
static class NewColumns
{
    /// <summary>Does what <c>into.new</c> says.</summary>
    /// <returns>The settings with the columns that are loaded, and the new ones.</returns>
    /// <exception cref="StepFailedException">There are some, and there may be none.</exception>
    public static (LoadSettings Settings, IReadOnlyList<string> Found) Settle(
        LoadSettings settings,
        RowSource source,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        if (settings.Into is not { New: { } rule, Connection: { } connection, Table: { } table })
            return (settings, []);
        using var session = Session.OpenForRows(connection, context, cancel);
        var there = session.ColumnsOf(table);
        // It is created with all of them, or it is told that it is missing.
        if (there.Count == 0)
            return (settings, []);
        var read = settings.Columns.SelectMany(c => Reads(c.Key, c.Value)).ToHashSet();
        var found = source
            .Names.Where(n => !read.Contains(n) && !there.Contains(n, StringComparer.OrdinalIgnoreCase))
            .ToList();
        if (found.Count > 0)
            context.Log.Note($"new in {source.What}: {string.Join(", ", found)} ({Told(rule)})");
        if (found.Count > 0 && rule == LoadNew.Fail)
        {
            throw new StepFailedException(
                "new-columns",
                $"{source.What} has {(found.Count == 1 ? "a column" : "columns")} that {table} does not have: "
                    + string.Join(", ", found),
                "Nothing was loaded. Add them to the table or name them under “columns”, or say new: ignore or add."
            );
        }
        string[] added = rule == LoadNew.Add ? [.. found] : [];
        var loaded = settings with { Columns = Loaded(settings.Columns, source, there, added) };
        if (added.Length > 0)
            Add(session, table, new(loaded, source), added);
        return (loaded, found);
    }

    /// <summary>The columns of the source that a column is made from.</summary>
    public static IEnumerable<string> Reads(string name, LoadColumn column) =>
        column.Value is { } text ? RowComputer.Reads(RowComputer.Read(name, text)) : [column.From ?? name];

    static string Told(LoadNew rule) =>
        rule switch
        {
            LoadNew.Add => "added to the table",
            LoadNew.Ignore => "left out",
            _ => "refused",
        };

    static Dictionary<string, LoadColumn> Loaded(
        IReadOnlyDictionary<string, LoadColumn> said,
        RowSource source,
        IReadOnlyList<string> there,
        string[] added
    )
    {
        var loaded =
            said.Count > 0
                ? new Dictionary<string, LoadColumn>(said)
                : source
                    .Names.Where(n => there.Contains(n, StringComparer.OrdinalIgnoreCase))
                    .Distinct()
                    .ToDictionary(n => n, _ => new LoadColumn());
        foreach (var name in added)
            loaded.TryAdd(name, new());
        return loaded;
    }

    // Outside of the load's transaction: in some databases a change of tables would end it.
    static void Add(Session session, string table, TargetColumns columns, string[] added)
    {
        var dialect = session.Dialect;
        foreach (var name in added)
        {
            session.Execute(
                null,
                $"ALTER TABLE {dialect.QuoteTable(table)} ADD {dialect.Quote(name)} "
                    + columns.TypeIn(dialect, name, isKey: false)
            );
        }
    }
}
