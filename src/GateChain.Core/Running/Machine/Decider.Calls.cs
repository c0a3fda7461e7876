using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// Child runs: a call lasts as long as its child, a wait as long as the runs it names.
sealed partial class Decider
{
    void StartCall(StepState step, DateTimeOffset? due)
    {
        if ((state.Parent?.Depth ?? 0) >= CallRule.MaxDepth)
        {
            Fail(step, new("depth", $"child chains are nested more than {CallRule.MaxDepth} deep"));
            return;
        }
        var (inputs, error) = CallInputs(step);
        if (error is not null)
            Fail(step, error);
        else
            Begin(step, inputs, due);
    }

    (Value Inputs, StepError? Error) CallInputs(StepState step)
    {
        var inputs = new List<KeyValuePair<string, Value>>();
        foreach (var input in step.Step.Call!.Inputs)
        {
            var value = input.Expression.Evaluate(Names(step.Scope));
            if (value.IsError)
            {
                return (
                    Value.EmptyMap,
                    new(
                        "expression",
                        $"input “{input.Name}”: {Shortfall.Of(input.Expression, Names(step.Scope), value)}",
                        input.Expression.Text
                    )
                );
            }
            if (bounds.Refuse(value) is { } tooBig)
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

    StepState? Caller(string path, int attempt) =>
        state.Find(path) is { Phase: StepPhase.Running, Step.Call: not null } step && step.Attempt == attempt
            ? step
            : null;

    void ChildStarted(ChildStartedInput child)
    {
        if (
            Caller(child.Step, child.Attempt) is not { } step
            || step.Child == new ChildState(child.Run, child.Leg, ToResume: false)
        )
        {
            return;
        }
        Emit(new ChildStarted(step.Path, child.Attempt, child.Run, child.Leg));
        if (!step.Step.Call!.Wait)
            EndAttempt(step, AttemptResult.Done(("run", Value.Int(child.Run))));
    }

    void ChildEnded(ChildEndedInput child)
    {
        if (
            state.Find(child.Step) is not { Phase: StepPhase.Running, Step.Call: not null } step
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
            EndAttempt(step, new(outputs, null, child.Absent));
        else if (child.Outcome == Outcome.Stopped && step.Cancel == CancelReason.None && !state.IsStopping)
            Settle(step, Outcome.Stopped, outputs, note: child.Error?.Message ?? "its child run was stopped");
        else
            EndAttempt(step, new(outputs, child.Error ?? new("child", "its child run was stopped")));
    }

    static bool WaitsForRuns(StepState step) =>
        step.Step.Kind.Name == ControlKinds.Wait && step.Inputs.AsMap.Find("runs") is not null;

    void RunsEnded(RunsEndedInput ended)
    {
        if (
            state.Find(ended.Step) is { Phase: StepPhase.Running } step
            && step.Attempt == ended.Attempt
            && WaitsForRuns(step)
        )
        {
            EndAttempt(step, ended.Result);
        }
    }
}
