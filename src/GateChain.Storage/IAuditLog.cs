using GateChain.Core.Identity;

namespace GateChain.Storage;

/// <summary>
/// A change that somebody made. Handed over with the change, and written in its transaction: there is no change
/// without its line, and no line of a change that never was. Never holds a secret.
/// </summary>
/// <param name="At">When.</param>
/// <param name="By">Who.</param>
/// <param name="Action">What they did, a word or two: <c>release</c>, <c>stop</c>.</param>
/// <param name="Object">To what: <c>chain intake</c>, <c>run 5</c>.</param>
/// <param name="Detail">What else is worth knowing; null for nothing.</param>
public sealed record AuditLine(DateTimeOffset At, Actor By, string Action, string Object, string? Detail = null);

/// <summary>A line as it is on disk.</summary>
/// <param name="Number">Grows with every line, from 1.</param>
/// <param name="Line">What happened.</param>
public sealed record AuditEntry(long Number, AuditLine Line);

/// <summary>
/// Who has changed what. Lines come with the changes; none is ever altered or taken away here. Thread-safe.
/// </summary>
public interface IAuditLog
{
    /// <summary>Newest first.</summary>
    /// <param name="before">Only lines with a smaller number: the next page; null for the newest.</param>
    /// <param name="most">At most so many, 1 to 500.</param>
    ValueTask<IReadOnlyList<AuditEntry>> ListAsync(long? before = null, int most = 100);
}
