using GateChain.Storage;

namespace GateChain.Access.Audit;

/// <summary>What a look over the audit log found.</summary>
/// <param name="Lines">How many lines it has.</param>
/// <param name="Unsealed">How many at its end wait for their seal.</param>
/// <param name="Anchors">How many anchors of the log files were held against it.</param>
/// <param name="Wrong">What is wrong, a sentence each; empty when the log is whole.</param>
public sealed record AuditFinding(long Lines, int Unsealed, int Anchors, IReadOnlyList<string> Wrong);

/// <summary>Looks whether the audit log is as it was written.</summary>
public static class AuditCheck
{
    const int Together = 5_000;

    // One broken link makes the rest unsure: nobody reads a thousand sentences about it.
    const int MostWrong = 20;

    /// <summary>Makes all seals again and compares, and holds the anchors against them.</summary>
    /// <param name="log">The log.</param>
    /// <param name="anchors">Seals by number, from the service's log files.</param>
    /// <param name="cancel">Gives up.</param>
    public static async Task<AuditFinding> VerifyAsync(
        IAuditLog log,
        IReadOnlyDictionary<long, string> anchors,
        CancellationToken cancel
    )
    {
        var (lines, unsealed, number, seal) = (0L, 0, 0L, "");
        var wrong = new List<string>();
        void Tell(string sentence)
        {
            if (wrong.Count < MostWrong)
                wrong.Add(sentence);
        }
        while (await log.AfterAsync(number, Together).ConfigureAwait(false) is { Count: > 0 } some)
        {
            foreach (var line in some)
            {
                cancel.ThrowIfCancellationRequested();
                lines++;
                if (line.Number != number + 1)
                    Tell($"{Range(number + 1, line.Number - 1)} missing");
                number = line.Number;
                if (line.Seal is null)
                {
                    unsealed++;
                    continue;
                }
                if (unsealed > 0)
                    Tell($"line {number} is sealed and one before it is not: a seal was taken away");
                var made = AuditSeals.Of(seal, line);
                if (made != line.Seal)
                    Tell($"line {number}, or one before it, is not as it was written");
                if (anchors.TryGetValue(number, out var anchor) && anchor != line.Seal)
                    Tell($"line {number} is not the one that the log file has anchored");
                // On with what stands there: the next line is wrong only if it was changed itself.
                seal = line.Seal;
            }
        }
        if (anchors.Count > 0 && anchors.Keys.Max() is var last && last > number)
            Tell($"the log file has anchored line {last}, and the log ends with line {number}: its tail was cut off");
        return new(lines, unsealed, anchors.Count, wrong);
    }

    static string Range(long from, long to) => from == to ? $"line {from} is" : $"lines {from} to {to} are";
}
