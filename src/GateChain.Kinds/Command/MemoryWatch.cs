namespace GateChain.Kinds.Command;

/// <summary>
/// Ends a process group that uses too much memory. It looks four times a second, so a short peak may pass unseen.
/// </summary>
sealed class MemoryWatch : IDisposable
{
    static readonly TimeSpan Pace = TimeSpan.FromMilliseconds(250);

    readonly ITimer _timer;

    /// <param name="leader">The group's leader.</param>
    /// <param name="most">The most resident bytes of all its processes together.</param>
    public MemoryWatch(int leader, long most, TimeProvider time) =>
        _timer = time.CreateTimer(
            _ =>
            {
                if (Exceeded is not null || ProcessGroup.MemoryOf(leader) is var used && used <= most)
                    return;
                Exceeded = used;
                ProcessGroup.Kill(leader);
            },
            null,
            Pace,
            Pace
        );

    /// <summary>How much it used when it was ended for that; null when it was not.</summary>
    public long? Exceeded { get; private set; }

    public void Dispose() => _timer.Dispose();
}
