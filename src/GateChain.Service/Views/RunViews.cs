using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Engine.Workspaces;

namespace GateChain.Service.Views;

/// <summary>Runs as the API shows them: whole, or what a decision has changed.</summary>
static class RunViews
{
    /// <param name="run">The run.</param>
    /// <param name="seq">The number of its last decision.</param>
    /// <param name="numberOf">The number of a content as a release, null for a draft's.</param>
    public static RunDetail Detail(RunState run, long seq, Func<string, int?> numberOf)
    {
        // An each of a hundred thousand iterations is shown in part; the page of its iterations has the rest.
        var scopes = AllScopes(run).ToList();
        return new(
            run.Id,
            run.Chain.Name,
            run.Chain.Title,
            run.Release,
            numberOf(run.Release),
            run.Word,
            run.Leg,
            run.By.Name,
            run.Started!.Value,
            run.Ended,
            run.Error?.Message,
            seq,
            Status(run),
            JsonViews.Parent(run),
            run.RestartOf,
            run.Try is { } t ? new(t.Begin, [.. t.Taken.Select(s => s.Step)], t.LeftOut, t.PauseBefore) : null,
            [.. run.Handlers.Select(h => Handler(run, h))],
            JsonViews.Json(Value.Map(run.Params)),
            Variables(run),
            JsonViews.Json(run.Profile),
            Outputs(run),
            ChainViews.Whole(run.Chain),
            [.. scopes.SelectMany(s => s.Steps).Select(Step)],
            [.. scopes.Where(s => s.Index >= 0).Select(Iteration)],
            [.. scopes.SelectMany(s => s.Scope.Gates.Select(g => Gate(s, g.Index)))],
            [.. run.Attempts.TakeLast(MaxAttempts).Select(JsonViews.Attempt)],
            [
                .. run.Resumes.Select(r => new ResumeInfo(
                    r.Leg,
                    r.By.Name,
                    JsonViews.Json(r.Params),
                    JsonViews.Json(r.Vars),
                    r.Reset,
                    r.Reopened,
                    r.Automatic,
                    r.Release,
                    r.Release is { } moved ? numberOf(moved) : null,
                    JsonViews.Actor(r.By)
                )),
            ],
            Warnings(run),
            Failures(run),
            Absorbed(run),
            ChainViews.Parameters(run.Chain.Parameters),
            JsonViews.Actor(run.By),
            run.Origin.Word,
            run.Fire is { } fire ? new(fire.Trigger, fire.Key, fire.Due, JsonViews.Json(fire.Event)) : null,
            run.BusyKey,
            run.Area.Path
        );
    }

    /// <summary>The same of a run on disk, with the numbers that releases have.</summary>
    /// <param name="id">The run.</param>
    /// <param name="leg">As it was when this leg ended; null for now.</param>
    /// <param name="runs">Reads it.</param>
    /// <param name="workspace">Knows the numbers.</param>
    public static Task<RunDetail> DetailAsync(long id, int? leg, RunReader runs, WorkspaceService workspace) =>
        DetailAsync(read => runs.ReadAsync(id, leg, read), workspace);

    /// <summary>The same of a state that is read in another way.</summary>
    public static async Task<RunDetail> DetailAsync(
        Func<Func<RunState, long, (string Chain, RunDetail Detail)>, Task<(string Chain, RunDetail Detail)>> reading,
        WorkspaceService workspace
    )
    {
        // A leg of the past is folded from its start: once is enough when the numbers are known already.
        var numbers = new Dictionary<string, int?>();
        while (true)
        {
            var missing = new HashSet<string>();
            var (chain, detail) = await reading((run, seq) => (run.Chain.Name, Detail(run, seq, NumberOf)));
            if (missing.Count == 0)
                return detail;
            foreach (var release in missing)
                numbers[release] = await workspace.NumberOfAsync(chain, release);

            int? NumberOf(string release)
            {
                if (!numbers.TryGetValue(release, out var number))
                    number = workspace.KnownNumberOf(release);
                if (number is null && !numbers.ContainsKey(release))
                    missing.Add(release);
                return number;
            }
        }
    }

    /// <summary>How many iterations of one container, attempts and warnings the view of a run shows.</summary>
    const int MaxIterations = 200,
        MaxAttempts = 2000,
        MaxWarnings = 200;

    static RunStatus Status(RunState run) =>
        new(
            run.Pause?.By.Name,
            run.Pause?.Message,
            run.IsPaused ? [.. run.AllSteps.Where(s => s.Phase == StepPhase.Paused).Select(s => s.Path)] : [],
            run.IsLate,
            run.LateAt,
            run.Danger?.Sentence,
            run.ResumeAt,
            run.Error?.Origin is { } at ? new(at.Run, at.Chain, at.Step, at.Way) : null
        );

