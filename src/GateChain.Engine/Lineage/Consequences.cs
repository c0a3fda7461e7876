using GateChain.Core.Checking;
using GateChain.Core.Identity;
using GateChain.Core.Lineage;
using GateChain.Core.Triggers;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Lineage;

/// <summary>A step of another chain that reads what a chain writes.</summary>
/// <param name="Data">The data, as the chain writes it.</param>
/// <param name="Reader">The step.</param>
public sealed record DataReader(string Data, DataStep Reader);

/// <summary>What hangs on a chain, and on what it hangs itself.</summary>
/// <param name="Uses">The steps that call it, and the triggers that start it.</param>
/// <param name="Listeners">The triggers that fire for how its runs end.</param>
/// <param name="Readers">The steps of others that read what it writes, as it is declared.</param>
/// <param name="Connections">The connections that it uses.</param>
/// <param name="Calls">The chains that it calls.</param>
/// <param name="Lanes">The lanes that its steps queue for.</param>
public sealed record ChainConsequences(
    IReadOnlyList<ChainUse> Uses,
    IReadOnlyList<string> Listeners,
    IReadOnlyList<DataReader> Readers,
    IReadOnlyList<string> Connections,
    IReadOnlyList<string> Calls,
    IReadOnlyList<string> Lanes
);

/// <summary>What follows when a chain is changed, renamed or retired. Thread-safe.</summary>
/// <param name="uses">Who calls and starts it.</param>
/// <param name="data">Who reads what it writes.</param>
/// <param name="catalogue">The latest releases.</param>
/// <param name="chains">What they say.</param>
/// <param name="workspace">The triggers.</param>
public sealed class Consequences(
    ChainUses uses,
    DataFlows data,
    ICatalogue catalogue,
    ReleasedChains chains,
    WorkspaceService workspace
)
{
    /// <summary>Those of a chain's latest release.</summary>
    /// <param name="name">The chain.</param>
    /// <param name="sees">Whose folders count.</param>
    /// <exception cref="RefusedException">There is no such chain, or it can't be read.</exception>
    public async Task<ChainConsequences> OfAsync(string name, Func<Area, bool> sees)
    {
        var release = (await catalogue.ChainsAsync().ConfigureAwait(false)).FirstOrDefault(r => r.Chain == name)
            ?? throw new RefusedException(Core.Running.RefusalKind.NotFound, $"there is no chain “{name}”");
        var chain = await chains.OfAsync(release.Hash).ConfigureAwait(false);
        var map = await data.MapAsync(sees).ConfigureAwait(false);
        return new(
            await uses.OfAsync(name, null).ConfigureAwait(false),
            [
                .. workspace
                    .Triggers.Where(t => t.Source is OutcomeSource outcome && outcome.IsAbout(name))
                    .Select(t => t.Name)
                    .Order(StringComparer.Ordinal),
            ],
            [.. map.ReadersOf(name).Select(r => new DataReader($"{r.Data}", r.Reader))],
            [
                .. chain
                    .AllSteps.SelectMany(ConnectionNames.In)
                    .Select(c => c.Name)
                    .Distinct()
                    .Order(StringComparer.Ordinal),
            ],
            [.. chain.AllSteps.Select(s => s.Call?.Chain).OfType<string>().Distinct().Order(StringComparer.Ordinal)],
            [.. chain.AllSteps.Select(s => s.Lane).OfType<string>().Distinct().Order(StringComparer.Ordinal)]
        );
    }
}
