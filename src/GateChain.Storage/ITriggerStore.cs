namespace GateChain.Storage;

/// <summary>What became of an occasion of a trigger.</summary>
public enum FireFate
{
    /// <summary>It started a run.</summary>
    Started,

    /// <summary>It was passed over: nothing was to be done.</summary>
    PassedOver,

    /// <summary>It could not start a run.</summary>
    Refused,

    /// <summary>It is none: no run had begun by when one had to be through.</summary>
    Late,
}

/// <summary>An occasion of a trigger, to be written down.</summary>
/// <param name="Trigger">The trigger's name.</param>
/// <param name="At">The moment.</param>
/// <param name="Key">Names it among the fires of its trigger.</param>
/// <param name="Event">What happened, as JSON.</param>
/// <param name="Fate">What became of it.</param>
/// <param name="Why">Why it was passed over or refused, in a sentence; null when it started a run.</param>
public sealed record NewFire(string Trigger, DateTimeOffset At, string Key, string Event, FireFate Fate, string? Why)
{
    /// <summary>
    /// What it takes for good: of several fires with one of these only the first is written. Its own key where it has
    /// no <see cref="Mark"/>, the files that it gathers.
    /// </summary>
    public IReadOnlyList<string> Takes { get; init; } = [];

    /// <summary>
    /// For due times: the trigger's mark moves up to here. A fire that is not above the mark is not written.
    /// </summary>
    public DateTimeOffset? Mark { get; init; }

    /// <summary>What the trigger remembers from here on; null leaves that as it is.</summary>
    public string? Memory { get; init; }

    /// <summary>The backfill that it is one of; null for none.</summary>
    public long? Backfill { get; init; }

    /// <summary>The chain that it was to start: a refused fire is news of it.</summary>
    public string Chain { get; init; } = "";
}

/// <summary>An occasion of a trigger as it is on disk.</summary>
/// <param name="Number">Grows with every fire, from 1.</param>
/// <param name="Said">What is written of it.</param>
/// <param name="Run">The run that it started; null for none.</param>
public sealed record StoredFire(long Number, NewFire Said, long? Run);

/// <summary>What is kept of a trigger beside its definition. It outlives edits and removal.</summary>
/// <param name="Name">The trigger's name.</param>
/// <param name="IsOn">Whether it is on.</param>
/// <param name="FileSays">What the file said last: only a change of it switches the trigger.</param>
/// <param name="Since">Due times up to here do not count.</param>
public sealed record TriggerState(string Name, bool IsOn, bool FileSays, DateTimeOffset Since)
{
    /// <summary>Who switched it last; null when only the file did.</summary>
    public string? By { get; init; }

    /// <summary>When that was.</summary>
    public DateTimeOffset? Switched { get; init; }

    /// <summary>The newest due time that was dealt with.</summary>
    public DateTimeOffset? Mark { get; init; }

    /// <summary>What of its definition decides which occasions it has.</summary>
    public string Text { get; init; } = "";

    /// <summary>What it remembers: of a watch what was seen last, of an arrival the path it was armed for.</summary>
    public string? Memory { get; init; }
}

/// <summary>Nothing starts by itself.</summary>
/// <param name="Area">The folder for which that holds, and for what lies below; empty for all.</param>
/// <param name="By">Who said so.</param>
/// <param name="At">When.</param>
/// <param name="Why">Why, in a sentence; null when nobody said.</param>
public sealed record Hold(string Area, string By, DateTimeOffset At, string? Why);

/// <param name="Trigger">Only fires of this one.</param>
/// <param name="Fate">Only those that this became of.</param>
/// <param name="Since">Only those from here on.</param>
/// <param name="Run">Only the one that started this run.</param>
/// <param name="Backfill">Only those of this backfill.</param>
/// <param name="Before">Only those with a smaller number: the next page.</param>
/// <param name="Limit">At most so many, 1 to 1,000.</param>
public sealed record FireQuery(
    string? Trigger = null,
    FireFate? Fate = null,
    DateTimeOffset? Since = null,
    long? Run = null,
    long? Backfill = null,
    long? Before = null,
    int Limit = 50
)
{
    /// <summary>Only those of these triggers; null for all.</summary>
    public IReadOnlyList<string>? Triggers { get; init; }
}

