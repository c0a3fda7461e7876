using System.Collections.Frozen;
using GateChain.Core.Problems;

namespace GateChain.Core.Chains;

/// <summary>Hints that somebody has put to rest, with a reason that stays in the file.</summary>
public static class QuietHints
{
    /// <summary>None are.</summary>
    public static IReadOnlyDictionary<string, string> None { get; } = FrozenDictionary<string, string>.Empty;

    /// <summary>Whether hints of a kind are put to rest for a step: there, at a container around it, or at the
    /// chain.</summary>
    internal static bool IsQuiet(this Chain chain, ProblemKind kind, Step? step)
    {
        if (kind.Severity != Severity.Hint)
            return false;
        for (var at = step; at is not null; at = at.Scope.Owner)
        {
            if (at.Quiet.ContainsKey(kind.Code))
                return true;
        }
        return chain.Quiet.ContainsKey(kind.Code);
    }
}
