using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary><c>repeat</c>: its steps round after round.</summary>
sealed class RepeatKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        run.Begin(step, inputs, due);
        Continue(run, step);
    }

    // Between two rounds it rests.
    public override void DueCame(Decider run, StepState step)
    {
        if (step.Repeat?.Next is { } next && next <= run.At && step.Cancel is CancelReason.None)
            Continue(run, step);
        else
            base.DueCame(run, step);
    }

    /// <summary>Opens the next round if there is to be one, and ends the repeat if not.</summary>
    public override void Continue(Decider run, StepState step)
    {
        if (step is not { Phase: StepPhase.Running, Repeat: { Current: null } repeat })
            return;
        var rule = step.Step.Repeat!;
        if (step.Cancel != CancelReason.None)
        {
            run.EndAttempt(step, new(Outputs(repeat, atLimit: false), new("stopped", "ended between two rounds")));
            return;
        }
        if (repeat.Next > run.At || run.IsBlockedByPause(step))
            return;
        if (rule.While is { } condition)
        {
            var names = new RunBindings(run.State, step.Scope, run.At, run.Bounds, run.Limit.Evaluation)
            {
                Round = repeat.Opened.Count + 1,
                Assigned = repeat.Variables,
            };
            var value = condition.Expression.Evaluate(names);
            if (value.Kind != ValueKind.Bool)
            {
                run.EndAttempt(
                    step,
                    new(
                        Outputs(repeat, atLimit: false),
                        new(
                            "expression",
                            $"while: {ExpressionExplanation.Of(condition.Expression, names, value)}",
                            condition.Expression.Text
                        )
                    )
                );
                return;
            }
            if (!value.AsBool)
            {
                run.EndAttempt(step, new(Outputs(repeat, atLimit: false)));
                return;
            }
        }
        if (AtLimit(repeat, rule))
        {
            var outputs = Outputs(repeat, atLimit: true);
            run.EndAttempt(
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
        run.Emit(new RoundOpened(step.Path, repeat.Opened.Count + 1));
        run.OpenScope(repeat.Opened[^1]);
    }

    static bool AtLimit(RepeatState repeat, RepeatRule rule) => repeat.Opened.Count - repeat.Before >= rule.Limit;

    static Value Outputs(RepeatState repeat, bool atLimit) =>
        Value.Map(("rounds", Value.Int(repeat.Opened.Count)), ("at_limit", Value.Bool(atLimit)));

    public override void ScopeEnded(Decider run, StepState step, ScopeState round)
    {
        if (step.Phase != StepPhase.Running || step.Repeat is not { } repeat || repeat.Current != round)
            return;
        var rule = step.Step.Repeat!;
        var (outcome, error) =
            round.CountedFailures > 0
                ? (Outcome.Failed, run.FailureOf(round))
                : (
                    round.Steps.Any(s => s.Outcome == Outcome.Stopped) ? Outcome.Stopped : Outcome.Succeeded,
                    (StepError?)null
                );
        IReadOnlyList<PartValue> parts = [];
        var done = false;
        if (outcome == Outcome.Succeeded && step.Cancel == CancelReason.None && rule.Until is { } until)
        {
            (var value, parts) = until.Expression.EvaluateExplained(run.Names(round));
            if (value.Kind == ValueKind.Bool)
            {
                done = value.AsBool;
            }
            else
            {
                (outcome, error) = (
                    Outcome.Failed,
                    new(
                        "expression",
                        $"until: {ExpressionExplanation.Of(until.Expression, parts, value)}",
                        until.Expression.Text
                    )
                );
            }
        }
        run.Emit(new RoundSettled(step.Path, round.Index, outcome, parts));
        if (error is not null)
        {
            run.EndAttempt(step, new(Outputs(repeat, atLimit: false), error));
        }
        else if (outcome == Outcome.Stopped && step.Cancel == CancelReason.None)
        {
            run.SettleStopped(step, round);
        }
        else if (done)
        {
            run.EndAttempt(step, new(Outputs(repeat, atLimit: false)));
        }
        else
        {
            var ends = step.Cancel != CancelReason.None || (rule.Until is not null && AtLimit(repeat, rule));
            if (rule.Pause > TimeSpan.Zero && !ends)
                run.Emit(new RoundsRest(step.Path, run.At + rule.Pause));
            else
                run.ContinueLater(step);
        }
    }
}
