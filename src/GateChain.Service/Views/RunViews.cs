using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Live;

namespace GateChain.Service.Views;

/// <summary>Runs as the API shows them: whole, or what a decision has changed.</summary>
static class RunViews
{
    public static RunDetail Detail(RunState run, long seq)
    {
        var scopes = Scopes(run.Root).ToList();
        return new(run.Id, run.Chain.Name, run.Chain.Title, run.Release, run.Word, run.Leg, run.By, run.Started!.Value, run.Ended, run.Error?.Message, seq,
            JsonViews.Json(Value.Map(run.Params)), Variables(run), JsonViews.Json(run.Profile), JsonViews.Json(run.Outputs), ChainViews.Graph(run.Chain.Root, run.Chain),
            [.. run.AllSteps.Select(Step)], [.. scopes.Where(s => s.Index >= 0).Select(Iteration)],
            [.. scopes.SelectMany(s => s.Scope.Gates.Select(g => Gate(s, g.Index)))], [.. run.Attempts.Select(JsonViews.Attempt)],
            [.. run.Resumes.Select(r => new ResumeInfo(r.Leg, r.By, JsonViews.Json(r.Params), JsonViews.Json(r.Vars), r.Reset))],
            Warnings(run), Failures(run), Absorbed(run), ChainViews.Parameters(run.Chain));
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
                case LegStarted or RunStarted: return null;
                case AttemptStarted x: Add(x.Step); break;
                case AttemptFailed x: Add(x.Step); break;
                case AttemptLost x: Add(x.Step); break;
                case CancelAsked x: Add(x.Step); break;
                case StepSettled x: Add(x.Step); break;
                case EachOpened x: Add(x.Step); break;
                case RunWarned x: Add(x.Step); break;
                case IterationOpened x: AddIteration(x.Step, x.Index); break;
                case IterationSettled x: AddIteration(x.Step, x.Index); break;
                case GateDecided x: gates.Add(Gate(ScopeOf(run, x.Scope), x.Gate)); break;
                case VariableSet: variables = true; break;
                default: break;
            }
        }
        var paths = steps.Select(s => s.Path).ToHashSet();
        return new(run.Id, change.Seq, run.Word, run.Leg, run.Ended, run.Error?.Message, variables ? Variables(run) : null, run.HasEnded ? JsonViews.Json(run.Outputs) : null,
            [.. steps.Select(Step)], [.. iterations.Select(Iteration)], gates,
            [.. steps.Select(s => s.Record).OfType<AttemptRecord>().OrderBy(r => r.Number).Select(JsonViews.Attempt)],
            Warnings(run), Failures(run), Absorbed(run));

        void Add(string path)
        {
            if (run.Find(path) is not { } step) { return; }
            steps.Add(step);
            foreach (var inner in step.Inner?.Steps ?? []) { steps.Add(inner); }
        }

        void AddIteration(string path, int index)
        {
            Add(path);
            if (run.Find(path)?.Each?.Iterations[index] is not { } scope) { return; }
            iterations.Add(scope);
            foreach (var inner in scope.Steps) { steps.Add(inner); }
        }
    }

    static ScopeState ScopeOf(RunState run, string path) => Scopes(run.Root, path).First(s => s.Path == path);

    // Only the scopes on the way to a path need to be looked at.
    static IEnumerable<ScopeState> Scopes(ScopeState scope, string? towards = null)
    {
        yield return scope;
        foreach (var inner in scope.Steps.SelectMany(s => s.InnerScopes))
        {
            if (towards is not null && !towards.StartsWith(inner.Path, StringComparison.Ordinal)) { continue; }
            foreach (var deeper in Scopes(inner, towards)) { yield return deeper; }
        }
    }

    public static StepStatus Step(StepState step) => new(step.Path, step.Step.Address, step.Word, step.Attempt, step.Leg, step.Started, step.Ended,
        step.IsSettled ? null : step.Due, step.Error?.Message ?? step.Note, step.IsAbsorbed, step.Warnings.Count > 0,
        step.Each is { } each ? $"{each.Succeeded + each.Failed + each.Stopped} of {each.Items.Count}" : null);

    static IterationStatus Iteration(ScopeState scope) => new(scope.Path, scope.Owner!.Path, scope.Index, scope.Item.Kind == ValueKind.String ? scope.Item.AsString : ValueText.Show(scope.Item, 80),
        scope.IterationOutcome?.ToString().ToLowerInvariant() ?? "running", scope.Started, scope.Ended, scope.IterationError);

    static GateStatus Gate(ScopeState scope, int index) =>
        new(scope.Path, index, scope.Gates[index].Phase.ToString().ToLowerInvariant(), scope.Gates[index].Reason?.Error is not null);

    static System.Text.Json.JsonElement Variables(RunState run) => JsonViews.Json(Value.Map(DictionaryMap.Of(run.Root.Variables)));

    static IReadOnlyList<string> Warnings(RunState run) => [.. run.Warnings.Select(w => $"{w.Step}: {w.Message}")];

    static IReadOnlyList<string> Failures(RunState run) => run.Root.CountedFailures == 0 ? [] : [.. run.Failures.Select(s => s.Path)];

    static int Absorbed(RunState run) => run.HasEnded ? run.AllSteps.Count(s => s.IsAbsorbed) : 0;

    public static StepDetail StepDetail(RunState run, StepState step) => new(Step(step), step.Step.Kind.Name, step.Step.Title ?? step.Step.Id,
        JsonViews.Why(Why.Of(run, step)), JsonViews.Json(step.Inputs), JsonViews.Json(step.Outputs), JsonViews.Error(step.Error),
        [.. run.Attempts.Where(a => a.Step == step.Path).Select(JsonViews.Attempt)]);
}