    static HandlerInfo Handler(RunState run, HandlerState handler) =>
        new(
            handler.Scope.Path,
            handler.Occasion.Word(),
            handler.Leg,
            handler.Error?.Message,
            ChainViews.Graph(handler.Scope.Scope, run.Chain)
        );

    static IEnumerable<ScopeState> AllScopes(RunState run) =>
        run.Handlers.Select(h => h.Scope).Prepend(run.Root).SelectMany(s => Scopes(s));

    /// <summary>Some iterations of an each, or rounds of a repeat, with the steps directly in them.</summary>
    /// <param name="step">The each or repeat.</param>
    /// <param name="text">A part of what people call the iteration; null for any.</param>
    /// <param name="state">The state it is in; null for any.</param>
    /// <param name="from">How many of those that fit are left out, from the first on.</param>
    /// <param name="limit">The most that are given.</param>
    public static IterationPage Iterations(StepState step, string? text, string? state, int from, int limit)
    {
        var all = step.InnerScopes.Where(s => s.Index >= 0).ToList();
        var found = all.Where(s => state is null || StateOf(s) == state)
            .Where(s => text is null || NameOf(s).Contains(text, StringComparison.OrdinalIgnoreCase))
            .ToList();
        var page = found.Skip(from).Take(limit).ToList();
        return new(
            Count(step),
            found.Count,
            all.GroupBy(StateOf).ToDictionary(g => g.Key, g => g.Count()),
            [.. page.Select(Iteration)],
            [.. page.SelectMany(s => s.Steps).Select(Step)],
            [.. page.SelectMany(s => s.Scope.Gates.Select(g => Gate(s, g.Index)))]
        );
    }

    static string StateOf(ScopeState iteration) => iteration.IterationOutcome?.Word() ?? "running";

    static string NameOf(ScopeState iteration) =>
        iteration.Owner!.Repeat is not null ? $"round {iteration.Index}" : LoopItems.Name(iteration.Item, 80);

    static int Count(StepState step) => step.Each?.Next ?? step.Repeat?.Rounds.Count ?? 0;

    /// <summary>The iterations that are shown: those that continue or did not succeed first, then the latest.</summary>
    static IEnumerable<ScopeState> Shown(StepState step)
    {
        var all = step.InnerScopes;
        if (Count(step) <= MaxIterations)
            return all;
        var list = all.ToList();
        var chosen = list.Where(s => s.IterationOutcome != Outcome.Succeeded).Take(MaxIterations).ToHashSet();
        for (var i = list.Count - 1; i >= 0 && chosen.Count < MaxIterations; i--)
            chosen.Add(list[i]);
        return list.Where(chosen.Contains);
    }

    /// <summary>The parts that a decision touched; null when only the whole will do.</summary>
    public static RunPatch? Patch(RunChange change)
    {
        var run = change.State;
        var steps = new HashSet<StepState>();
        var iterations = new HashSet<ScopeState>();
        var gates = new List<GateStatus>();
        var variables = false;
        foreach (var e in change.Decision.Events)
        {
            switch (e)
            {
                case LegStarted or RunStarted or HandlerOpened or RunReleased:
                    return null;
                case RoundOpened x:
                    AddIteration(x.Step, x.Round);
                    break;
                case RoundSettled x:
                    AddIteration(x.Step, x.Round);
                    break;
                case IterationOpened x:
                    AddIteration(x.Step, x.Index);
                    break;
                case IterationSettled x:
                    AddIteration(x.Step, x.Index);
                    break;
                case StepCancelled { Index: { } index } x:
                    AddIteration(x.Step, index);
                    break;
                case IStepEvent x:
                    Add(x.Step);
                    break;
                case GateDecided x when ScopeOf(run, x.Scope) is { } scope:
                    gates.Add(Gate(scope, x.Gate));
                    break;
                case VariableSet:
                    variables = true;
                    break;
                default:
                    break;
            }
        }
        var paths = steps.Select(s => s.Path).ToHashSet();
        return new(
            run.Id,
            change.Seq,
            run.Word,
            run.Leg,
            run.Ended,
            run.Error?.Message,
            Status(run),
            variables ? Variables(run) : null,
            run.HasEnded ? Outputs(run) : null,
            [.. steps.Select(Step)],
            [.. iterations.Select(Iteration)],
            gates,
            [.. steps.Select(s => s.Record).OfType<AttemptRecord>().OrderBy(r => r.Number).Select(JsonViews.Attempt)],
            Warnings(run),
            Failures(run),
            Absorbed(run)
        );

        void Add(string path)
        {
            if (run.Find(path) is not { } step)
                return;
            steps.Add(step);
            foreach (var inner in step.Inner?.Steps ?? [])
                steps.Add(inner);
        }

        void AddIteration(string path, int index)
        {
            Add(path);
            // The state is that behind the decision: an each that was tried again may have fewer iterations by now.
            if (
                run.Find(path) is not { } owner
                || (
                    owner.Each?.Iterations.ElementAtOrDefault(index)
                    ?? owner.Repeat?.Rounds.ElementAtOrDefault(index - 1)
                )
                    is not { } scope
            )
            {
                return;
            }
            iterations.Add(scope);
            foreach (var inner in scope.Steps)
                steps.Add(inner);
        }
    }

