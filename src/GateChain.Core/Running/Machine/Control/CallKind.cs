using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary><c>call</c>: lasts as long as its child run, or until that has begun.</summary>
sealed class CallKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        if ((run.State.Parent?.Depth ?? 0) >= CallRule.MaxDepth)
        {
            run.Fail(step, new("depth", $"child chains are nested more than {CallRule.MaxDepth} deep"));
            return;
        }
        var (given, error) = Inputs(run, step);
        if (error is not null)
            run.Fail(step, error);
        else
            run.Begin(step, given, due);
    }

    /// <summary>What a call gives its child; or what is wrong with that.</summary>
    public static (Value Inputs, StepError? Error) Inputs(Decider run, StepState step)
    {
        var inputs = new List<KeyValuePair<string, Value>>();
        foreach (var input in step.Step.Call!.Inputs)
        {
            var value = input.Expression.Evaluate(run.Names(step.Scope));
            if (value.IsError)
            {
                return (
                    Value.EmptyMap,
                    new(
                        "expression",
                        $"input “{input.Name}”: "
                            + ExpressionExplanation.Of(input.Expression, run.Names(step.Scope), value),
                        input.Expression.Text
                    )
                );
            }
            if (run.Bounds.Refuse(value) is { } tooBig)
                return (Value.EmptyMap, new("too-big", $"input “{input.Name}”: {tooBig}", input.Expression.Text));
            inputs.Add(KeyValuePair.Create(input.Name, value.Kind == ValueKind.Optional ? value.Inner : value));
        }
        var (chain, release) = step.Step.Call.Child;
        var given = ("inputs", Value.Map(DictionaryMap.Of(inputs)));
        return (
            release is { } number
                ? Value.Map(("chain", Value.String(chain)), ("release", Value.Int(number)), given)
                : Value.Map(("chain", Value.String(chain)), given),
            null
        );
    }

    static StepState? Caller(Decider run, string path, int attempt) =>
        run.State.Find(path) is { Phase: StepPhase.Running, Step.Call: not null } step && step.Attempt == attempt
            ? step
            : null;

    /// <summary>The child of a call was started, found or resumed.</summary>
    public static void ChildStarted(Decider run, ChildStartedInput child)
    {
        if (
            Caller(run, child.Step, child.Attempt) is not { } step
            || step.Child == new ChildState(child.Run, child.Leg, ToResume: false)
        )
        {
            return;
        }
        run.Emit(new ChildStarted(step.Path, child.Attempt, child.Run, child.Leg));
        if (!step.Step.Call!.Wait)
            run.EndAttempt(step, AttemptResult.Done(("run", Value.Int(child.Run))));
    }

    /// <summary>The child of a call has ended.</summary>
    public static void ChildEnded(Decider run, ChildEndedInput child)
    {
        if (
            run.State.Find(child.Step) is not { Phase: StepPhase.Running, Step.Call: not null } step
            || (child.Run is not null && step.Child?.Run != child.Run)
        )
        {
            return;
        }
        var outputs = step.Child is { } of
            ? Value.Map(
                DictionaryMap.Of(
                    child
                        .Outputs.AsMap.Entries.Select(e => KeyValuePair.Create(e.Key.AsString, e.Value))
                        .Append(KeyValuePair.Create("run", Value.Int(of.Run)))
                )
            )
            : child.Outputs;
        if (child.Outcome == Outcome.Succeeded)
            run.EndAttempt(step, new(outputs, null, child.Absent));
        else if (child.Outcome == Outcome.Stopped && step.Cancel == CancelReason.None && !run.State.IsStopping)
            run.Settle(step, Outcome.Stopped, outputs, note: child.Error?.Message ?? "its child run was stopped");
        else
            run.EndAttempt(step, new(outputs, child.Error ?? new("child", "its child run was stopped")));
    }
}
