using GateChain.Core.Identity;

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
/// <param name="Late">Whether it took or takes longer than its chain's <c>dueIn</c>.</param>
/// <param name="ResumeAt">When it is resumed by itself; null for not.</param>
/// <param name="Parent">The call it is a child of; null for none.</param>
/// <param name="Origin">Why there is the run, in a word; null for runs of the first versions.</param>
/// <param name="OriginKey">Names the occasion; there is one run for it at most. Null when it can't be told
/// apart.</param>
/// <param name="Area">The folder that its chain lay in when it began.</param>
/// <param name="Trigger">The trigger whose fire started it; null for none.</param>
public sealed record StoredRun(
    long Id,
    string Chain,
    string Release,
    string State,
    int Leg,
    Actor By,
    DateTimeOffset Started,
    DateTimeOffset? Ended,
    string Params,
    string? Error,
    bool Late = false,
    DateTimeOffset? ResumeAt = null,
    ParentCall? Parent = null,
    string? Origin = null,
    string? OriginKey = null,
    Area Area = default,
    string? Trigger = null
);

/// <param name="Run">The calling run.</param>
/// <param name="Step">The path of its call step.</param>
/// <param name="Attempt">The number of the call's attempt among all attempts of its run.</param>
public sealed record ParentCall(long Run, string Step, int Attempt);

/// <summary>
/// Which runs there are. A run is registered with its first journal row, in the same transaction. Thread-safe.
/// </summary>
public interface IRunStore
{
    /// <summary>
    /// A number for a new run; a number whose run never got to the journal is given again after a restart.
    /// </summary>
    ValueTask<long> NextIdAsync();

    /// <summary>A run's line; null when there is no such run.</summary>
    ValueTask<StoredRun?> FindAsync(long run);

    /// <summary>The lines of some runs, by number; those that are not there are left out.</summary>
    ValueTask<IReadOnlyDictionary<long, StoredRun>> FindAsync(IReadOnlyCollection<long> runs);

    /// <summary>The run that was started for an occasion; null when it never got there.</summary>
    /// <param name="key">The key of a <see cref="RunOrigin"/>.</param>
    ValueTask<StoredRun?> FindByOriginAsync(string key);

    /// <summary>Newest first.</summary>
    /// <param name="query">What to list.</param>
    ValueTask<IReadOnlyList<StoredRun>> ListAsync(RunQuery query);

    /// <summary>The newest runs of each of some chains, newest first, in one question.</summary>
    /// <param name="chains">Names; one without runs has an empty list.</param>
    /// <param name="each">How many of each at most, 1 to 500.</param>
    ValueTask<IReadOnlyDictionary<string, IReadOnlyList<StoredRun>>> NewestAsync(IEnumerable<string> chains, int each);
}

/// <param name="Chain">Only runs of this chain.</param>
/// <param name="State">Only runs in this state.</param>
/// <param name="Parent">Only children of this run.</param>
/// <param name="Before">Only runs with a smaller number: the next page.</param>
/// <param name="Limit">At most so many, 1 to 500.</param>
/// <param name="Trigger">Only runs that this trigger started.</param>
/// <param name="From">Only runs that began then or later.</param>
/// <param name="To">Only runs that began before.</param>
/// <param name="Text">Only runs in whose parameters this stands, whatever the case of letters.</param>
public sealed record RunQuery(
    string? Chain = null,
    string? State = null,
    long? Before = null,
    int Limit = 50,
    long? Parent = null,
    string? Trigger = null,
    DateTimeOffset? From = null,
    DateTimeOffset? To = null,
    string? Text = null
)
{
    /// <summary>Only runs in these areas and below; null for all.</summary>
    public IReadOnlyList<Area>? Areas { get; init; }
}