    // One that the decision has opened and replaced again is not there any more.
    static ScopeState? ScopeOf(RunState run, string path) => run.FindScopeOrNull(path);

    static IEnumerable<ScopeState> Scopes(ScopeState scope)
    {
        yield return scope;
        foreach (var step in scope.Steps)
        {
            foreach (var inner in Shown(step))
            {
                foreach (var deeper in Scopes(inner))
                    yield return deeper;
            }
        }
    }

    public static StepStatus Step(StepState step) =>
        new(
            step.Path,
            step.Step.Address,
            step.Word,
            step.Attempt,
            step.Leg,
            step.Started,
            step.Ended,
            step.IsSettled ? null : step.Due,
            Ending(step) ?? step.Error?.Message ?? step.Leftover ?? step.Note ?? HoldDescription.WaitsUntil(step),
            step.IsAbsorbed,
            step.Warnings.Count > 0,
            step.Each is { } each
                    ? $"{each.Settled} of {each.Items.Count}" + (each.Failed == 0 ? "" : $", {each.Failed} failed")
                : step.Repeat is { } repeat
                    ? $"{repeat.Rounds.Count(x => x.IterationOutcome is not null)} of at most {step.Step.Repeat!.Limit}"
                : null,
            step.Hold is { } hold ? Hold(step, hold) : null,
            step.Step.Lane,
            step.Child?.Run,
            step.Answered is { } answered ? $"{answered.Answer.Word()} by {answered.By}" : null,
            Math.Max(0, Count(step) - MaxIterations),
            step.Leftover is not null
        );

    static string? Ending(StepState step) =>
        step is { Phase: StepPhase.Running, Cancel: CancelReason.Person, Cancelled: { } order }
            ? $"{order.Sentence}; it is ending"
            : null;

    static HoldInfo Hold(StepState step, HoldState hold) =>
        new(
            hold.Since,
            hold.Looks,
            step.Phase == StepPhase.Held ? step.Due : null,
            hold.Latest?.Verdict.Word(),
            hold.Latest?.Message,
            JsonViews.Json(hold.Probes),
            HoldDescription.WaitsFor(step),
            HoldDescription.LooksLeft(step)
        );

    static IterationStatus Iteration(ScopeState scope) =>
        new(
            scope.Path,
            scope.Owner!.Path,
            scope.Index,
            NameOf(scope),
            StateOf(scope),
            scope.Started,
            scope.Ended,
            scope.IterationError
        );

    static GateStatus Gate(ScopeState scope, int index) =>
        new(scope.Path, index, scope.Gates[index].Phase.Word(), scope.Gates[index].Reason?.Error is not null);

    static System.Text.Json.JsonElement Variables(RunState run) =>
        JsonViews.Json(Value.Map(DictionaryMap.Of(run.Root.Variables)));

    // What a run did not give is null to programs.
    static System.Text.Json.JsonElement Outputs(RunState run) =>
        JsonViews.Json(
            run.Outcome != Outcome.Succeeded
                ? run.Outputs
                : Value.Map(
                    DictionaryMap.Of(
                        run.Chain.Outputs.Select(o =>
                            KeyValuePair.Create(o.Name, run.Outputs.AsMap.Find(o.Name) ?? Value.Null)
                        )
                    )
                )
        );

    static IReadOnlyList<string> Warnings(RunState run) =>
        [.. run.Warnings.TakeLast(MaxWarnings).Select(w => w.Step.Length == 0 ? w.Message : $"{w.Step}: {w.Message}")];

    static IReadOnlyList<string> Failures(RunState run) =>
        run.Root.CountedFailures == 0 ? [] : [.. run.Failures.Select(s => s.Path)];

    static int Absorbed(RunState run) => run.HasEnded ? run.AllSteps.Count(s => s.IsAbsorbed) : 0;

    // A credential that stands in the chain file is not shown once more.
    static Value InputsOf(StepState step) =>
        step.Step.Kind.IsControl ? step.Inputs : SecretSettings.Hide(step.Step.Kind.Settings, step.Inputs);

    public static StepDetail StepDetail(RunState run, StepState step) =>
        new(
            Step(step),
            step.Step.Kind.Name,
            step.Step.Title ?? step.Step.Id,
            JsonViews.Why(Why.Of(run, step)),
            JsonViews.Json(InputsOf(step)),
            JsonViews.Json(step.Outputs),
            JsonViews.Error(step.Error),
            [.. run.Attempts.Where(a => a.Step == step.Path).Select(JsonViews.Attempt)]
        );
}
