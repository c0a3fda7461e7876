using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// A step's threshold (guard and lane) and the check of its result (expect).
sealed partial class Decider
{
    /// <summary>
    /// Takes a look: probes are computed here and taken outside; without probes the rules are read at once.
    /// </summary>
    void AskGuard(StepState step, bool woken, Actor? by = null)
    {
        var look = (step.Hold?.Looks ?? 0) + 1;
        var probes = new List<KeyValuePair<string, Value>>();
        foreach (var probe in step.Step.Guard!.Probes)
        {
            var settings = probe.Settings.Evaluate(Names(step.Scope));
            if (settings.IsError)
            {
                Fail(step, new("expression", $"probe “{probe.Name}”: {settings.AsError.Message}"));
                return;
            }
            probes.Add(KeyValuePair.Create(probe.Name, settings));
        }
        if (probes.Count == 0)
            Judge(step, look, Value.EmptyMap, by);
        else
            Emit(new GuardAsked(step.Path, look, Value.Map(DictionaryMap.Of(probes)), woken, by));
    }

    void ProbesTaken(ProbesTakenInput taken)
    {
        if (state.Find(taken.Step) is { IsLooking: true } step && step.Hold!.Looks == taken.Look)
            Judge(step, taken.Look, taken.Probes, step.Hold.AskedBy);
    }

    void Woken(WakeInput wake)
    {
        if (state.Find(wake.Step) is { Phase: StepPhase.Held, IsLooking: false } step && !IsBlockedByPause(step))
            AskGuard(step, woken: true);
    }

    // The refusals have seen to it that the step is held, and for a look that it is not looking already.
    void AnswerHold(HoldInput input)
    {
        var step = state.Find(input.Step)!;
        if (input.Answer == HoldAnswer.Look)
        {
            AskGuard(step, woken: true, input.By);
            return;
        }
        var hold = step.Hold!;
        var because = input.Message is { } why ? $": {why}" : "";
        Decide(
            step,
            new(
                step.Path,
                hold.Looks,
                hold.Probes,
                Verdict.Proceed,
                hold.Latest?.Rule ?? 0,
                hold.Latest?.Parts ?? [],
                $"let through by {input.By}{because}",
                null,
                input.By,
                IsOverruled: true
            ),
            null
        );
    }

    void Judge(StepState step, int look, Value probes, Actor? by)
    {
        var names = new RunBindings(state, step.Scope, at, bounds, limit.Evaluation) { Probes = probes };
        var parts = new List<PartValue>();
        var rules = step.Step.Guard!.Rules;
        for (var i = 0; i < rules.Count; i++)
        {
            if (rules[i].When is { } when)
            {
                var (value, looked) = when.Expression.EvaluateExplained(names);
                parts.AddRange(looked);
                if (value.Kind != ValueKind.Bool)
                {
                    var why = $"the guard can't be decided: {ExpressionExplanation.Of(when.Expression, looked, value)}";
                    Emit(new GuardLooked(step.Path, look, probes, Verdict.Fail, i, parts, why, null, by));
                    Fail(step, new("expression", why, when.Expression.Text));
                    return;
                }
                if (!value.AsBool)
                    continue;
            }
            Decide(
                step,
                new(step.Path, look, probes, rules[i].Verdict, i, parts, MessageOf(rules[i].Message, names), null, by),
                rules[i].Hold
            );
            return;
        }
    }

    static string? MessageOf(Setting? message, IBindings names) =>
        message?.Evaluate(names) is not { } value ? null
        : value.IsError ? $"(the message can't be computed: {value.AsError.Message})"
        : ValueText.ToPlainString(value);

    void Decide(StepState step, GuardLooked looked, HoldRule? hold)
    {
        if (hold is not null)
        {
            var (since, times) = step.Hold?.ByRule.GetValueOrDefault(looked.Rule, (at, 0)) ?? (at, 0);
            var woken = step.Hold?.Woken == true;
            if (hold.Longest is { } longest ? at - since >= longest : !woken && times >= hold.Times)
            {
                var limit = hold.Longest is { } most
                    ? $"held for {TimeText.Setting(most)}, as long as its guard allows"
                    : $"held through {times} further {(times == 1 ? "look" : "looks")}, as many as its guard allows";
                looked = looked with
                {
                    Verdict = hold.Then,
                    Message = looked.Message is { } why ? $"{why} ({limit})" : limit,
                };
            }
            else
            {
                // A look that was woken does not put off the one that was planned.
                var planned =
                    woken && step.Hold!.Latest?.Next is { } before && before > at
                        ? before
                        : hold.At?.NextAfter(at) ?? at + hold.Recheck!.Value;
                looked = looked with
                {
                    Next = hold.Longest is { } most && since + most < planned ? since + most : planned,
                };
            }
        }
        Emit(looked);
        switch (looked.Verdict)
        {
            // Let in while the run is paused, it waits on its threshold until the run continues.
            case Verdict.Proceed when IsBlockedByPause(step):
                break;
            case Verdict.Proceed:
                Enter(step);
                break;
            case Verdict.Skip:
                Settle(
                    step,
                    Outcome.Skipped,
                    note: "its guard decided to skip it" + (looked.Message is { } because ? $": {because}" : "")
                );
                break;
            case Verdict.Fail:
                Fail(step, new("guard", looked.Message ?? "its guard decided to fail it"));
                break;
            case Verdict.Stop:
                Settle(step, Outcome.Stopped, note: "its guard stopped the run");
                StopRun(Actor.OfStep(step.Path, $"the guard of {step.Path}"), looked.Message);
                break;
            default:
                break;
        }
    }

    /// <summary>Behind the guard: an attempt begins, or the step queues for its lane.</summary>
    void Enter(StepState step)
    {
        if (step.Step.Lane is { } lane)
            Emit(new StepQueued(step.Path, lane));
        else
            StartAttempt(step);
    }

    void LaneTurn(LaneInput turn)
    {
        if (state.Find(turn.Step) is { Phase: StepPhase.Queued } step && !IsBlockedByPause(step))
            StartAttempt(step);
    }

    /// <summary>
    /// What the step's expect rules say about a result; null when an expression could not be computed, which has then
    /// failed the step.
    /// </summary>
    (ExpectVerdict Verdict, string? Message)? Expectation(StepState step, AttemptResult result)
    {
        // Most steps expect nothing; they pass here at every end.
        if (step.Step.Expect.Count == 0)
            return (ExpectVerdict.Accept, null);
        var names = new RunBindings(state, step.Scope, at, bounds, limit.Evaluation)
        {
            Result = result.Outputs,
            Probes = step.Hold?.Probes,
        };
        foreach (var rule in step.Step.Expect)
        {
            var value = rule.When.Expression.Evaluate(names);
            if (value.Kind != ValueKind.Bool)
            {
                Fail(
                    step,
                    new(
                        "expression",
                        "an expect rule can't be decided: "
                            + ExpressionExplanation.Of(rule.When.Expression, names, value),
                        rule.When.Expression.Text
                    ),
                    result.Outputs,
                    result.Warnings
                );
                return null;
            }
            if (value.AsBool)
            {
                return (
                    rule.Verdict,
                    MessageOf(rule.Message, names)
                        ?? (
                            $"{rule.When.Expression.Text} holds"
                            + $"{WhyGate.Values(rule.When.Expression.EvaluateExplained(names).Parts)}"
                        )
                );
            }
        }
        return (ExpectVerdict.Accept, null);
    }
}
