using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// The rounds of a repeat.
sealed partial class Decider
{
    /// <summary>Opens the next round if there is to be one, and ends the repeat if not.</summary>
    void NextRound(StepState step)
    {
        if (step is not { Phase: StepPhase.Running, Repeat: { Current: null } repeat })
            return;
        var rule = step.Step.Repeat!;
        if (step.Cancel != CancelReason.None)
        {
            EndAttempt(step, new(RepeatOutputs(repeat, atLimit: false), new("stopped", "ended between two rounds")));
            return;
        }
        if (repeat.Next > at || HeldBack(step))
            return;
        if (rule.While is { } condition)
        {
            var names = new StateNames(state, step.Scope, at, bounds, limit.Evaluation)
            {
                Round = repeat.Opened.Count + 1,
                Assigned = repeat.Variables,
            };
            var value = condition.Expression.Evaluate(names);
            if (value.Kind != ValueKind.Bool)
            {
                EndAttempt(
                    step,
                    new(
                        RepeatOutputs(repeat, atLimit: false),
                        new(
                            "expression",
                            $"while: {Shortfall.Of(condition.Expression, names, value)}",
                            condition.Expression.Text
                        )
                    )
                );
                return;
            }
            if (!value.AsBool)
            {
                EndAttempt(step, new(RepeatOutputs(repeat, atLimit: false)));
                return;
            }
        }
        if (AtLimit(repeat, rule))
        {
            var outputs = RepeatOutputs(repeat, atLimit: true);
            EndAttempt(
                step,
                rule.AcceptAtLimit
                    ? new(outputs)
                    : new(
                        outputs,
                        new(
                            "limit",
                            $"the limit of {rule.Limit:N0} rounds was reached, and "
                                + (
                                    rule.Until is { } until
                                        ? $"until ({until.Expression.Text}) was still false"
                                        : $"while ({rule.While!.Expression.Text}) was still true"
                                )
                        )
                    )
            );
            return;
        }
        Emit(new RoundOpened(step.Path, repeat.Opened.Count + 1));
        OpenScope(repeat.Opened[^1]);
    }

    static bool AtLimit(RepeatState repeat, RepeatRule rule) => repeat.Opened.Count - repeat.Before >= rule.Limit;

    static Value RepeatOutputs(RepeatState repeat, bool atLimit) =>
        Value.Map(("rounds", Value.Int(repeat.Opened.Count)), ("at_limit", Value.Bool(atLimit)));

    void RoundEnded(StepState owner, ScopeState round)
    {
        if (owner.Phase != StepPhase.Running || owner.Repeat is not { } repeat || repeat.Current != round)
            return;
        var rule = owner.Step.Repeat!;
        var (outcome, error) =
            round.CountedFailures > 0
                ? (Outcome.Failed, FailureOf(round))
                : (
                    round.Steps.Any(s => s.Outcome == Outcome.Stopped) ? Outcome.Stopped : Outcome.Succeeded,
                    (StepError?)null
                );
        IReadOnlyList<PartValue> parts = [];
        var done = false;
        if (outcome == Outcome.Succeeded && owner.Cancel == CancelReason.None && rule.Until is { } until)
        {
            (var value, parts) = until.Expression.EvaluateExplained(Names(round));
            if (value.Kind == ValueKind.Bool)
            {
                done = value.AsBool;
            }
            else
            {
                (outcome, error) = (
                    Outcome.Failed,
                    new("expression", $"until: {Shortfall.Of(until.Expression, parts, value)}", until.Expression.Text)
                );
            }
        }
        Emit(new RoundSettled(owner.Path, round.Index, outcome, parts));
        if (error is not null)
        {
            EndAttempt(owner, new(RepeatOutputs(repeat, atLimit: false), error));
        }
        else if (outcome == Outcome.Stopped && owner.Cancel == CancelReason.None)
        {
            SettleStopped(owner, round);
        }
        else if (done)
        {
            EndAttempt(owner, new(RepeatOutputs(repeat, atLimit: false)));
        }
        else
        {
            var ends = owner.Cancel != CancelReason.None || (rule.Until is not null && AtLimit(repeat, rule));
            if (rule.Pause > TimeSpan.Zero && !ends)
                Emit(new RoundsRest(owner.Path, at + rule.Pause));
            else
                _work.Enqueue(new(WorkKind.NextRound, owner, null));
        }
    }

    /// <summary>
    /// A container in which something was stopped by itself, as a child run can be, and nothing failed.
    /// </summary>
    void SettleStopped(StepState owner, ScopeState scope)
    {
        var stopped = scope.Steps.First(s => s.Outcome == Outcome.Stopped);
        Settle(owner, Outcome.Stopped, note: $"{stopped.Path}: {stopped.Note ?? "it was stopped"}");
    }
}
