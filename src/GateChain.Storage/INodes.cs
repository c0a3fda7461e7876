namespace GateChain.Storage;

/// <summary>A service that shares a database with others, as it last said.</summary>
/// <param name="Id">Its name and what tells this start of it from others: never given twice.</param>
/// <param name="Name">What people call it; one of a name at a time.</param>
/// <param name="Address">Where its API and console are.</param>
/// <param name="Labels">What it can do that others can't.</param>
/// <param name="Version">Of the program.</param>
/// <param name="Started">When, by the clock of the database.</param>
/// <param name="Seen">When it last renewed, by the clock of the database.</param>
/// <param name="Silent">How long ago that was when it was read.</param>
/// <param name="OwnsRuns">Whether runs may be its own; else it only takes attempts of others.</param>
/// <param name="Draining">Whether it hands over what it has and takes nothing new.</param>
/// <param name="Left">When it ended in good order; null while it has not.</param>
public sealed record StoredNode(
    string Id,
    string Name,
    string Address,
    IReadOnlyList<string> Labels,
    string Version,
    DateTimeOffset Started,
    DateTimeOffset Seen,
    TimeSpan Silent,
    bool OwnsRuns,
    bool Draining = false,
    DateTimeOffset? Left = null
);

/// <summary>What a service hears when it says that it is there.</summary>
/// <param name="Draining">Whether it is to hand over what it has.</param>
/// <param name="LeaderSilent">How long nothing has been heard of the leader; null when it has left or hands over.
/// </param>
public readonly record struct Renewal(bool Draining, TimeSpan? LeaderSilent);

/// <summary>
/// The services that share a database, and which runs are whose. Time is the database's: their clocks may differ.
/// Thread-safe.
/// </summary>
public interface INodes
{
    /// <summary>What the names of the services' own consumers of the outbox begin with; their ids follow.</summary>
    const string Consumer = "node/";

    /// <summary>Says that a service is there.</summary>
    /// <exception cref="StorageException">It could not be written, or another one of its name is there.</exception>
    Task JoinAsync(StoredNode node);

    /// <summary>Says that it is still there, and asks how another one is: so little that a thousand can.</summary>
    /// <param name="id">Which.</param>
    /// <param name="leader">The one that does what one does for all; null when it knows of none.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<Renewal> RenewAsync(string id, string? leader = null);

    /// <summary>It ends in good order: what is left of its runs is nobody's.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task LeaveAsync(string id);

    /// <summary>
    /// Says that a service is gone for sure: who follows it on its machine knows. Its runs are taken by others at once.
    /// </summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task BuryAsync(string id);

    /// <summary>All that are there, and those that went within a day, by name; of each name the newest.</summary>
    ValueTask<IReadOnlyList<StoredNode>> AllAsync();

    /// <summary>Asks one to hand over what it has, or not to any more. False when there is none of that name.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<bool> DrainAsync(string name, bool on, AuditLine audit);

    /// <summary>The service that owns a run; null when nobody does, or there is no such run.</summary>
    ValueTask<string?> OwnerAsync(long run);

    /// <summary>How many runs that have not ended each service owns, by its id.</summary>
    ValueTask<IReadOnlyDictionary<string, int>> OwnedAsync();

    /// <summary>Claims runs that have not ended and whose owner is not among the living: silent, dead, or nobody.
    /// </summary>
    /// <param name="id">Who claims.</param>
    /// <param name="living">Whose runs stay theirs, unless they have been silent too long.</param>
    /// <param name="silent">How long that is.</param>
    /// <param name="most">At most so many, 1 to 1,000.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<IReadOnlyList<Orphan>> ClaimOrphansAsync(
        string id,
        IReadOnlyCollection<string> living,
        TimeSpan silent,
        int most
    );

    /// <summary>Forgets what was kept for services of whom nothing has been heard for a minute.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task ForgetSilentAsync();

    /// <summary>How many there are to be claimed.</summary>
    ValueTask<int> OrphansAsync(IReadOnlyCollection<string> living, TimeSpan silent);

    /// <summary>Claims runs again that a service has let go, unless somebody else has them by now.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<IReadOnlyList<Claim>> ClaimAgainAsync(string id, IReadOnlyCollection<long> runs);

    /// <summary>Makes a run nobody's. False when it is not the caller's any more.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<bool> LetGoAsync(long run, long epoch);
}

