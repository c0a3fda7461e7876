using GateChain.Core.Chains;
using GateChain.Core.Expressions;

namespace GateChain.Core.Designing;

/// <summary>What a new version of a chain would break where an older one is used.</summary>
public static class InterfaceChanges
{
    /// <summary>What would not fit any more of what somebody gives to the chain; a sentence each.</summary>
    /// <param name="before">What it takes and gives now; null when it has no release.</param>
    /// <param name="after">What it would take and give.</param>
    /// <param name="given">The names of the parameters that are given.</param>
    public static IReadOnlyList<string> Given(
        ChainInterface? before,
        ChainInterface after,
        IReadOnlyCollection<string> given
    )
    {
        var found = new List<string>();
        foreach (var name in given)
        {
            var (was, now) = (Find(before, name), Find(after, name));
            if (now is null && (before is null || was is not null))
                found.Add($"it gives “{name}”, which is no parameter any more");
            else if (was is not null && now is not null && !now.Type.Takes(was.Type))
                found.Add($"“{name}” was {Article.Of(was.Type)} and is {Article.Of(now.Type)}");
        }
        found.AddRange(
            after
                .Parameters.Where(p => p.Default is null && !given.Contains(p.Name))
                .Where(p => Find(before, p.Name) is null or { Default: not null })
                .Select(p => $"it does not give “{p.Name}” ({p.Type}), which is needed")
        );
        return found;
    }

    /// <summary>What a caller reads of the chain that it would not give any more; a sentence each.</summary>
    /// <param name="before">What it takes and gives now; null when it has no release.</param>
    /// <param name="after">What it would take and give.</param>
    /// <param name="call">The step that calls it.</param>
    /// <param name="caller">The text of the calling chain.</param>
    public static IReadOnlyList<string> Read(ChainInterface? before, ChainInterface after, Step call, string caller) =>
        [
            .. (before?.Outputs ?? after.Outputs)
                .Keys.Where(o => !after.Outputs.ContainsKey(o))
                .Where(o => caller.Contains($"steps.{call.Id}.{o}", StringComparison.Ordinal))
                .Select(o => $"it reads “{o}”, which is no output any more"),
        ];

    static Parameter? Find(ChainInterface? chain, string name) => chain?.Parameters.FirstOrDefault(p => p.Name == name);
}
