using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Rehearsing;

/// <summary>What a rehearsal showed.</summary>
/// <param name="State">How it ended.</param>
/// <param name="Journal">Everything that was decided, in order.</param>
/// <param name="Children">The rehearsals of child runs, by the path of the call and the number of its attempt.</param>
/// <param name="IsCut">Whether it was ended before its end, because it did not come to one.</param>
public sealed record Rehearsal(
    RunState State,
    IReadOnlyList<Decision> Journal,
    IReadOnlyDictionary<(string Call, int Attempt), Rehearsal> Children,
    bool IsCut
)
{
    /// <summary>
    /// Plays a chain on the run machine with made-up outcomes, in no time. Pure: nothing of what the chain would do is
    /// done.
    /// </summary>
    /// <param name="chain">The chain.</param>
    /// <param name="wish">What is chosen.</param>
    /// <param name="chains">Gives the chains that are called; null for one that is not there.</param>
    /// <param name="cancel">Cuts it when it has taken long enough.</param>
    public static Rehearsal Play(
        Chain chain,
        RehearsalAssumptions wish,
        Func<CalledChain, Chain?> chains,
        CancellationToken cancel = default
    ) => new Stage(chain, wish, chains, run: 0, parent: null, new(MaxDecisions, cancel)).Play();

    /// <summary>Decisions, those of child runs included, after which a rehearsal is cut.</summary>
    public const int MaxDecisions = 20_000;

    /// <summary>How many decisions it took, child runs included.</summary>
    public int Decisions => Journal.Count + Children.Values.Sum(c => c.Decisions);

    /// <summary>All that was played, the rehearsals of child runs behind the calls that they belong to.</summary>
    public IEnumerable<(string Path, StepState Step)> AllSteps =>
        State.AllSteps.SelectMany(s =>
            Children
                .Where(c => c.Key.Call == s.Path)
                .SelectMany(c => c.Value.AllSteps.Select(i => (Path: $"{s.Path}/{i.Path}", i.Step)))
                .Prepend((s.Path, s))
        );
}
