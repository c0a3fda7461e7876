using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary>
/// What the machine does for a kind of step: a class for each kind whose work is control flow, and one for all whose
/// work is outside. It has no state of its own; the decision in the making is handed to it.
/// </summary>
abstract class ControlKind
{
    static readonly Dictionary<string, ControlKind> Kinds = new()
    {
        [ControlKinds.Assign] = new AssignKind(),
        [ControlKinds.Decide] = new DecideKind(),
        [ControlKinds.Wait] = new WaitKind(),
        [ControlKinds.Group] = new GroupKind(),
        [ControlKinds.Each] = new EachKind(),
        [ControlKinds.Repeat] = new RepeatKind(),
        [ControlKinds.Call] = new CallKind(),
        [ControlKinds.Stop] = new StopKind(),
    };

    static readonly OutsideKind Outside = new();

    /// <summary>What is done for a step.</summary>
    public static ControlKind Of(Step step) => Kinds.GetValueOrDefault(step.Kind.Name, Outside);

    /// <summary>Begins an attempt, and does of it what can be done at once.</summary>
    /// <param name="run">The decision.</param>
    /// <param name="step">The step.</param>
    /// <param name="inputs">Its settings.</param>
    /// <param name="due">When the attempt has taken too long; null for never.</param>
    public abstract void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due);

    /// <summary>A moment has come that the running step was waiting for; as a rule its time is up.</summary>
    public virtual void DueCame(Decider run, StepState step) => run.TimeOut(step);

    /// <summary>Its time is up, and all in it has been asked to end.</summary>
    public virtual void EndLate(Decider run, StepState step) => run.ContinueLater(step);

    /// <summary>A container opens what can be opened in it, or ends when nothing is left.</summary>
    public virtual void Continue(Decider run, StepState step) { }

    /// <summary>Everything in one of a container's scopes is settled.</summary>
    public virtual void ScopeEnded(Decider run, StepState step, ScopeState scope) { }

    /// <summary>Whether a running step just ends when it is asked to: there is nothing outside that
    /// continues.</summary>
    public virtual bool EndsAtOnce => false;
}

/// <summary>Kinds whose work is outside: the machine hears of its end.</summary>
sealed class OutsideKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due) =>
        run.Begin(step, inputs, due);
}

/// <summary><c>assign</c>: what it does stands with every step.</summary>
sealed class AssignKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        run.Begin(step, inputs, null);
        run.EndAttempt(step, AttemptResult.Done());
    }
}
