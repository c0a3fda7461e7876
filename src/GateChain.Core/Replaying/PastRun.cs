using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Identity;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Replaying;

/// <summary>
/// What a run met in its first leg: parameters, what its attempts came to, what its guards saw, what the chains that it
/// called gave. Pure.
/// </summary>
/// <param name="Chain">The chain as it was.</param>
/// <param name="Wish">The same, to be played again.</param>
/// <param name="Known">Paths of steps whose outcomes are known.</param>
/// <param name="Persons">Whether people decided something in it, which is not played again.</param>
/// <param name="Gates">How its gates were decided.</param>
/// <param name="Outcomes">How its steps settled.</param>
public sealed record PastRun(
    Chain Chain,
    RehearsalAssumptions Wish,
    IReadOnlySet<string> Known,
    bool Persons,
    IReadOnlyDictionary<GateName, bool> Gates,
    IReadOnlyDictionary<string, Outcome> Outcomes
)
{
    /// <summary>Reads it off a journal.</summary>
    /// <param name="chain">The chain of the run's first leg.</param>
    /// <param name="decisions">The journal, at least its first leg.</param>
    /// <returns>Null when the journal does not begin with a run's start.</returns>
    public static PastRun? Of(Chain chain, IEnumerable<Decision> decisions)
    {
        RunStarted? started = null;
        DateTimeOffset at = default;
        var persons = false;
        var attempts = new Dictionary<string, List<RehearsedResult>>();
        var probes = new Dictionary<string, List<Value>>();
        var begun = new HashSet<string>();
        var answers = new List<RehearsedAnswer>();
        var (gates, outcomes) = (new Dictionary<GateName, bool>(), new Dictionary<string, Outcome>());
        foreach (var decision in decisions)
        {
            foreach (var e in decision.Events)
            {
                switch (e)
                {
                    case RunStarted first:
                        (started, at) = (first, decision.At);
                        break;
                    // What a person has continued is another story.
                    case LegStarted { Leg: > 1 }:
                        return Made();
                    case GuardLooked { By: not null }
                    or GuardAsked { By: not null }
                    or PauseAsked
                    or PauseAnswered
                    or StepCancelled
                    or StopAsked { By.Kind: ActorKind.Person }:
                        persons = true;
                        break;
                    case GuardLooked looked:
                        if (!probes.TryGetValue(looked.Step, out var looks))
                            probes[looked.Step] = looks = [];
                        looks.Add(looked.Probes);
                        answers.Add(new(looked.Step, IsLook: true, decision.At - at));
                        break;
                    case AttemptStarted { Step: var step }:
                        begun.Add(step);
                        break;
                    case AttemptFailed failed:
                        ListOf(failed.Step).Add(new(new Dictionary<string, Value>(), Own(failed.Error)));
                        answers.Add(new(failed.Step, IsLook: false, decision.At - at));
                        break;
                    case GateDecided decided:
                        gates[new(decided.Scope, decided.Gate)] = decided.Open;
                        break;
                    case StepSettled settled:
                        outcomes[settled.Step] = settled.Outcome;
                        if (begun.Contains(settled.Step))
                        {
                            ListOf(settled.Step).Add(Result(settled));
                            answers.Add(new(settled.Step, IsLook: false, decision.At - at));
                        }
                        break;
                    default:
                        break;
                }
            }
        }
        return Made();

        List<RehearsedResult> ListOf(string step) =>
            attempts.TryGetValue(step, out var list) ? list : attempts[step] = [];

        PastRun? Made()
        {
            if (started is null)
                return null;
            var byAddress = chain.AllSteps.ToDictionary(s => s.Address);
            var worked = attempts
                .Where(a => byAddress.GetValueOrDefault(new StepPath(a.Key).Address.Text) is { } step && IsAsked(step))
                .ToList();
            var wish = new RehearsalAssumptions
            {
                At = at,
                Params = started.Params.AsMap.Entries.ToDictionary(e => e.Key.AsString, e => e.Value),
                Vars = started.Kept?.Values.AsMap.Entries.ToDictionary(e => e.Key.AsString, e => e.Value)
                    ?? new Dictionary<string, Value>(),
                Profile = started.Profile,
                Attempts =
                [
                    .. worked.Select(a => new RehearsedAttempts(new(a.Key), a.Value, Plays: false) { InOrder = true }),
                ],
                Answers = answers,
                Looks = [.. probes.Select(p => new RehearsedLooks(new(p.Key), p.Value))],
            };
            return new(chain, wish, worked.Select(w => w.Key).ToHashSet(), persons, gates, outcomes);
        }
    }

    // What the machine does itself follows from the rest; what a call came to does not.
    static bool IsAsked(Step step) => !step.Kind.IsControl || step.Kind.Name is ControlKinds.Call or ControlKinds.Wait;

    // A rule of the chain that made a good attempt fail is read again.
    static RehearsedResult Result(StepSettled settled) =>
        new(
            settled.Outputs.AsMap.Entries.ToDictionary(e => ValueText.ToPlainString(e.Key), e => e.Value),
            settled.Error is { Code: not "expect" } error ? Own(error) : null
        );

    static StepError Own(StepError error) => error with { Origin = null };
}
