namespace GateChain.Storage;

/// <summary>What a chain keeps from run to run, under one profile.</summary>
/// <param name="Chain">The chain.</param>
/// <param name="Profile">The profile of its runs; empty for those without a name.</param>
/// <param name="Version">Grows with every change, from 1.</param>
/// <param name="Values">The values by name, as a JSON object.</param>
public sealed record KeptSet(string Chain, string Profile, long Version, string Values)
{
    /// <summary>The run whose end they are of; null when a person set them.</summary>
    public long? Run { get; init; }

    /// <summary>Who set them; null for a run.</summary>
    public string? By { get; init; }

    /// <summary>When.</summary>
    public DateTimeOffset At { get; init; }
}

/// <summary>How far a step has got in what it reads.</summary>
/// <param name="Chain">The chain.</param>
/// <param name="Profile">The profile of its runs; empty for those without a name.</param>
/// <param name="Name">The name that it is kept under.</param>
/// <param name="Content">The value, as JSON.</param>
public sealed record KeptPosition(string Chain, string Profile, string Name, string Content)
{
    /// <summary>The run that got there; null when a person set it.</summary>
    public long? Run { get; init; }

    /// <summary>The step's path in that run; null when a person set it.</summary>
    public string? Step { get; init; }

    /// <summary>Who set it; null for a run.</summary>
    public string? By { get; init; }

    /// <summary>When.</summary>
    public DateTimeOffset At { get; init; }
}

/// <summary>
/// What chains keep from run to run. Values come with the decisions of runs (<see cref="AppendExtras"/>), or from a
/// person. Thread-safe.
/// </summary>
public interface IKeptValues
{
    /// <summary>What a chain keeps under a profile; null for nothing.</summary>
    ValueTask<KeptSet?> FindAsync(string chain, string profile);

    /// <summary>What a chain keeps, by profile.</summary>
    ValueTask<IReadOnlyList<KeptSet>> ListAsync(string chain);

    /// <summary>Sets values.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetAsync(KeptSet set, AuditLine audit);

    /// <summary>How far steps of a chain have got in what they read, by profile and name.</summary>
    ValueTask<IReadOnlyList<KeptPosition>> PositionsAsync(string chain);

    /// <summary>One of them; null for none.</summary>
    ValueTask<KeptPosition?> FindPositionAsync(string chain, string profile, string name);

    /// <summary>Sets one.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetPositionAsync(KeptPosition position, AuditLine audit);

    /// <summary>Forgets one: what goes by it begins at the start.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task ForgetPositionAsync(string chain, string profile, string name, AuditLine audit);
}
