using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Rehearsing;

/// <summary>One thing that happened in a rehearsal.</summary>
/// <param name="What"><c>step</c>, <c>gate</c>, <c>guard</c>, <c>loop</c>, <c>set</c>, <c>note</c> or
/// <c>run</c>.</param>
/// <param name="Path">Whose it is; steps of child runs lie behind the path of the call.</param>
/// <param name="Text">A sentence without its subject.</param>
/// <param name="Outcome">For steps, iterations and runs that settle: how; for gates <c>open</c> or <c>shut</c>.</param>
public sealed record TraceLine(string What, string Path, string Text, string? Outcome = null);

/// <summary>Tells the journal of a rehearsal line by line, child runs where they belong.</summary>
public static class Trace
{
    const int MaxText = 160;

    public static IEnumerable<TraceLine> Of(Rehearsal rehearsal) => Brief(Of(rehearsal, ""));

    /// <summary>Tells one decision of a run.</summary>
    /// <param name="run">The run as it was behind the decision.</param>
    /// <param name="decision">The decision.</param>
    public static IEnumerable<TraceLine> Of(RunState run, Decision decision) =>
        decision.Events.Select(e => Line(run, e) ?? Began(e)).OfType<TraceLine>();

    // What a rehearsal does not need to be told.
    static TraceLine? Began(RunEvent e) =>
        e switch
        {
            RunStarted started => new("run", "", $"begins, by {started.By.Name}"),
            RunReleased => new("run", "", "had waited for others, and begins now"),
            LegStarted leg => new("run", "", $"leg {leg.Leg} begins, by {leg.By.Name}"),
            AttemptLost lost => new("step", lost.Step, $"attempt {lost.Attempt} was lost when its service ended"),
            ChildStarted child => new("note", child.Step, $"run {child.Run} is its child"),
            PauseAsked pause => new("run", "", $"{pause.By.Name} pauses it"),
            PauseAnswered answered => new("step", answered.Step, $"{answered.By.Name} has decided about it"),
            StepCancelled cancelled => new("step", cancelled.Step, $"{cancelled.By.Name} ends it"),
            _ => null,
        };

    // Of the looks of a guard that holds on and on, the first and the last are told.
    static IEnumerable<TraceLine> Brief(IEnumerable<TraceLine> lines)
    {
        TraceLine? last = null;
        var held = 0;
        foreach (var line in lines)
        {
            var again =
                last is not null
                && line is { What: "guard", Outcome: "hold" }
                && line.What == last.What
                && line.Outcome == last.Outcome
                && line.Path == last.Path;
            if (!again && held > 0)
            {
                yield return last!;
                held = 0;
            }
            if (again)
                held++;
            else
                yield return line;
            last = line;
        }
        if (held > 0)
            yield return last!;
    }

    static IEnumerable<TraceLine> Of(Rehearsal rehearsal, string above)
    {
        foreach (var e in rehearsal.Journal.SelectMany(d => d.Events))
        {
            if (e is ChildStarted child && rehearsal.Children.TryGetValue((child.Step, child.Attempt), out var inner))
            {
                yield return new("note", above + child.Step, $"the chain “{inner.State.Chain.Name}” begins");
                foreach (var line in Of(inner, $"{above}{child.Step}/"))
                    yield return line;
            }
            else if (Line(rehearsal.State, e) is { } line)
            {
                yield return line with
                {
                    Path = line.Path.Length == 0 ? above.TrimEnd('/') : above + line.Path,
                };
            }
        }
        foreach (var kept in Kept(rehearsal.State))
            yield return new("note", above.TrimEnd('/'), kept);
        if (rehearsal.State.IsPaused)
        {
            yield return new(
                "run",
                above.TrimEnd('/'),
                "the run pauses until somebody decides; the rehearsal ends here",
                "paused"
            );
        }
        if (rehearsal.IsCut)
        {
            yield return new(
                "run",
                above.TrimEnd('/'),
                "the rehearsal is cut off here: it did not come to an end",
                "cut"
            );
        }
    }

    // A run would; a rehearsal writes nothing.
    static IEnumerable<string> Kept(RunState run) =>
        run.Outcome == Outcome.Succeeded
            ? run.Kept.AsMap.Entries.Select(e =>
                $"a run would keep vars.{e.Key.AsString} = {ValueText.Show(e.Value, MaxText)} for the next one"
            )
            : [];

