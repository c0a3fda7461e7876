using System.Data.Common;
using GateChain.Core.Expressions;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Modes;

namespace GateChain.Kinds.Load.Targets;

/// <summary>Opens a table as a target: checks it or creates it, and chooses the way rows go there.</summary>
static class TableTargets
{
    /// <summary>The target.</summary>
    /// <param name="fields">The source's fields of a row.</param>
    /// <exception cref="StepFailedException">It is not there, or lacks a column, or can't be reached.</exception>
    public static TableTarget Open(
        LoadSettings settings,
        TargetColumns columns,
        Func<object?[], string?[]> fields,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var into = settings.Into;
        if (into.Table is not { } table)
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
            var there = session.ColumnsOf(table);
            if (there.Count == 0 && into.Create)
                there = Create(session, into, columns, context);
            Check(into, there, columns.Names);
            var stage = new StageTable(session, table, columns.Names, context.WorkKey.ToString());
            var parts = new ModeParts(
                session,
                into,
                stage,
                session.Dialect.QuoteTable(table),
                columns.Names,
                there,
                context
            );
            var staged = WhyStaged(settings, session);
            context.Log.Note(
                staged is null
                    ? $"rows go straight into {table}, in one transaction"
                    : $"rows gather in a stage beside {table}: {staged}"
            );
            return staged is null ? new DirectTarget(parts, fields) : new StagedTarget(parts, fields);
        }
        catch
        {
            session.Dispose();
            throw;
        }
    }

    // Gives the columns of the table that is there then.
    static IReadOnlyList<string> Create(Session session, LoadInto into, TargetColumns columns, AttemptContext context)
    {
        var dialect = session.Dialect;
        var made = columns
            .Names.Select(name => $"{dialect.Quote(name)} {columns.TypeIn(dialect, name, into.Key.Contains(name))}")
            .Concat(OfMode(into, dialect));
        var key = into.Mode == LoadMode.History ? [.. into.Key, into.History.From] : into.Key;
        var keys = key.Count == 0 ? "" : $", PRIMARY KEY ({string.Join(", ", key.Select(dialect.Quote))})";
        // Another load may just be creating it too: then it is there, and taken as it is.
        try
        {
            session.Execute(
                null,
                $"CREATE TABLE {dialect.QuoteTable(into.Table!)} ({string.Join(", ", made)}{keys})"
                    + dialect.TableOptions
            );
            context.Log.Note($"the table {into.Table} was created");
            return session.ColumnsOf(into.Table!);
        }
        catch (DbException) when (session.ColumnsOf(into.Table!) is { Count: > 0 } there)
        {
            return there;
        }
    }

    // Those that the mode fills itself.
    static IEnumerable<string> OfMode(LoadInto into, Dialect dialect)
    {
        var time = dialect.TypeOf(ColumnType.Timestamp, isKey: false);
        return into switch
        {
            { Mode: LoadMode.History, History: var span } =>
            [
                $"{dialect.Quote(span.From)} {time} NOT NULL",
                $"{dialect.Quote(span.To)} {time} NULL",
                $"{dialect.Quote(span.Current)} {dialect.TypeOf(ColumnType.Bool, isKey: false)} NOT NULL",
            ],
            { Mode: LoadMode.Mirror, GoneColumn: { } gone } => [$"{dialect.Quote(gone)} {time} NULL"],
            _ => [],
        };
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
        string[] ofMode = into switch
        {
            { Mode: LoadMode.History, History: var span } => [span.From, span.To],
            { Mode: LoadMode.Mirror, GoneColumn: { } gone } => [gone],
            _ => [],
        };
        var unknown = wanted.Concat(ofMode).Where(w => !there.Contains(w, StringComparer.OrdinalIgnoreCase)).ToList();
        if (unknown.Count > 0)
        {
            var near = Nearest.Find(unknown[0], there);
            throw new StepFailedException(
                "columns",
                $"the table “{into.Table}” has no column {string.Join(", ", unknown.Select(u => $"“{u}”"))}"
                    + $"{(near is null ? "" : $"; it has “{near}”")}",
                $"Its columns: {string.Join(", ", there)}"
            );
        }
        var lacking = into.Key.FirstOrDefault(k =>
            into.IsByKey && !wanted.Contains(k, StringComparer.OrdinalIgnoreCase)
        );
        if (lacking is not null)
        {
            throw new StepFailedException(
                "setting",
                $"the key “{lacking}” is not one of the columns that the load fills",
                $"It fills: {string.Join(", ", wanted)}"
            );
        }
    }
}