/// <summary>A run that was claimed from who does not continue it.</summary>
/// <param name="Claim">It.</param>
/// <param name="From">Whose it was; null for nobody's.</param>
/// <param name="Silent">Since when its former owner had not renewed; null for nobody's, or when that is not known.
/// </param>
public sealed record Orphan(Claim Claim, string? From, TimeSpan? Silent);

/// <summary>A row of the table in which services agree on who is there.</summary>
/// <param name="Id">Names the service to the others.</param>
/// <param name="Version">Grows with each change of the row.</param>
/// <param name="Body">What is known of it.</param>
public sealed record MemberRow(string Id, long Version, string Body);

/// <summary>The table in which services agree on who is there, as of one moment.</summary>
/// <param name="Version">Grows with each change.</param>
/// <param name="Now">That moment, by the clock of the database.</param>
/// <param name="Rows">All of it, by id.</param>
public sealed record MemberTable(long Version, DateTimeOffset Now, IReadOnlyList<MemberRow> Rows);

/// <summary>
/// The table in which services agree on who is there: a change counts only when nobody else has made one since it was
/// read. Thread-safe.
/// </summary>
public interface IMembers
{
    /// <summary>All rows, and the version of the table.</summary>
    ValueTask<MemberTable> ReadAsync();

    /// <summary>Adds or changes a row. False when the table or the row has another version.</summary>
    /// <param name="row">The row, with the version that it is to have: 1 for a new one, else one more than before.
    /// </param>
    /// <param name="version">The version that the table is to have: one more than before.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<bool> WriteAsync(MemberRow row, long version);

    /// <summary>Changes a row whatever the version, and leaves the versions.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task TouchAsync(string id, Func<string, string> body);

    /// <summary>Removes rows.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task RemoveAsync(IReadOnlyCollection<string> ids);
}

/// <summary>A part of what is stored that services keep in memory.</summary>
public enum StoredPart
{
    /// <summary>Releases, and what stands beside chains.</summary>
    Workspace,

    /// <summary>Chains that are being designed.</summary>
    Drafts,

    /// <summary>Secrets.</summary>
    Secrets,

    /// <summary>Accounts, tokens, sessions and settings.</summary>
    Access,

    /// <summary>Switches and holds of triggers.</summary>
    Triggers,

    /// <summary>Due times that are made up for.</summary>
    Backfills,
}

/// <summary>A store that several services work with at once. Thread-safe.</summary>
public interface ISharedStore : IStore
{
    /// <summary>The services, and whose runs are whose.</summary>
    INodes Nodes { get; }

    /// <summary>Where they agree on who is there.</summary>
    IMembers Members { get; }

    /// <summary>
    /// Tells which parts have changed, whoever changed them, until the result is disposed of. After a time without
    /// connection all of them may have, and are told.
    /// </summary>
    /// <param name="changed">Is waited for before it is told of the next.</param>
    IChangeFollowing Follow(Func<IReadOnlyCollection<StoredPart>, Task> changed);

    /// <summary>Waits until no other service does something of a name, and keeps them from it until the result is
    /// disposed of.</summary>
    /// <exception cref="StorageException">The database can't be reached.</exception>
    Task<IAsyncDisposable> HoldAsync(string name);
}

/// <summary>Hears of changes until it is disposed of.</summary>
public interface IChangeFollowing : IAsyncDisposable
{
    /// <summary>
    /// Ends when all that was changed before the call has been told and read; or after two seconds, when the database
    /// says nothing.
    /// </summary>
    Task CaughtUpAsync();
}
