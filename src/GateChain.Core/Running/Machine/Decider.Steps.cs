using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.Machine.Control;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// A step's way from pending to settled.
sealed partial class Decider
{
    /// <summary>Looks whether a pending step is released or skipped by its gates.</summary>
    void Look(StepState step)
    {
        if (step.Phase != StepPhase.Pending)
            return;
        if (step.SkipInLeg)
        {
            Settle(step, Outcome.Skipped, note: "skipped by the resume");
            return;
        }
        if (step.SettleInLeg is { } given)
        {
            SettleByHand(step, given, "settled by the resume, with outputs given by hand");
            return;
        }
        if (state.Redo.Count > 0 && WaitsForRedo(step))
            return;
        switch (TriedVerdict(step) ?? Joins.Verdict(step))
        {
            case JoinVerdict.Wait:
                break;
            case JoinVerdict.Release when IsBlockedByPause(step) || PausesBefore(step):
                break;
            case JoinVerdict.Release:
                Release(step);
                break;
            case JoinVerdict.Skip:
                Settle(step, Outcome.Skipped);
                break;
            default:
                break;
        }
    }

    void Release(StepState step)
    {
        if (step.Step.Disabled)
        {
            Settle(step, Outcome.Succeeded, note: "disabled: did not run and counts as succeeded, without outputs");
        }
        else if (step.GoesOn)
        {
            Reopen(step);
        }
        // One that is tried again after a pause was let in before.
        else if (
            step.Step.Guard is not null
            && !(step.Answered is not null && step.Hold?.Latest?.Verdict == Verdict.Proceed)
        )
        {
            AskGuard(step, woken: false);
        }
        else
        {
            Enter(step);
        }
    }

    void StartAttempt(StepState step)
    {
        var inputs = step.Step.Settings.Constant
            ?? step.Step.Settings.Evaluate(
                new RunBindings(state, step.Scope, at, bounds, limit.Evaluation) { Probes = step.Hold?.Probes }
            );
        if (inputs.IsError)
        {
            Fail(step, ExpressionError(inputs.AsError));
            return;
        }
        DateTimeOffset? due = step.Step.Timeout is { } timeout ? at + timeout : null;
        ControlKind.Of(step.Step).Start(this, step, inputs, due);
    }

    public void Begin(StepState step, Value inputs, DateTimeOffset? due) =>
        Emit(new AttemptStarted(step.Path, step.Attempt + 1, inputs, due));

    /// <summary>An attempt of a kind, a wait, a call or a container ended.</summary>
    public void EndAttempt(StepState step, AttemptResult result)
    {
        if (TooBig(result.Outputs) is { } why)
            result = result.Succeeded ? AttemptResult.Fail("too-big", why) : result with { Outputs = Value.EmptyMap };
        if (step is { Cancel: CancelReason.Person, Cancelled: { } order })
        {
            SettleCancelled(step, order, result);
            return;
        }
        if (result.Succeeded)
        {
            if (Expectation(step, result) is not { } expected)
                return;
            var (verdict, message) = expected;
            switch (verdict)
            {
                case ExpectVerdict.Accept:
                    Accept(step, result);
                    break;
                case ExpectVerdict.Warn:
                    Emit(new RunWarned(step.Path, message!));
                    Accept(step, result with { Warnings = [.. result.Warnings ?? [], message!] });
                    break;
                case ExpectVerdict.Redo:
                    TryAgain(step, result with { Error = new("expect", message!) }, always: true);
                    break;
                default:
                    Fail(step, new("expect", message!), result.Outputs, result.Warnings);
                    break;
            }
            return;
        }
        if (
            ClosesBy(CancelReason.Stop)
            || ClosesBy(CancelReason.Halt)
            || (state.IsStopping && (!step.Scope.IsHandler || EnclosedInClosing(step)))
        )
        {
            Settle(step, Outcome.Stopped, result.Outputs, warnings: result.Warnings);
            return;
        }
        TryAgain(
            step,
            step.Cancel == CancelReason.Timeout ? result with { Error = TimeoutError(step) } : result,
            always: false
        );

        // A halted container in which something failed has failed all the same.
        bool ClosesBy(CancelReason reason) =>
            step.Cancel == reason && !(reason == CancelReason.Halt && result.Error!.Code != "stopped");
    }

