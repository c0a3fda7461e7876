using System.Data.Common;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load;

namespace GateChain.Kinds.Check;

/// <summary>
/// The table of rows that do not pass. They are held until all are known, and written in one transaction in place of
/// those of an earlier attempt at the same work. Used by one thread.
/// </summary>
sealed class FailingTable(FailingRows into, AttemptContext context, CancellationToken cancel)
{
    /// <summary>Rows that are held; the file has all of them.</summary>
    public const int Most = 100_000;

    static readonly (string Name, ColumnType Type)[] Columns =
    [
        ("work", ColumnType.String),
        ("run", ColumnType.Int),
        ("step", ColumnType.String),
        ("check_name", ColumnType.String),
        ("source", ColumnType.String),
        ("line", ColumnType.Int),
        ("column_name", ColumnType.String),
        ("value", ColumnType.String),
        ("reason", ColumnType.String),
        ("fields", ColumnType.String),
    ];

    readonly List<object?[]> _rows = [];
    long _left;

    public void Add(
        string check,
        string source,
        long line,
        Reject wrong,
        IReadOnlyList<string> names,
        IEnumerable<string?> fields
    )
    {
        if (_rows.Count == Most)
        {
            _left++;
            return;
        }
        var content = DictionaryMap.Of(
            names.Zip(fields, (n, f) => KeyValuePair.Create(n, f is null ? Value.Null : Value.String(f)))
        );
        _rows.Add([
            context.WorkKey.ToString(),
            context.Run,
            context.Step,
            check,
            source,
            line,
            wrong.Column,
            wrong.Value,
            wrong.Reason,
            ValueJson.ToText(Value.Map(content), plain: true),
        ]);
    }

    /// <summary>Brings them into the table, which is made when it is not there.</summary>
    /// <exception cref="StepFailedException">The database refuses them.</exception>
    public void Write()
    {
        try
        {
            Bring();
        }
        catch (Exception e) when (!cancel.IsCancellationRequested && Dialects.Error(e, into.Connection) is { } known)
        {
            throw new StepFailedException(known);
        }
    }

    void Bring()
    {
        using var session = Session.OpenForRows(into.Connection, context, cancel);
        Make(session);
        var table = session.Dialect.QuoteTable(into.Table);
        using var transaction = session.Begin();
        session.Execute(
            transaction,
            $"DELETE FROM {table} WHERE {session.Dialect.Quote("work")} = $work",
            ("work", context.WorkKey.ToString())
        );
        if (_rows.Count > 0)
        {
            using var writer = session.Writer(transaction, table, [.. Columns.Select(c => c.Name)]);
            foreach (var row in _rows)
                writer.Add(row);
            writer.Complete();
        }
        transaction.Commit();
        context.Log.Note(
            $"{_rows.Count:N0} rows that do not pass stand in {into.Table}"
                + (_left == 0 ? "" : $"; {_left:N0} more were too many for it")
        );
    }

    void Make(Session session)
    {
        if (session.ColumnsOf(into.Table) is { Count: > 0 } there)
        {
            if (Columns.FirstOrDefault(c => !there.Contains(c.Name, StringComparer.OrdinalIgnoreCase)).Name is { } gone)
            {
                throw new StepFailedException(
                    "setting",
                    $"the table “{into.Table}” has no column “{gone}”",
                    "Name a table that is not there yet: it is made with the columns that are needed."
                );
            }
            return;
        }
        var dialect = session.Dialect;
        var columns = Columns.Select(c => $"{dialect.Quote(c.Name)} {dialect.TypeOf(c.Type, isKey: c.Name == "work")}");
        // Another step may just be making it too.
        try
        {
            session.Execute(
                null,
                $"CREATE TABLE {dialect.QuoteTable(into.Table)} ({string.Join(", ", columns)}){dialect.TableOptions}"
            );
        }
        catch (DbException) when (session.ColumnsOf(into.Table).Count > 0) { }
    }
}
