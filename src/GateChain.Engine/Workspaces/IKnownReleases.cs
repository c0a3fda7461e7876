using GateChain.Core.Chains;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>The releases that a service has, as far as a workspace that comes to it has to know of them.</summary>
public interface IKnownReleases
{
    /// <summary>What a release takes and gives; null when there is none of that number.</summary>
    ChainInterface? Find(string chain, int number);

    /// <summary>The latest release of a chain; null when there is none.</summary>
    NumberedRelease? Latest(string chain);

    /// <summary>Whether a chain is retired: what starts it is told so.</summary>
    bool IsRetired(string chain);

    /// <summary>The number that content has as the latest release, or would get as the next one.</summary>
    int NumberFor(Release content) =>
        Latest(content.Chain) is { } latest
            ? latest.Hash == content.Hash
                ? latest.Number
                : latest.Number + 1
            : 1;
}
