using GateChain.Core.Chains;
using GateChain.Core.Running.State;

namespace GateChain.Core.Rehearsing;

/// <summary>One way through a chain, and what leads there.</summary>
/// <param name="Failing">Addresses of the steps that fail; in loops, in all rounds.</param>
/// <param name="Rehearsal">How it goes.</param>
public sealed record Way(IReadOnlyList<string> Failing, Rehearsal Rehearsal)
{
    /// <summary>Each step's address with how its instances fared; what tells two ways apart.</summary>
    public IReadOnlyList<(string Address, string Words)> Steps { get; } =
    [
        .. Rehearsal
            .AllSteps.GroupBy(s => new StepPath(s.Path).Address.Text)
            .Select(g => (g.Key, string.Join("+", g.Select(s => s.Step.Word).Distinct()))),
    ];
}

/// <summary>
/// The distinct ways through a chain that success and failure of its steps lead to; values stay as they are wished.
/// </summary>
/// <param name="IsCut">Whether there may be more.</param>
public sealed record Ways(IReadOnlyList<Way> Found, bool IsCut)
{
    const int MaxRehearsals = 2_000,
        MaxDecisions = 100_000;

    /// <summary>Finds them, those with the fewest failures first.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="wish">What is chosen; steps that are wished to fail fail in every way.</param>
    /// <param name="chains">Gives the chains that are called.</param>
    /// <param name="most">How many ways to give at most.</param>
    /// <param name="cancel">Cuts the search when it has taken long enough.</param>
    public static Ways Of(
        Chain chain,
        RehearsalAssumptions wish,
        Func<CalledChain, Chain?> chains,
        int most,
        CancellationToken cancel = default
    )
    {
        var found = new List<Way>();
        var seen = new HashSet<string>();
        var tried = new HashSet<string> { "" };
        var open = new Queue<IReadOnlyList<string>>([
            [],
        ]);
        var decisions = 0;
        for (var played = 0; open.TryDequeue(out var failing); played++)
        {
            if (
                found.Count == most
                || played == MaxRehearsals
                || decisions > MaxDecisions
                || cancel.IsCancellationRequested
            )
            {
                return new(found, IsCut: true);
            }
            var way = new Way(
                failing,
                Rehearsal.Play(
                    chain,
                    wish with
                    {
                        Fail = [.. wish.Fail, .. failing.Select(f => new RehearsedFailure(new(f)))],
                    },
                    chains,
                    cancel
                )
            );
            decisions += way.Rehearsal.Decisions;
            if (!seen.Add(string.Join(",", way.Steps)))
                continue;
            found.Add(way);
            // Whatever worked in this way could fail in another one.
            foreach (
                var address in way
                    .Rehearsal.AllSteps.Where(s => DoesWork(s.Step))
                    .Select(s => new StepPath(s.Path).Address.Text)
                    .Distinct()
            )
            {
                var more = failing.Append(address).Order(StringComparer.Ordinal).ToList();
                if (!failing.Contains(address) && tried.Add(string.Join(",", more)))
                    open.Enqueue(more);
            }
        }
        return new(found, IsCut: found.Exists(w => w.Rehearsal.IsCut));
    }

    static bool DoesWork(StepState step) =>
        step is { Started: not null, Step: { Kind.IsControl: false } or { Call: not null } };
}
