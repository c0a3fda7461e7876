using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Tests;

/// <summary>Plays a chain on the run machine with outcomes the test chooses, and keeps the journal it would write.</summary>
sealed class Play
{
    /// <summary>A kind for tests: <c>kind: work</c>, whose outcome the test chooses.</summary>
    public static readonly KindCatalogue Kinds = new(new KindDescription("work", "Work for tests.",
        SettingShape.Record(new SettingMember("give", new(SettingForm.Any), false, null, ""), new SettingMember("text", SettingShape.Text, false, null, "")),
        new Dictionary<string, CelType> { ["n"] = CelType.Int, ["*"] = CelType.Dyn }));

    public static readonly DateTimeOffset Start0 = new(2026, 11, 22, 4, 0, 0, TimeSpan.Zero);

    readonly Queue<AttemptStarted> _toDo = new();
    readonly Func<string, int, AttemptResult?> _outcome;

    public Play(string yaml, Func<string, int, AttemptResult?>? outcome = null)
    {
        var (chain, problems) = new ChainCheck(Kinds).Check("test.chain.yaml", yaml);
        Assert.True(!problems.Any(p => p.IsError), string.Join("\n", problems));
        Chain = chain!;
        State = new(1, Chain);
        _outcome = outcome ?? ((_, _) => AttemptResult.Done(("n", Value.Int(1))));
    }

    /// <summary>Steps named here fail; the others succeed.</summary>
    public static Play Failing(string yaml, params string[] failing) =>
        new(yaml, (path, _) => failing.Contains(path) ? AttemptResult.Fail("test", $"{path} broke") : AttemptResult.Done(("n", Value.Int(1))));

    public Chain Chain { get; }
    public RunState State { get; private set; }
    public List<Decision> Journal { get; } = [];
    public DateTimeOffset Now { get; set; } = Start0;

    /// <summary>Paths of the attempts of kinds, in the order they began.</summary>
    public List<string> Started { get; } = [];

    public IEnumerable<AttemptStarted> InFlight => _toDo;
    public IEnumerable<RunEvent> Events => Journal.SelectMany(d => d.Events);

    public Play Begin(params (string Name, Value Value)[] parameters)
    {
        Put(new StartInput(Now, "uid", "release", parameters.ToDictionary(p => p.Name, p => p.Value), Value.EmptyMap, "ann"));
        return this;
    }

    public Play Run(params (string Name, Value Value)[] parameters) => Begin(parameters).GoOn();

    public void Put(RunInput input)
    {
        var decision = RunMachine.Decide(State, input);
        if (decision.Events.Count == 0) { return; }
        // Through bytes, as the real journal has it.
        Journal.Add(Decision.FromBytes(decision.ToBytes()));
        foreach (var started in decision.Events.OfType<AttemptStarted>())
        {
            if (State.Find(started.Step) is not { Step.Kind.IsControl: false }) { continue; }
            Started.Add(started.Step);
            _toDo.Enqueue(started);
        }
        Assert.Equal(Dump(RunState.Fold(1, Chain, Journal)), Dump(State));
    }

    /// <summary>Ends attempts as chosen and lets time pass, until the run has ended or nothing more happens.</summary>
    public Play GoOn()
    {
        while (!State.HasEnded)
        {
            if (_toDo.Count > 0) { EndOne(); }
            else if (State.NextDue is not null) { LetTimePass(); }
            else { break; }
        }
        return this;
    }

    /// <summary>Turns the clock to the next moment that matters; there must be one.</summary>
    public void LetTimePass()
    {
        Assert.NotNull(State.NextDue);
        var due = State.NextDue.Value;
        Now = due > Now ? due : Now;
        Put(new TimeInput(Now));
    }

    /// <summary>Ends one attempt in flight; those for which the test chose no outcome stay at work.</summary>
    public bool EndOne(int index = 0)
    {
        var started = _toDo.ElementAt(index);
        var rest = _toDo.Where((_, i) => i != index).ToList();
        _toDo.Clear();
        foreach (var other in rest) { _toDo.Enqueue(other); }
        if (_outcome(started.Step, started.Attempt) is not { } result) { return false; }
        Now += TimeSpan.FromMilliseconds(10);
        var cancelled = State.Find(started.Step)?.Cancel is CancelReason.Stop or CancelReason.Timeout;
        Put(new AttemptEndedInput(Now, started.Step, started.Attempt, cancelled ? AttemptResult.Fail("stopped", "ended early") : result));
        return true;
    }

    /// <summary>What a kill and a new start do: the state is folded from the journal, what was in flight is lost.</summary>
    public void Crash()
    {
        _toDo.Clear();
        State = RunState.Fold(1, Chain, Journal);
        Put(new RecoveredInput(Now));
    }

    public Play Resume(IReadOnlyDictionary<string, Value>? parameters = null, IReadOnlyDictionary<string, Value>? variables = null, string[]? from = null, string[]? skip = null)
    {
        Started.Clear();
        Put(new ResumeInput(Now, "bob", parameters ?? new Dictionary<string, Value>(), variables ?? new Dictionary<string, Value>(), from ?? [], skip ?? []));
        return GoOn();
    }

    public string Word(string path) => State.Find(path)?.Word ?? "absent";

    /// <summary>All steps with their words: <c>a succeeded, b skipped</c>.</summary>
    public string Words => string.Join(", ", State.AllSteps.Select(s => $"{s.Path} {s.Word}"));

    /// <summary>Everything a state holds that a decision could depend on.</summary>
    public static string Dump(RunState state)
    {
        var lines = new List<string> { $"{state.Word} leg {state.Leg} {Value.Map(state.Params)} {state.Outputs} {state.Error} {state.Stop} due {state.NextDue:O} attempts {state.Attempts.Count}" };
        void Add(ScopeState scope)
        {
            lines.Add($"[{scope.Path}] {scope.Unsettled} {scope.CountedFailures} {scope.IterationOutcome} {scope.Collected} {string.Concat(scope.Gates.Select(g => g.Phase.ToString()[0]))} {string.Join(";", scope.Variables.OrderBy(v => v.Key))}");
            foreach (var step in scope.Steps)
            {
                lines.Add($"{step.Path} {step.Word} {step.Attempt}/{step.Retries}/{step.Lost} {step.OpenGates}+{step.ShutGates} {step.Due:O} {step.Cancel} {step.Outputs} {step.Error} {step.Leg} {step.SkipInLeg}");
                if (step.Each is { } each) { lines.Add($"  each {each.Next} {each.InFlight} {each.Succeeded}/{each.Failed}/{each.Stopped} again {string.Join(",", each.Again)}"); }
                foreach (var inner in step.InnerScopes) { Add(inner); }
            }
        }
        Add(state.Root);
        return string.Join('\n', lines);
    }
}
