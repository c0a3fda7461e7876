using System.Data.Common;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>
/// How far each consumer of the outbox has got. Told by the consumers, written by the writer when it writes anyway.
/// Thread-safe.
/// </summary>
sealed class OutboxCursors
{
    // A crash repeats so many rows at most; to write more often would cost every transaction something.
    const long Far = 200;

    readonly Lock _lock = new();
    readonly Dictionary<string, Cursor> _cursors = [];

    sealed class Cursor
    {
        public long Handled;
        public long Writing;
        public long Written;
    }

    /// <summary>Begins with what is in the table.</summary>
    /// <param name="stored">The position of each.</param>
    /// <param name="alone">Whether there are no others: those that were begun with before stay otherwise.</param>
    public void Begin(IEnumerable<KeyValuePair<string, long>> stored, bool alone)
    {
        lock (_lock)
        {
            if (alone)
                _cursors.Clear();
            foreach (var (consumer, position) in stored)
            {
                _cursors[consumer] = new()
                {
                    Handled = position,
                    Writing = position,
                    Written = position,
                };
            }
        }
    }

    /// <summary>A consumer has handled everything up to a position.</summary>
    public void Handled(string consumer, long position)
    {
        lock (_lock)
        {
            if (_cursors.TryGetValue(consumer, out var cursor))
                cursor.Handled = Math.Max(cursor.Handled, position);
        }
    }

    /// <summary>Whether a cursor is not written.</summary>
    public bool HaveMoved => AnyMoved(1);

    /// <summary>Whether one is so far behind what was handled that it is worth writing.</summary>
    public bool HaveMovedFar => AnyMoved(Far);

    bool AnyMoved(long by)
    {
        lock (_lock)
        {
            foreach (var cursor in _cursors.Values)
            {
                if (cursor.Handled - cursor.Written >= by)
                    return true;
            }
            return false;
        }
    }

    /// <summary>Writes them in the transaction that is continuing, and removes what everybody has handled.</summary>
    public async Task WriteAsync(DbConnection connection)
    {
        List<(string Consumer, long Position)> moved = [];
        lock (_lock)
        {
            foreach (var (consumer, cursor) in _cursors)
            {
                cursor.Writing = cursor.Handled;
                moved.Add((consumer, cursor.Writing));
            }
        }
        if (moved.Count == 0)
            return;
        await connection
            .ExecuteAsync(
                "UPDATE outbox_cursors SET position = @position WHERE consumer = @consumer AND position < @position",
                moved.Select(m => new { consumer = m.Consumer, position = m.Position })
            )
            .ConfigureAwait(false);
        await connection
            .ExecuteAsync("DELETE FROM outbox WHERE position <= (SELECT min(position) FROM outbox_cursors)")
            .ConfigureAwait(false);
    }

    /// <summary>The transaction is on disk.</summary>
    public void Committed()
    {
        lock (_lock)
        {
            foreach (var cursor in _cursors.Values)
                cursor.Written = cursor.Writing;
        }
    }
}
