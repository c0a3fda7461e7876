using GateChain.Core.Running.Events;
using GateChain.Core.Running.Machine;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>When a decision has taken long enough. The machine has no clock; it is told from outside.</summary>
/// <param name="Decision">What continues without waiting is left to the next decision.</param>
/// <param name="Evaluation">The expression that is being computed is ended with an error.</param>
public readonly record struct TimeLimit(CancellationToken Decision, CancellationToken Evaluation);

/// <summary>
/// The run machine: the only place that knows what gates, joins, containers, retries and legs mean.
/// It is a function of state and input: no clock, no chance, no I/O; the moment travels in the input.
/// </summary>
/// <remarks>
/// A step instance lives like this:
/// <code>
///           released        proceeds       its turn            works, and the result is accepted
///   pending ------> held ----------> queued ------> running ------------------------------> settled
///      |  (guard)    |    (lane)                    ^   |  failed or redo, may try again      ^
///      |             |                              |   v                                     |
///      |             |                             resting                                    |
///      |             |                                  failed, ifFails: pause   answered     |
///      |             |                              running --------> paused ----------------->
///      +-------------+------------------------------------------------------------------------+
///                                             skipped, stopped, failed on the threshold, disabled
/// </code>
/// A run is queued until others of its chain have ended, then runs; while a person has paused it or a step of it is
/// paused, nothing new starts. When its own steps are through, its handlers run, and then it settles.
/// Invariants, asserted by the tests over random chains:
/// 1. A gate is decided exactly once per leg, when its source settles.
/// 2. A step settles exactly once per leg, and starts only after its join has released it.
/// 3. When no step is in flight, held, queued, resting or waiting and the run is not paused or queued itself, it has
/// ended.
/// 4. Folding the journal gives the live state.
/// 5. A step that succeeded starts again in a later leg only if the leg's resets name it.
/// 6. While a run is paused no attempt, look, round or iteration begins, but in handlers and after a crash.
/// </remarks>
public static class RunMachine
{
    /// <summary>
    /// Decides what follows from an input. The state takes each event in as soon as it is decided; the caller
    /// journals the decision before acting on it, and drops the state when that can't be done.
    /// </summary>
    /// <param name="state">The run; it takes the events in.</param>
    /// <param name="input">What has come.</param>
    /// <param name="bounds">How big values and decisions may be; the defaults when null.</param>
    /// <param name="limit">Tells when time is up; never when absent.</param>
    public static DecideResult Decide(RunState state, RunInput input, Bounds? bounds = null, TimeLimit limit = default)
    {
        if (Refusals.Of(state, input) is { } refused)
            return refused;
        var decider = new Decider(state, input.At, bounds ?? Bounds.Default, limit);
        decider.Take(input);
        return decider.Events.Count == 0 ? Unchanged.Instance : new Decided(new(input.At, decider.Events));
    }

    /// <summary>
    /// Why <see cref="Decide"/> would refuse an input; null when it would not. The state stays as it is.
    /// </summary>
    public static Refused? RefusalOf(RunState state, RunInput input) => Refusals.Of(state, input);

    /// <summary>
    /// Adds a warning of the run as a whole to what was just decided. For what only shows when it is to be written.
    /// </summary>
    public static Decided Warn(RunState state, Decided decided, string message)
    {
        var warned = new RunWarned("", message);
        state.Apply(warned, decided.Decision.At);
        return new(decided.Decision with { Events = [.. decided.Decision.Events, warned] });
    }

    /// <summary>What a resume would do, or why it can't be.</summary>
    public static ResumePlan PlanResume(RunState state, ResumeSelection wish) => ResumePlan.For(state, wish);
}