    /// <summary>Why outputs are too big to be kept; null when they are not.</summary>
    string? TooBig(Value outputs) => bounds.RefuseAny(outputs, gathered: true) ?? NoRoomFor(outputs);

    public string? NoRoomFor(Value value) =>
        state.HasRoomFor(value.Size, bounds.RunSize)
            ? null
            : $"all values of this run together would have more than {Bounds.Text(bounds.RunSize)}";

    void Accept(StepState step, AttemptResult result)
    {
        if (Assign(step, result.Outputs) is { } wrong)
        {
            Fail(step, wrong, result.Outputs, result.Warnings);
            return;
        }
        Settle(step, Outcome.Succeeded, result.Outputs, warnings: result.Warnings);
    }

    /// <summary>Rests for another attempt if there is one left, and fails if not.</summary>
    void TryAgain(StepState step, AttemptResult result, bool always)
    {
        if (
            step.Step.Retry is { } retry
            && step.Retries < retry.Limit
            && step.Cancel != CancelReason.Halt
            && (always || MakesSense(step, retry, result.Error!))
        )
        {
            Emit(new AttemptFailed(step.Path, step.Attempt, result.Error!, at + Rest(step, retry)));
            return;
        }
        var error = result.Error!;
        if (always)
        {
            error = error with
            {
                Message =
                    $"expect asks for another attempt ({error.Message}), and "
                    + $"{(step.Step.Retry is { } all ? $"all {all.Limit + 1} are used up" : "there is no retry")}",
            };
        }
        Fail(step, error, result.Outputs, result.Warnings);
    }

    static StepError TimeoutError(StepState step) =>
        new(
            "timeout",
            $"the attempt took longer than its timeout of {TimeText.Setting(step.Step.Timeout ?? TimeSpan.Zero)}"
        );

    bool MakesSense(StepState step, RetryRule retry, StepError error)
    {
        if (retry.When is null)
            return true;
        var names = new RunBindings(state, step.Scope, at, bounds, limit.Evaluation) { Error = error };
        var value = retry.When.Expression.Evaluate(names);
        if (value.Kind == ValueKind.Bool)
            return value.AsBool;
        Emit(
            new RunWarned(
                step.Path,
                "retry.when gave no bool, so there is no further attempt: "
                    + $"{ExpressionExplanation.Of(retry.When.Expression, names, value)}"
            )
        );
        return false;
    }

    // Chance would make the machine impure; the jitter is drawn from the names of what it is for.
    TimeSpan Rest(StepState step, RetryRule retry)
    {
        var wait = retry.Wait.TotalSeconds * Math.Pow(retry.Factor, step.Retries);
        if (retry.Max is { } max)
            wait = Math.Min(wait, max.TotalSeconds);
        uint hash = 2166136261;
        foreach (var c in $"{state.Uid}/{step.Path}/{step.Attempt}")
            hash = (hash ^ c) * 16777619;
        // Every bit of the names counts in every bit of the share.
        hash = (hash ^ (hash >> 16)) * 0x85ebca6b;
        hash = (hash ^ (hash >> 13)) * 0xc2b2ae35;
        hash ^= hash >> 16;
        var share = retry.Jitter * (hash / (double)uint.MaxValue * 2 - 1);
        return TimeSpan.FromSeconds(Math.Clamp(wait * (1 + share), 0, TimeSpan.FromDays(3650).TotalSeconds));
    }

