using GateChain.Core.Identity;

namespace GateChain.Storage;

/// <summary>
/// A change that somebody made, or what they were refused. Handed over with the change, and written in its transaction:
/// there is no change without its line, and no line of a change that never was. Never holds a secret.
/// </summary>
/// <param name="At">When.</param>
/// <param name="By">Who, from where and through what.</param>
/// <param name="Action">What they did, a word or two: <c>release</c>, <c>stop</c>.</param>
/// <param name="Object">To what: <c>chain intake</c>, <c>run 5</c>.</param>
/// <param name="Detail">What else is worth knowing, as what was before and is now; null for nothing.</param>
public sealed record AuditLine(DateTimeOffset At, Actor By, string Action, string Object, string? Detail = null);

/// <summary>A line as it is on disk.</summary>
/// <param name="Number">Grows with every line, from 1.</param>
/// <param name="Line">What happened.</param>
/// <param name="Seal">The hash of the line and all before it; null for a moment.</param>
public sealed record AuditEntry(long Number, AuditLine Line, string? Seal);

/// <param name="Before">Only lines with a smaller number: the next page; null for the newest.</param>
/// <param name="By">Only what this account, token or program did, by the name that people call it.</param>
/// <param name="Action">Only this action.</param>
/// <param name="Object">Only what was done to this, to the letter.</param>
/// <param name="From">Only then or later.</param>
/// <param name="To">Only before.</param>
/// <param name="Text">Only lines in whose object or detail this stands, whatever the case of letters.</param>
/// <param name="Most">At most so many, 1 to 1,000.</param>
public sealed record AuditQuery(
    long? Before = null,
    string? By = null,
    string? Action = null,
    string? Object = null,
    DateTimeOffset? From = null,
    DateTimeOffset? To = null,
    string? Text = null,
    int Most = 100
);

/// <summary>
/// Who has changed what. Lines come with the changes; none is ever altered or taken away here. Thread-safe.
/// </summary>
public interface IAuditLog
{
    /// <summary>Newest first.</summary>
    /// <param name="query">What to list; null for the newest of all.</param>
    ValueTask<IReadOnlyList<AuditEntry>> ListAsync(AuditQuery? query = null);

    /// <summary>Oldest first, behind a number.</summary>
    /// <param name="after">The number; 0 for all.</param>
    /// <param name="most">At most so many, 1 to 10,000.</param>
    ValueTask<IReadOnlyList<AuditEntry>> AfterAsync(long after, int most);

    /// <summary>The newest line that is sealed, and its seal; 0 and an empty text for none.</summary>
    ValueTask<(long Number, string Seal)> LastSealAsync();

    /// <summary>Seals lines.</summary>
    /// <param name="seals">Hashes by number.</param>
    /// <exception cref="StorageException">They could not be written.</exception>
    Task SealAsync(IReadOnlyList<(long Number, string Seal)> seals);

    /// <summary>Adds lines of what changed nothing: sign-ins and refusals.</summary>
    /// <exception cref="StorageException">They could not be written.</exception>
    Task AddAsync(IReadOnlyList<AuditLine> lines);
}
