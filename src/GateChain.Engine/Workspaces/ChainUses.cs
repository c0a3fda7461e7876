using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Designing;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>A place where a chain is used: a step of the latest release of another one, or a trigger.</summary>
/// <param name="Chain">The chain whose step calls it; null for a trigger.</param>
/// <param name="Step">The address of that step; null for a trigger.</param>
/// <param name="Trigger">The trigger that starts it; null for a call.</param>
/// <param name="Breaks">What the version that was asked about would break there, a sentence each.</param>
public sealed record ChainUse(string? Chain, string? Step, string? Trigger, IReadOnlyList<string> Breaks);

/// <summary>Who calls and starts a chain, and what a new version of it would break. Thread-safe.</summary>
/// <param name="catalogue">The latest releases.</param>
/// <param name="chains">What they say.</param>
/// <param name="workspace">The triggers; reads the new version.</param>
public sealed class ChainUses(ICatalogue catalogue, ReleasedChains chains, WorkspaceService workspace)
{
    /// <summary>The places where a chain is used.</summary>
    /// <param name="name">The chain.</param>
    /// <param name="source">A version of it that is not released yet; null asks for the places only.</param>
    /// <exception cref="RefusedException">The version can't be read.</exception>
    public async Task<IReadOnlyList<ChainUse>> OfAsync(string name, string? source)
    {
        var all = await catalogue.ChainsAsync().ConfigureAwait(false);
        var after = source is null ? null : Interface(name, source);
        var before =
            after is not null
            && all.FirstOrDefault(r => r.Chain == name) is { } own
            && await chains.ReadableOfAsync(own.Hash).ConfigureAwait(false) is { } released
                ? ChainInterfaces.Of(released)
                : null;
        var uses = new List<ChainUse>();
        foreach (var release in all.Where(r => r.Chain != name))
        {
            if (await chains.ReadableOfAsync(release.Hash).ConfigureAwait(false) is not { } caller)
                continue;
            // A call of a numbered release stays with it.
            foreach (var step in caller.AllSteps.Where(s => s.Call?.Child == new CalledChain(name, null)))
            {
                IReadOnlyList<string> breaks = after is null
                    ? []
                    :
                    [
                        .. InterfaceChanges.Given(before, after, [.. step.Call!.Inputs.Select(i => i.Name)]),
                        .. InterfaceChanges.Read(before, after, step, release.Source),
                    ];
                uses.Add(new(release.Chain, step.Address, null, breaks));
            }
        }
        foreach (var trigger in workspace.Triggers.Where(t => t.Chain == name))
        {
            var given = trigger.Params.Select(p => p.Name).ToList();
            uses.Add(new(null, null, trigger.Name, after is null ? [] : InterfaceChanges.Given(before, after, given)));
        }
        return uses;
    }

    ChainInterface Interface(string name, string source)
    {
        var (chain, problems) = workspace.Check.Check(name + ".chain.yaml", source);
        return chain is null
            ? throw new RefusedException(
                RefusalKind.Invalid,
                $"this version of “{name}” can't be read: {problems.FirstOrDefault(p => p.IsError)?.Message}"
            )
            : ChainInterfaces.Of(chain);
    }
}
