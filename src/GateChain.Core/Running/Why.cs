using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.Machine;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>The explanation of one step's fate in a run.</summary>
/// <param name="Sentence">The whole of it in one or two sentences.</param>
public sealed record Why(
    string Step,
    string State,
    string Sentence,
    string Join,
    IReadOnlyList<WhyGate> Gates,
    IReadOnlyList<BranchLook> Branches,
    IReadOnlyList<AttemptRecord> Attempts,
    StepError? Error,
    IReadOnlyList<string> Warnings
)
{
    /// <summary>
    /// What the guard decided last, with the values it saw; null without a guard, or before its first look.
    /// </summary>
    public GuardLooked? Guard { get; init; }

    /// <summary>Explains a step from the state; pure and cheap apart from a look through the attempts.</summary>
    public static Why Of(RunState run, StepState step)
    {
        var released = ReleasedBy(step);
        var gates = step.Step.Incoming.Select(g => WhyGate.Of(step.Scope, g, g == released)).ToList();
        return new(
            step.Path,
            step.Word,
            SentenceOf(run, step, gates),
            step.Step.Join.ToString(),
            gates,
            step.Looks,
            [.. run.Attempts.Where(a => a.Step == step.Path)],
            step.Error,
            [.. step.Warnings.Concat(run.Warnings.Where(w => w.Step == step.Path).Select(w => w.Message)).Distinct()]
        )
        {
            Guard = step.Hold?.Latest,
        };
    }

    // With a join that does not need all gates, the one that was enough. Those that opened in one moment stand in the
    // order in which they did.
    static Gate? ReleasedBy(StepState step) =>
        step.Step.Join.Mode is JoinMode.All or JoinMode.Some || step.Step.Incoming.Count < 2
            ? null
            : step
                .Step.Incoming.Where(g => step.Scope.Gates[g.Index].Phase == GatePhase.Open)
                .OrderBy(g => step.Scope.Steps[g.From.Index].Ended)
                .ThenBy(g => step.Scope.Gates[g.Index].Place)
                .ElementAtOrDefault(step.Step.Join.Mode == JoinMode.Any ? 0 : step.Step.Join.Needed - 1);

    static string SentenceOf(RunState run, StepState step, List<WhyGate> gates)
    {
        var release =
            gates.Count == 0
                ? step.Scope.Owner is { } owner
                    ? $"It starts with “{owner.Path}”, no gate leads to it."
                    : "It starts with the run, no gate leads to it."
                : $"Its join is “{step.Step.Join}”: {JoinWords(step.Step.Join, gates.Count)}. "
                    + $"{gates.Count(g => g.State == "open")} of {gates.Count} "
                    + $"{(gates.Count == 1 ? "gate is" : "gates are")} open.";
        if (step.GoesOn)
            release = "An earlier leg started it; it continues with what has settled in it.";
        if (step.Note is { } note)
            release = $"{char.ToUpperInvariant(note[0])}{note[1..]}.";
        var fate = step.Phase switch
        {
            StepPhase.Pending => "It waits: "
                + (
                    Joins.Verdict(step) == JoinVerdict.Wait ? "not all gates it needs are decided yet."
                    : run.IsPaused ? "the run is paused, and nothing new starts."
                    : run.IsQueued ? "the run is queued."
                    : "it is about to start."
                ),
            StepPhase.Held => GuardWords(step.Hold!)
                + (HoldDescription.WaitsFor(step) is { Length: > 0 } waits ? $" It waits for {waits}." : "")
                + (
                    step.Due is { } next ? $" It looks again at {next:yyyy-MM-dd HH:mm:ss} UTC."
                    : step.IsLooking ? $" It is looking now{(step.Hold!.AskedBy is { } by ? $", as {by} asked" : "")}."
                    : " It has let the step in, which waits for the paused run to continue."
                ),
            StepPhase.Queued =>
                $"It waits for its turn in the lane “{step.Step.Lane}” since {step.QueuedAt:yyyy-MM-dd HH:mm:ss} UTC.",
            StepPhase.Paused => $"It failed: {step.Error?.Message?.TrimEnd('.')}. It has paused the run: "
                + "somebody has to retry it (or start it over), skip, settle or fail it, or stop the run.",
            StepPhase.Running => step.Cancel switch
            {
                CancelReason.Stop => "It was asked to stop and is ending.",
                CancelReason.Timeout => "Its timeout struck and it is ending.",
                CancelReason.Person => $"It was {step.Cancelled?.Sentence.TrimEnd('.')}, and is ending.",
                CancelReason.Halt => "Another step failed and onFailure is halt: what runs in it continues to its "
                    + "end, nothing new starts.",
                _ when step.Child is { } child => $"It lasts as long as run {child.Run}.",
                _ when step.Leftover is { } left =>
                    $"Its attempt was cut off, and {left}; it waits for that to be gone.",
                _ when HoldDescription.WaitsUntil(step) is { } until => $"It {until}.",
                _ => step.Attempt > 1 ? $"It is running attempt {step.Attempt}." : "It is running.",
            },
            StepPhase.Resting =>
                $"Attempt {step.Attempt} failed; the next one starts at {step.Due:yyyy-MM-dd HH:mm:ss} UTC.",
            _ => step.Outcome switch
            {
                Outcome.Succeeded when step.Each is { Failed: > 0 } each =>
                    $"It succeeded, though {each.Failed} of {each.Items.Count} iterations failed, as tolerate allows: "
                        + $"{FailedIterations(each)}.",
                Outcome.Succeeded when step.Answered?.Answer == PauseAnswer.Settle =>
                    $"It counts as succeeded with outputs given by hand; its {(step.Attempt > 1
                        ? $"{step.Attempt} attempts"
                        : "attempt")} failed.",
                Outcome.Succeeded => step.Attempt > 1 ? $"It succeeded on attempt {step.Attempt}." : "It succeeded.",
                Outcome.Failed => $"It failed: {step.Error?.Message}"
                    + $"{(step.IsAbsorbed ? " (absorbed: it does not count against the run)" : "")}",
                Outcome.Skipped when step.Note is null => "It was skipped: " + SkipReason(gates),
                Outcome.Skipped => "It was skipped.",
                _ => "It was stopped" + (step.Started is null ? " before it began." : "."),
            },
        };
        if (
            step.Step.Lane is { } lane
            && step.QueuedAt is { } queued
            && step.Record is { } record
            && record.Started - queued is { TotalMilliseconds: >= 1 } waited
        )
        {
            fate += $" Before it, it waited {TimeText.Brief(waited)} for its turn in the lane “{lane}”.";
        }
        if (step is { Phase: not StepPhase.Pending, Hold.Latest: { IsOverruled: true, By: { } overruledBy } })
            fate += $" Its guard held it, and {overruledBy} let it through.";
        else if (step is { IsLooking: false, Hold.Latest: { By: { } lookedFor } latest })
            fate += $" The last look of its guard ({latest.Look}) was asked for by {lookedFor}.";
        if (step is { IsSettled: true, Scope.Cancelled: { } iteration })
            fate += $" Its iteration was {iteration.Sentence.TrimEnd('.')}.";
        if (step.Answered is { } answered)
            fate += $" While it had paused the run, {answered.By} decided: {answered.Answer.Word()}.";
        return $"{release} {fate}";
    }

    static string GuardWords(HoldState hold) =>
        $"Its guard holds it since {hold.Since:yyyy-MM-dd HH:mm:ss} UTC"
        + $"{(hold.Latest?.Message is { } why ? $": {why}" : "")}. It has looked "
        + $"{(hold.Looks == 1 ? "once" : $"{hold.Looks} times")}.";

    static string JoinWords(Join join, int gates) =>
        join.Mode switch
        {
            JoinMode.All => gates == 1 ? "its gate must open" : "all gates must open",
            JoinMode.Any => "the first gate that opens starts it",
            JoinMode.Some => "it waits until all gates are decided, and starts if at least one is open",
            _ => $"it starts when {join.Needed} gates are open",
        };

    // The first of them by path, and how many more there are.
    static string FailedIterations(EachState each)
    {
        const int most = 5;
        var failed = each.Iterations.Where(i => i?.IterationOutcome == Outcome.Failed).Select(i => i!.Path).ToList();
        var more = failed.Count > most ? $" and {failed.Count - most} more" : "";
        return string.Join(", ", failed.Take(most)) + more;
    }

    static string SkipReason(List<WhyGate> gates)
    {
        var shut = gates.Where(g => g.State == "shut").ToList();
        return shut.Count == 0 ? "its gates did not open." : string.Join(" ", shut.Take(3).Select(g => g.Sentence));
    }
}