/// <summary>
/// What is known of triggers: which occasions there were, and which were taken. A fire that starts a run is written
/// with the run's first decision (<see cref="AppendExtras.Fire"/>); the others here. Thread-safe.
/// </summary>
public interface ITriggerStore
{
    /// <summary>What is kept of all triggers, those that are removed among them.</summary>
    ValueTask<IReadOnlyList<TriggerState>> StatesAsync();

    /// <summary>Keeps what is known of a trigger. Its mark is only ever moved up.</summary>
    /// <param name="state">What is kept.</param>
    /// <param name="audit">Who changed it; null when nobody did.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SaveAsync(TriggerState state, AuditLine? audit = null);

    /// <summary>Carries state and keys of a trigger over to another name, when that has none yet.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task RenameAsync(string from, string to);

    /// <summary>Writes down a fire that starts no run.</summary>
    /// <returns>Its number; null when its occasion was taken already, and nothing was written.</returns>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<long?> RecordAsync(NewFire fire, AuditLine? audit = null);

    /// <summary>Newest first.</summary>
    ValueTask<IReadOnlyList<StoredFire>> ListAsync(FireQuery query);

    /// <summary>A fire by its number; null when there is none.</summary>
    ValueTask<StoredFire?> FindAsync(long number);

    /// <summary>The fire that has taken a key; null when the key is free, or the fire is gone.</summary>
    ValueTask<StoredFire?> FindAsync(string trigger, string key);

    /// <summary>The keys that begin so and whose fires have started runs, with these.</summary>
    ValueTask<IReadOnlyList<(string Key, long Run)>> StartedAsync(string trigger, string beginning);

    /// <summary>Those of some keys that are taken.</summary>
    ValueTask<IReadOnlySet<string>> TakenAsync(string trigger, IReadOnlyCollection<string> keys);

    /// <summary>All keys of a trigger that are taken: for files, which are kept as long as the file is there.</summary>
    ValueTask<IReadOnlyList<string>> KeysAsync(string trigger);

    /// <summary>Takes keys without a fire, and gives others back.</summary>
    /// <param name="trigger">The trigger.</param>
    /// <param name="take">Keys that count as taken from here on.</param>
    /// <param name="release">Keys that are free again.</param>
    /// <param name="memory">What the trigger remembers from here on; null leaves that as it is.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task ChangeKeysAsync(
        string trigger,
        IReadOnlyCollection<string> take,
        IReadOnlyCollection<string> release,
        string? memory = null
    );

    /// <summary>What a trigger remembers from here on, without a fire.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task RememberAsync(string trigger, string memory);

    /// <summary>Forgets what is old enough.</summary>
    /// <param name="fires">Fires before this moment.</param>
    /// <param name="keys">Keys of calls before this moment.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task ForgetAsync(DateTimeOffset fires, DateTimeOffset keys);

    /// <summary>Where nothing starts by itself.</summary>
    ValueTask<IReadOnlyList<Hold>> HoldsAsync();

    /// <summary>Says that nothing starts by itself in a folder, or that it does again.</summary>
    /// <param name="area">The folder.</param>
    /// <param name="hold">What holds from here on; null for nothing.</param>
    /// <param name="audit">Who says so.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetHoldAsync(string area, Hold? hold, AuditLine audit);

    /// <summary>Where the data were used last; null when they never were.</summary>
    ValueTask<string?> PlaceAsync();

    /// <summary>Says where the data are used.</summary>
    /// <param name="place">Names a folder on a disk.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetPlaceAsync(string place);
}
