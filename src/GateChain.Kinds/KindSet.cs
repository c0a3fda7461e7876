using GateChain.Core.Chains.Kinds;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Plugins;

namespace GateChain.Kinds;

/// <summary>The kinds that this version has, and those of a folder of plug-ins. Immutable.</summary>
public sealed class KindSet
{
    readonly IReadOnlyList<IStepKind> _ownRunners;
    readonly IReadOnlyList<IProbe> _ownProbes;

    KindSet(IReadOnlyList<IStepKind> runners, IReadOnlyList<IProbe> probes)
    {
        (_ownRunners, _ownProbes) = (runners, probes);
        var given = KindDescriptions.Catalogue;
        Catalogue =
            runners.Count + probes.Count == 0
                ? given
                : new(
                    [.. given.All.Where(k => !k.IsControl), .. runners.Select(r => r.Description)],
                    [.. given.Probes, .. probes.Select(p => p.Description)]
                );
    }

    /// <summary>What they are called, take and give.</summary>
    public KindCatalogue Catalogue { get; }

    /// <summary>Those that do the work of steps.</summary>
    public IReadOnlyList<IStepKind> Runners => [.. AllKinds.Runners, .. _ownRunners];

    /// <summary>The names of those that are plug-ins.</summary>
    public IReadOnlySet<string> Plugins => _ownRunners.Select(r => r.Description.Name).ToHashSet();

    /// <summary>What guards can look at.</summary>
    public IReadOnlyList<IProbe> Probes => [.. AllKinds.Probes, .. _ownProbes];

    /// <summary>The kinds of the version, and those of a folder.</summary>
    /// <param name="folder">Holds a folder for each plug-in; null for none.</param>
    /// <exception cref="PluginException">One of them can't be loaded; the message says which, and why.</exception>
    public static KindSet Of(string? folder)
    {
        if (folder is null)
            return new([], []);
        var runners = new List<IStepKind>();
        var probes = new List<IProbe>();
        foreach (var (plugin, where) in PluginReader.Read(folder))
        {
            switch (plugin)
            {
                case IStepKind kind:
                    if (
                        KindDescriptions.Catalogue.Find(kind.Description.Name) is not null
                        || runners.Exists(r => r.Description.Name == kind.Description.Name)
                    )
                    {
                        throw new PluginException(
                            where,
                            $"there is a kind “{kind.Description.Name}” already; give it another name"
                        );
                    }
                    runners.Add(kind);
                    break;
                case IProbe probe:
                    if (
                        KindDescriptions.Catalogue.FindProbe(probe.Description.Name) is not null
                        || probes.Exists(r => r.Description.Name == probe.Description.Name)
                    )
                    {
                        throw new PluginException(
                            where,
                            $"there is a probe “{probe.Description.Name}” already; give it another name"
                        );
                    }
                    probes.Add(probe);
                    break;
                default:
                    break;
            }
        }
        return new(runners, probes);
    }
}
