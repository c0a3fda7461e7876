using System.Collections.Concurrent;
using GateChain.Storage.Sql;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// The lines of runs that are on disk in the journal's buffer, but not in their table yet. Changed by the writer behind
/// each transaction; read by everybody. Who reads looks here first and into the table then: a line that is sorted in
/// meanwhile is found in both.
/// </summary>
sealed class UnflushedRuns : IUnflushedRuns
{
    readonly ConcurrentDictionary<long, StoredRun> _heads = new(concurrencyLevel: 1, capacity: 1000);
    readonly List<(long Run, StoredRun? Stored)> _changes = [];

    public StoredRun? Find(long run) => _heads.GetValueOrDefault(run);

    /// <summary>All of them, as they are at this moment.</summary>
    public IReadOnlyCollection<StoredRun> All => _heads.IsEmpty ? [] : [.. _heads.Values];

    /// <summary>The transaction changes a line.</summary>
    public void Change(StoredRun stored) => _changes.Add((stored.Id, stored));

    /// <summary>The transaction puts a line into the table.</summary>
    public void Leave(long run) => _changes.Add((run, null));

    /// <summary>Somebody else has changed them; they are told again.</summary>
    public void LeaveAll()
    {
        foreach (var run in _heads.Keys)
            Leave(run);
    }

    /// <summary>The transaction is on disk.</summary>
    public void Committed()
    {
        foreach (var (run, stored) in _changes)
        {
            if (stored is null)
                _heads.TryRemove(run, out _);
            else
                _heads[run] = stored;
        }
        _changes.Clear();
    }

    /// <summary>The transaction was taken back.</summary>
    public void Forget() => _changes.Clear();
}