/// <summary>One gate that leads to a step, and why it is as it is.</summary>
/// <param name="State"><c>undecided</c>, <c>open</c> or <c>shut</c>.</param>
/// <param name="Saw">The outcome of its source, or the source's state while undecided.</param>
/// <param name="Parts">The parts of its expression with their values.</param>
public sealed record WhyGate(
    string From,
    string Label,
    string State,
    string Saw,
    string Sentence,
    IReadOnlyList<PartValue> Parts,
    string? Error
)
{
    /// <summary>Explains one gate of a living scope.</summary>
    /// <param name="scope">The scope of both steps.</param>
    /// <param name="gate">The gate.</param>
    /// <param name="releases">Whether its opening was what started the step.</param>
    public static WhyGate Of(ScopeState scope, Gate gate, bool releases = false)
    {
        var source = scope.Steps[gate.From.Index];
        ref readonly var state = ref scope.Gates[gate.Index];
        var word = state.Phase.Word();
        var parts = state.Reason?.Parts ?? [];
        var asks = gate.IsElse ? ElseAsks(scope, gate, source) : Asks(gate);
        var looked = gate.When is null || state.Reason is not null;
        var sentence = state.Phase switch
        {
            GatePhase.Undecided => $"“{gate.From.Id}” has not settled yet.",
            _ when state.Reason?.Error is { } error => $"The gate from “{gate.From.Id}” could not be decided: {error}.",
            GatePhase.Open => $"“{gate.From.Id}” {Verb(source)}, and the gate asks for {asks}{Values(parts)}: "
                + $"open{(looked ? "" : " (the expression was not looked at)")}"
                + $"{(releases ? "; that started it" : "")}.",
            _ => $"“{gate.From.Id}” {Verb(source)}, and the gate asks for {asks}{Values(parts)}: "
                + $"shut{(looked ? "" : " (the expression was not looked at)")}.",
        };
        return new(gate.From.Id, gate.Label, word, source.Word, sentence, parts, state.Reason?.Error);
    }

    // The gates beside it that could have opened instead, and what became of them.
    static string ElseAsks(ScopeState scope, Gate gate, StepState source)
    {
        var beside = source
            .Step.Outgoing.Where(g => source.Outcome is { } outcome && g.CountsForElse(outcome))
            .Select(g => $"“{g.Label}” to “{g.To.Id}” is {scope.Gates[g.Index].Phase.Word()}")
            .ToList();
        return $"{Outcomes(gate.On)} and no open condition beside it "
            + $"({(beside.Count == 0 ? "none was asked" : string.Join(", ", beside))})";
    }

    // Outcome and condition, both: a gate with a condition asks for an outcome too.
    static string Asks(Gate gate)
    {
        var outcomes = Outcomes(gate.On);
        return gate.When is null
            ? outcomes
            : $"{outcomes} {(gate.Match == GateMatch.Either ? "or" : "and")} "
                + $"{(gate.Branch is { } branch ? $"branch {branch}" : gate.When.Expression.Text)}";
    }

    static string Outcomes(GateOutcomes on) =>
        on switch
        {
            GateOutcomes.Success => "success",
            GateOutcomes.Failure => "failure",
            GateOutcomes.Completion => "success or failure",
            GateOutcomes.Skipped => "a skip",
            GateOutcomes.Always => "any end",
            _ => string.Join(
                " or ",
                new[]
                {
                    (GateOutcomes.Success, "success"),
                    (GateOutcomes.Failure, "failure"),
                    (GateOutcomes.Skipped, "a skip"),
                }
                    .Where(o => on.HasFlag(o.Item1))
                    .Select(o => o.Item2)
            ),
        };

    static string Verb(StepState source) =>
        source.Outcome switch
        {
            Outcome.Skipped => "was skipped",
            Outcome.Stopped => "was stopped",
            var o => o.Word(),
        };

    // The smallest parts tell most: the names and calls, not the comparison built of them.
    internal static string Values(IReadOnlyList<PartValue> parts)
    {
        var leaves = parts
            .Where(p =>
                p.Value is not null
                && !p.Value.StartsWith("error: ", StringComparison.Ordinal)
                && !parts.Any(q =>
                    !ReferenceEquals(p, q) && q.Start >= p.Start && q.Start + q.Text.Length <= p.Start + p.Text.Length
                )
            )
            .ToList();
        return leaves.Count == 0 ? "" : $" ({string.Join(", ", leaves.Select(p => $"{p.Text} = {p.Value}"))})";
    }
}
