namespace GateChain.Storage.Postgres;

/// <summary>
/// What a writer knows of runs: their epoch, and what it has written last. It counts as long as no run of its service
/// was claimed since; then it looks again. Used by one writer at a time.
/// </summary>
sealed class KnownRuns
{
    // Those of many more runs than are going are forgotten all at once, and looked up again.
    const int Most = 100_000;

    readonly Dictionary<long, (long Epoch, long LastSeq)> _runs = [];

    /// <summary>How often runs of the service had been claimed when it looked last; -1 before.</summary>
    public long Taken { get; private set; } = -1;

    /// <summary>Whether a run is known.</summary>
    public bool Has(long run) => _runs.ContainsKey(run);

    /// <summary>What is known of a run; null for nothing.</summary>
    public (long Epoch, long LastSeq)? Find(long run) => _runs.TryGetValue(run, out var known) ? known : null;

    /// <summary>Whether it still counts. If not, it is forgotten.</summary>
    /// <param name="taken">How often runs of the service were claimed.</param>
    public bool IsAsOf(long taken)
    {
        if (taken == Taken)
            return true;
        Taken = taken;
        _runs.Clear();
        return false;
    }

    /// <summary>Takes in what was looked up.</summary>
    public void Put(long run, long epoch, long lastSeq) => _runs[run] = (epoch, lastSeq);

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
    public void Forget()
    {
        Taken = -1;
        _runs.Clear();
    }
}
