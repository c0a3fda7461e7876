using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// Brings rows into a table or its stage, and finds among many the one that the database refuses. Used by one thread.
/// </summary>
/// <param name="session">Where it is.</param>
/// <param name="table">The table's name as statements have it.</param>
/// <param name="columns">Its columns.</param>
/// <param name="lines">The name of a further column that takes the line of each row; null for none.</param>
/// <param name="fields">The source's fields of a row, for rejects.</param>
sealed class TableRows(
    Session session,
    string table,
    IReadOnlyList<string> columns,
    string? lines,
    Func<object?[], string?[]> fields
) : IDisposable
{
    readonly object?[] _withLine = new object?[columns.Count + 1];
    readonly IBulkWriter? _bulk = session.Bulk(table, lines is null ? columns : [.. columns, lines]);
    IRowWriter? _writer;
    int _batches,
        _slow;
    string? _why;

    /// <summary>Whether the database's own way was taken, in a sentence; null where nobody asked for it.</summary>
    public string? Ways =>
        _bulk is null || _batches == 0 ? null
        : _slow == 0 ? "the server's own way for many rows was taken"
        : $"the server's own way for many rows was taken for {_batches - _slow:N0} of {_batches:N0} "
            + $"batches; the first that it was not for: {_why}";

    /// <summary>
    /// Writes rows into a transaction, the database's own way for many where there is one and it takes all of them just
    /// so. When they are refused they are halved down to the row that is to blame, as long as there may be more
    /// rejects.
    /// </summary>
    public void Write(OpenTransaction transaction, RowBatch rows, Rejects rejects)
    {
        if (_bulk is not null && rows.Count > 0)
        {
            _batches++;
            if (
                transaction.Try(() =>
                    _bulk.Write(transaction.Current, Enumerable.Range(0, rows.Count).Select(i => RowOf(rows, i)))
                )
                is not { } refusal
            )
            {
                return;
            }
            _slow++;
            _why ??= refusal.Reason;
        }
        Write(transaction, rows, 0, rows.Count, rejects);
    }

    void Write(OpenTransaction transaction, RowBatch rows, int from, int count, Rejects rejects)
    {
        if (count == 0 || rejects.Over)
            return;
        var refusal = transaction.Try(() =>
        {
            _writer ??= session.Writer(transaction.Current, table, lines is null ? columns : [.. columns, lines]);
            for (var i = from; i < from + count; i++)
                _writer.Add(RowOf(rows, i));
            _writer.Complete();
        });
        // Without savepoints a transaction has ended, and the way in with it.
        if (!session.Dialect.HasSavepoints)
            End();
        if (refusal is null)
            return;
        _writer?.Forget();
        if (count == 1)
        {
            rejects.Refuse(rows.Line(from), Told(refusal, rows.Row(from)), fields(rows.Row(from)));
            return;
        }
        // Where the database tells which row it was: first those before it, then it alone.
        var first = refusal.Nth is { } nth && nth <= count ? Math.Max(1, nth - 1) : count / 2;
        Write(transaction, rows, from, first, rejects);
        Write(transaction, rows, from + first, count - first, rejects);
    }

    object?[] RowOf(RowBatch rows, int at)
    {
        if (lines is null)
            return rows.Row(at);
        rows.Row(at).CopyTo(_withLine, 0);
        _withLine[^1] = rows.Line(at);
        return _withLine;
    }

    /// <summary>Why a row was refused, with the value that stands in the column that the database names.</summary>
    public Reject Told(RowRefusal refusal, object?[] row)
    {
        var at = refusal.Column is null
            ? -1
            : columns.ToList().FindIndex(c => c.Equals(refusal.Column, StringComparison.OrdinalIgnoreCase));
        return at < 0
            ? new(refusal.Reason)
            : new($"{columns[at]}: {refusal.Reason}", columns[at], Shorten.Text(Cells.Text(row[at]), 200));
    }

    /// <summary>Releases the way in; it belongs to a transaction.</summary>
    public void End()
    {
        _writer?.Dispose();
        _writer = null;
    }

    public void Dispose() => End();
}
