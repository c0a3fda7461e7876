namespace GateChain.Service.Hosting;

/// <summary>What a look at all data of a service has found.</summary>
/// <param name="Runs">Runs that were read.</param>
/// <param name="Legs">Legs that they have.</param>
/// <param name="Missing">Runs of which not all is remembered yet: the next start does so.</param>
/// <param name="Wrong">Runs that are remembered otherwise than their journal says.</param>
/// <param name="Unreadable">Runs whose journal can't be read.</param>
/// <param name="Damages">What is wrong with the database file, in its own words.</param>
public sealed record DataVerdict(
    int Runs,
    int Legs,
    IReadOnlyList<long> Missing,
    IReadOnlyList<long> Wrong,
    IReadOnlyList<long> Unreadable,
    IReadOnlyList<string> Damages
)
{
    /// <summary>Whether nothing is wrong.</summary>
    public bool IsSound => Wrong.Count + Unreadable.Count + Damages.Count == 0;
}
