namespace GateChain.Storage;

/// <summary>A run's line in lists.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Chain">The chain's name.</param>
/// <param name="Release">The content hash of the chain it follows.</param>
/// <param name="State">Outcome or state, a word of the vocabulary.</param>
/// <param name="Leg">The number of its latest leg.</param>
/// <param name="By">Who started it.</param>
/// <param name="Params">Its parameters as JSON.</param>
/// <param name="Error">Why it failed.</param>
public sealed record RunHead(long Id, string Chain, string Release, string State, int Leg, string By, DateTimeOffset Started, DateTimeOffset? Ended, string Params, string? Error);

/// <summary>Which runs there are, and who owns them. Thread-safe.</summary>
public interface IRunRegister
{
    /// <summary>A number for a new run. The run is registered with its first journal row, in the same transaction; a number whose run never got there is given again after a restart.</summary>
    long NextId();

    /// <summary>Makes this node the owner of every run that has not ended, under a higher epoch. Gives them.</summary>
    Task<IReadOnlyList<(RunHead Head, long Epoch)>> TakeOverAsync();

    /// <summary>Makes this node the owner of one run, whatever its state. Gives its new epoch.</summary>
    Task<long> TakeOverAsync(long run);

    RunHead? Find(long run);

    /// <summary>Newest first.</summary>
    /// <param name="query">What to list.</param>
    IReadOnlyList<RunHead> List(RunQuery query);
}

/// <param name="Chain">Only runs of this chain.</param>
/// <param name="State">Only runs in this state.</param>
/// <param name="Before">Only runs with a smaller number: the next page.</param>
/// <param name="Limit">At most so many, 1 to 500.</param>
public sealed record RunQuery(string? Chain = null, string? State = null, long? Before = null, int Limit = 50);
