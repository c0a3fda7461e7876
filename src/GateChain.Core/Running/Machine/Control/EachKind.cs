using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary><c>each</c>: its steps once for each item of a list.</summary>
sealed class EachKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        var over = step.Step.Each!.Over.Expression;
        var items = over.Evaluate(run.Names(step.Scope));
        if (items.Kind != ValueKind.List)
        {
            run.Fail(
                step,
                new(
                    "expression",
                    $"over: {ExpressionExplanation.Of(over, run.Names(step.Scope), items, "list")}",
                    over.Text
                )
            );
            return;
        }
        if (run.NoRoomFor(items) is { } tooBig)
        {
            run.Fail(step, new("too-big", $"over: {tooBig}", over.Text));
            return;
        }
        run.Begin(step, inputs, due);
        run.Emit(new EachOpened(step.Path, items));
        Continue(run, step);
    }

    /// <summary>
    /// Opens iterations as far as <c>parallel</c> and <c>tolerate</c> allow, and ends the each when none is left.
    /// </summary>
    public override void Continue(Decider run, StepState step)
    {
        if (step.Phase != StepPhase.Running || step.Each is not { } each)
            return;
        var rule = step.Step.Each!;
        var closing = step.Cancel != CancelReason.None;
        bool Exhausted() => !rule.Tolerate.Allows(each.Failed, each.Items.Count);
        while (
            !closing
            && !run.IsBlockedByPause(step)
            && !Exhausted()
            && each.InFlight < rule.Parallel
            && (each.Again.Count > 0 || each.Next < each.Items.Count)
        )
        {
            var again = each.Again.Count > 0;
            var index = again ? each.Again.Peek() : each.Next;
            run.Emit(new IterationOpened(step.Path, index));
            var scope = each.Opened[index]!;
            if (again)
                run.Continue(scope);
            else
                run.OpenScope(scope);
        }
        var left = each.Again.Count > 0 || each.Next < each.Items.Count;
        if (each.InFlight == 0 && !(left && !closing && !Exhausted()))
        {
            // Iterations of an earlier leg whose turn did not come stay in the queue for the next leg.
            foreach (var index in each.Again)
                run.Close(each.Opened[index]!, CancelReason.Stop);
            if (!closing && !Exhausted() && each.Stopped > 0)
                run.SettleStopped(step, each.Opened.First(i => i?.IterationOutcome == Outcome.Stopped)!);
            else
                run.EndAttempt(step, Result(run, step, each, Exhausted()));
        }
    }

    static AttemptResult Result(Decider run, StepState step, EachState each, bool exhausted)
    {
        var collected = step.Step.Each!.Collect is null
            ? Value.EmptyList
            : Value.List([
                .. each
                    .Opened.Where(i => i?.IterationOutcome == Outcome.Succeeded)
                    .Select(i => i!.Collected ?? Value.Null),
            ]);
        var outputs = Value.Map(
            ("collected", collected),
            ("count", Value.Int(each.Items.Count)),
            ("succeeded", Value.Int(each.Succeeded)),
            ("failed", Value.Int(each.Failed))
        );
        if (step.IsEnding || (step.Cancel != CancelReason.None && !exhausted))
            return new(outputs, new("stopped", "ended before all iterations were through"));
        if (!exhausted)
            return new(outputs);
        var first = each.Opened.First(i => i?.IterationOutcome == Outcome.Failed)!;
        var inner = first.IterationError is { } why ? new("failed", $"{first.Path}: {why}") : run.FailureOf(first);
        return new(
            outputs,
            new(
                "iterations",
                $"{FailedIterations(step.Step.Each!, each, first)}: {inner.Message}",
                Origin: inner.Origin
            )
        );
    }

    // Which one failed, how many may, and what became of the others.
    static string FailedIterations(EachRule rule, EachState each, ScopeState first)
    {
        var (all, begun) = (each.Items.Count, each.Settled);
        var which =
            $"iteration {first.Index + 1}{(each.Failed == 1 ? $" of {all}" : "")} (“{LoopItems.Name(first.Item)}”)";
        var others = string.Join(
            ", ",
            new[]
            {
                (each.Succeeded, "succeeded"),
                (each.Stopped, each.Stopped == 1 ? "was stopped" : "were stopped"),
                (each.Skipped, each.Skipped == 1 ? "was skipped" : "were skipped"),
                (all - begun, all - begun == 1 ? "was not started" : "were not started"),
            }
                .Where(o => o.Item1 > 0)
                .Select(o => $"{o.Item1} {o.Item2}")
        );
        return $"{(each.Failed == 1 ? which : $"{each.Failed} of {all} iterations")} failed, "
            + $"and {rule.Tolerate.InWords(all)} may{(others.Length > 0 ? $"; {others}" : "")}"
            + $"{(each.Failed == 1 ? "" : $"; the first was {which}")}";
    }

    public override void ScopeEnded(Decider run, StepState step, ScopeState scope)
    {
        if (!scope.IsOpen || step.Each is null)
            return;
        // What a person said holds, unless all of it ends meanwhile.
        var cancelled = step.IsEnding || run.State.IsStopping ? null : scope.Cancelled;
        var outcome = cancelled?.As
            ?? (
                scope.CountedFailures > 0 ? Outcome.Failed
                : scope.Steps.Any(s => s.Outcome == Outcome.Stopped) ? Outcome.Stopped
                : Outcome.Succeeded
            );
        Value? collected = null;
        var error = outcome == Outcome.Failed ? cancelled?.Sentence : null;
        if (outcome == Outcome.Succeeded && step.Step.Each!.Collect is { } collect)
        {
            var value = cancelled?.Outputs.AsMap.Find("collected") ?? collect.Expression.Evaluate(run.Names(scope));
            if (value.IsError)
            {
                (outcome, error) = (
                    Outcome.Failed,
                    $"collect: {ExpressionExplanation.Of(collect.Expression, run.Names(scope), value)}"
                );
            }
            else if ((run.Bounds.Refuse(value) ?? run.NoRoomFor(value)) is { } tooBig)
            {
                (outcome, error) = (Outcome.Failed, $"collect: {tooBig}");
            }
            else
            {
                collected = value.Kind == ValueKind.Optional ? value.Inner : value;
            }
        }
        run.Emit(new IterationSettled(step.Path, scope.Index, outcome, collected, error));
        run.ContinueLater(step);
    }
}
