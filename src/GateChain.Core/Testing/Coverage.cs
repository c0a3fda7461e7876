using GateChain.Core.Chains;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running.State;

namespace GateChain.Core.Testing;

/// <summary>A gate, and which of its ways cases have gone.</summary>
/// <param name="Scope">The address of its scope; empty for the chain's own.</param>
/// <param name="Gate">The gate.</param>
/// <param name="Opened">Whether it was open in one of them.</param>
/// <param name="Shut">Whether it was shut in one of them.</param>
public sealed record GateCoverage(string Scope, Gate Gate, bool Opened, bool Shut)
{
    /// <summary>Whether it can be shut at all: one that opens after any outcome is not.</summary>
    public bool CanShut => Gate.On != GateOutcomes.Always || Gate.When is not null || Gate.IsElse;

    /// <summary>How many ways it has.</summary>
    public int Ways => CanShut ? 2 : 1;

    /// <summary>How many of them were gone.</summary>
    public int Gone => (Opened ? 1 : 0) + (Shut && CanShut ? 1 : 0);
}

/// <summary>
/// Which ways through a chain were gone: each of its gates open and shut. Used by one thread.
/// </summary>
/// <param name="chain">The chain.</param>
public sealed class Coverage(Chain chain)
{
    readonly Dictionary<(string Scope, int Gate), (bool Opened, bool Shut)> _seen = [];

    public Chain Chain => chain;

    /// <summary>Takes in a rehearsal, and those of child runs of the same chain.</summary>
    public void Add(Rehearsal rehearsal)
    {
        if (rehearsal.State.Chain == chain)
            Add(rehearsal.State);
        foreach (var child in rehearsal.Children.Values)
            Add(child);
    }

    void Add(RunState run)
    {
        foreach (
            var scope in run
                .AllSteps.SelectMany(s => s.InnerScopes)
                .Concat(run.Handlers.Select(h => h.Scope))
                .Prepend(run.Root)
        )
        {
            for (var i = 0; i < scope.Gates.Length; i++)
            {
                var key = (scope.Scope.Address, i);
                var (opened, shut) = _seen.GetValueOrDefault(key);
                _seen[key] = scope.Gates[i].Phase switch
                {
                    GatePhase.Undecided => (opened, shut),
                    GatePhase.Open => (true, shut),
                    _ => (opened, true),
                };
            }
        }
    }

    /// <summary>All gates, in the order of the file.</summary>
    public IReadOnlyList<GateCoverage> Gates =>
        [
            .. Scopes
                .All(chain)
                .SelectMany(s => s.Gates.Select(g => (s.Address, Gate: g)))
                .Select(g =>
                {
                    var (opened, shut) = _seen.GetValueOrDefault((g.Address, g.Gate.Index));
                    return new GateCoverage(g.Address, g.Gate, opened, shut);
                }),
        ];

    /// <summary>The ways that there are, and how many of them were gone.</summary>
    public (int Gone, int Ways) Counts => (Gates.Sum(g => g.Gone), Gates.Sum(g => g.Ways));

    /// <summary>The share of ways that were gone, 0 to 100; of a chain without gates all.</summary>
    public double Percent => Counts is { Ways: > 0 } counts ? 100.0 * counts.Gone / counts.Ways : 100;
}