    static TraceLine? Line(RunState run, RunEvent e) =>
        e switch
        {
            RunSettled settled => new(
                "run",
                "",
                settled.Error is null
                    ? $"the run {Ended(settled.Outcome)}{Outputs(settled.Outputs)}"
                    : $"the run {Ended(settled.Outcome)}: {settled.Error.Message}",
                settled.Outcome.Word()
            ),
            AttemptStarted started => new(
                "step",
                started.Step,
                started.Attempt == 1 ? "begins" : $"begins again, attempt {started.Attempt}"
            ),
            AttemptFailed failed => new(
                "step",
                failed.Step,
                $"attempt {failed.Attempt} failed: {failed.Error.Message}; it rests until the next one"
            ),
            StepSettled settled => new("step", settled.Step, Settled(run, settled), settled.Outcome.Word()),
            StepPaused paused => new(
                "step",
                paused.Step,
                $"failed, and its ifFails is pause: {paused.Error.Message}",
                "paused"
            ),
            GateDecided gate => Gate(run, gate),
            GuardLooked looked => new(
                "guard",
                looked.Step,
                $"look {looked.Look}: {looked.Verdict.Word()}"
                    + $"{(looked.Message is { } why ? $", {why}" : "")}"
                    + $"{(looked.Next is { } next ? $"; again at {next:yyyy-MM-dd HH:mm:ss} UTC" : "")}",
                looked.Verdict.Word()
            ),
            StepQueued queued => new("note", queued.Step, $"takes its turn in the lane “{queued.Lane}”"),
            VariableSet set => new("set", set.By, $"sets vars.{set.Name} to {ValueText.Show(set.Value, MaxText)}"),
            EachOpened opened => new(
                "loop",
                opened.Step,
                $"goes through {opened.Items.AsList.Count} item{(opened.Items.AsList.Count == 1 ? "" : "s")}"
            ),
            IterationOpened opened => new(
                "loop",
                $"{opened.Step}[{opened.Index}]",
                "item " + ValueText.Show(run.Find(opened.Step)?.Each?.Items[opened.Index] ?? Value.Null, MaxText)
            ),
            IterationSettled settled => new(
                "loop",
                $"{settled.Step}[{settled.Index}]",
                $"{Ended(settled.Outcome)}{(settled.Error is { } error ? $": {error}" : "")}",
                settled.Outcome.Word()
            ),
            RoundOpened opened => new("loop", $"{opened.Step}[{opened.Round}]", $"round {opened.Round}"),
            RoundSettled settled => new(
                "loop",
                $"{settled.Step}[{settled.Round}]",
                Ended(settled.Outcome),
                settled.Outcome.Word()
            ),
            HandlerOpened opened => new(
                "note",
                $"@{opened.Occasion.Word()}[{opened.Number}]",
                $"the handler on {opened.Occasion.Word()} begins"
            ),
            RunWarned warned => new("note", warned.Step, $"warning: {warned.Message}"),
            RunLate => new("note", "", "the run is late"),
            RunEndangered => new("note", "", "the run will be late"),
            StopAsked stop => new("note", "", $"{stop.By} stops the run{(stop.Message is { } why ? $": {why}" : "")}"),
            _ => null,
        };

    static string Ended(Outcome outcome) =>
        outcome switch
        {
            Outcome.Skipped => "was skipped",
            Outcome.Stopped => "was stopped",
            _ => outcome.Word(),
        };

    static string Outputs(Value outputs) =>
        outputs.AsMap.Count == 0 ? "" : $", gives {ValueText.Show(outputs, MaxText)}";

    static string Settled(RunState run, StepSettled settled)
    {
        var taken = settled.Looks?.FirstOrDefault(l => l.Taken) is { } branch
            ? $", takes branch “{branch.Branch}”{Parts(branch.Parts)}"
            : "";
        var note = settled.Note is { } text ? $" ({text})" : "";
        return settled.Outcome switch
        {
            Outcome.Succeeded => $"succeeded{taken}{(taken.Length > 0 ? "" : Outputs(settled.Outputs))}{note}",
            Outcome.Failed => $"failed: {settled.Error?.Message}"
                + $"{(run.Find(settled.Step) is { IsAbsorbed: true } ? " (absorbed)" : "")}",
            _ => Ended(settled.Outcome) + note,
        };
    }

    // “a” is the step at whose end the gate was decided.
    static TraceLine Gate(RunState run, GateDecided decided)
    {
        var gate = run.FindScope(decided.Scope).Scope.Gates[decided.Gate];
        var scope = new StepPath(decided.Scope);
        var asks = gate.Label.Length == 0 ? "on success" : gate.Label;
        var why =
            decided.Reason is not { } reason ? ""
            : reason.Error is { } error ? $", it can't be decided: {error}"
            : Parts(reason.Parts);
        return new(
            "gate",
            $"{scope.Then(gate.From.Id)} → {gate.To.Id}",
            $"{(decided.Open ? "opens" : "stays shut")} ({asks}{why})",
            decided.Open ? "open" : "shut"
        );
    }

    static string Parts(IReadOnlyList<PartValue> parts) => WhyGate.Values(parts);
}
