namespace GateChain.Storage.Postgres;

/// <summary>
/// What a writer has written last of runs: as long as the epoch in a run's line is the one it wrote with, nobody else
/// has written, and it need not look. Used by one writer at a time.
/// </summary>
sealed class KnownRuns
{
    // Those of many more runs than are going are forgotten all at once, and looked up again.
    const int Most = 100_000;

    readonly Dictionary<long, (long Epoch, long LastSeq)> _runs = [];

    /// <summary>Fills in the number of the last row of a run, where it is known for its epoch.</summary>
    public bool Fill(long run, RunOwner owner)
    {
        if (!_runs.TryGetValue(run, out var known) || known.Epoch != owner.Epoch)
            return false;
        owner.LastSeq = known.LastSeq;
        return true;
    }

    /// <summary>Remembers what a transaction that is on disk has left.</summary>
    public void Keep(Dictionary<long, RunOwner> owners)
    {
        if (_runs.Count > Most)
            _runs.Clear();
        foreach (var (run, owner) in owners)
        {
            if (owner.Stored?.Ended is null)
                _runs[run] = (owner.Epoch, owner.LastSeq);
            else
                _runs.Remove(run);
        }
    }

    /// <summary>After trouble nothing is sure.</summary>
    public void Forget() => _runs.Clear();
}