    /// <summary>Applies the step's assignments, all or none. Gives the error when one can't be computed.</summary>
    StepError? Assign(StepState step, Value result)
    {
        if (step.Step.Assignments.Count == 0)
            return null;
        var assigned = new Dictionary<string, Value>();
        var names = new RunBindings(state, step.Scope, at, bounds, limit.Evaluation)
        {
            Result = result,
            Assigned = assigned,
            Probes = step.Hold?.Probes,
        };
        var events = new List<VariableSet>();
        foreach (var assignment in step.Step.Assignments)
        {
            var name = assignment.Name.StartsWith("vars.", StringComparison.Ordinal)
                ? assignment.Name[5..]
                : assignment.Name;
            var home = step.Scope.Outward.FirstOrDefault(s => s.Variables.ContainsKey(name));
            if (home is null)
                return new("assign", $"there is no variable “{name}” here");
            var value = assignment.Expression.Evaluate(names);
            if (value.IsError)
            {
                return new(
                    "expression",
                    $"assign {assignment.Name}: {ExpressionExplanation.Of(assignment.Expression, names, value)}",
                    assignment.Expression.Text
                );
            }
            var type = home.Scope.Variables.First(v => v.Name == name).Type;
            var (converted, problem) =
                value.Kind == ValueKind.Optional
                    ? (null, "it is an optional; take its value with orValue(…)")
                    : Fits(type, value);
            problem ??= bounds.Refuse(value) ?? NoRoomFor(value);
            if (converted is null || problem is not null)
                return new("assign", $"assign {assignment.Name}: {problem}", assignment.Expression.Text);
            assigned[name] = converted.Value;
            events.Add(new(home.Path, name, converted.Value, step.Path));
        }
        foreach (var set in events)
            Emit(set);
        return null;
    }

    // Text is not read as a number here: what an expression computes must have the type, only ints widen to double.
    static (Value? Value, string? Problem) Fits(CelType type, Value value) =>
        value.IsNull ? (value, null)
        : value.Kind == ValueKind.String && type.Name is not ("string" or "any")
            ? (null, $"the variable is {Article.Of(type)}, and this is a string")
        : Conversion.To(type, value);

    /// <summary>A failure for good: it settles the step, or pauses the run where the step says so.</summary>
    public void Fail(
        StepState step,
        StepError error,
        Value? outputs = null,
        IReadOnlyList<string>? warnings = null,
        IReadOnlyList<BranchLook>? looks = null
    )
    {
        if (
            step.Step.IfFails == FailureRule.Pause
            && !step.Scope.IsHandler
            && !state.IsStopping
            && !EnclosedInClosing(step)
        )
        {
            PauseAt(step, error, outputs);
        }
        else
        {
            Settle(step, Outcome.Failed, outputs, error, warnings: warnings, looks: looks);
        }
    }

    static StepError ExpressionError(EvaluationError error) => new("expression", error.Message);

    public void Settle(
        StepState step,
        Outcome outcome,
        Value? outputs = null,
        StepError? error = null,
        string? note = null,
        IReadOnlyList<string>? warnings = null,
        IReadOnlyList<BranchLook>? looks = null
    )
    {
        // What a leg would have continued with inside stays for the next one.
        if (step.GoesOn)
        {
            foreach (var inner in step.InnerScopes.Where(i => i.Unsettled > 0))
                Close(inner, CancelReason.Stop);
        }
        Emit(
            new StepSettled(
                step.Path,
                outcome,
                outputs ?? Value.EmptyMap,
                error,
                note,
                warnings is { Count: > 0 } ? warnings : null,
                looks
            )
        );
        var gates = step.Step.Outgoing;
        for (var i = 0; i < gates.Count; i++)
            DecideGate(step, gates[i]);
        if (
            step.IsCountedFailure
            && state.Chain.OnFailure == FailureReach.Halt
            && !step.Scope.IsHandler
            && !state.IsStopping
        )
        {
            Halt(step.Scope);
        }
        if (state.Redo.Count > 0 && state.Redo.Contains(step))
            LookAgain(step.Scope);
        EndIfSettled(step.Scope);
    }

    void LookAgain(ScopeState scope)
    {
        foreach (var pending in scope.Steps.Where(s => s.Phase == StepPhase.Pending))
            _work.Enqueue(new(WorkKind.Look, pending, null));
    }
}
