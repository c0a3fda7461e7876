using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Rehearsing;

/// <summary>
/// The world that a rehearsed run meets: every attempt ends as was chosen, time passes when nothing else happens.
/// </summary>
sealed class Stage
{
    /// <summary>How many decisions are left before the rehearsal, with all its child runs, is cut.</summary>
    public sealed class Budget(int decisions, CancellationToken cancel)
    {
        public int Left { get; set; } = decisions;
        public CancellationToken Cancel => cancel;
        public bool IsSpent => Left <= 0 || cancel.IsCancellationRequested;

        int _runs;

        /// <summary>A number for a child run; the rehearsed run itself has 0.</summary>
        public long NextRun() => ++_runs;
    }

    readonly Budget _budget;
    readonly RehearsalAssumptions _wish;
    readonly Func<CalledChain, Chain?> _chains;
    readonly RunState _state;
    readonly List<Decision> _journal = [];
    readonly List<Effect> _work = [];
    readonly AnswerOrder _answers;
    readonly Dictionary<(string, int), Rehearsal> _children = [];
    DateTimeOffset _now;

    /// <param name="run">The number of the run, one for each in a rehearsal.</param>
    public Stage(
        Chain chain,
        RehearsalAssumptions wish,
        Func<CalledChain, Chain?> chains,
        long run,
        ParentLink? parent,
        Budget budget
    )
    {
        (_wish, _chains, _now, _budget) = (wish, chains, wish.At, budget);
        _answers = new(wish);
        _state = new(run, chain);
        foreach (var (name, value) in wish.Vars)
            _state.Root.Variables[name] = value;
        Put(
            new StartInput(_now, "rehearsal", "rehearsal", wish.Params, wish.Profile, Actor.Rehearsal)
            {
                Parent = parent,
            }
        );
    }

    public Rehearsal Play()
    {
        while (!_state.HasEnded && !_budget.IsSpent)
        {
            var due = _state.IsPaused ? null : _state.NextDue;
            if (_answers.Take(_work, due) is { } answer)
            {
                _now = answer.At > _now ? answer.At : _now;
                Answer(answer.Work);
            }
            else if (due is { } next)
            {
                _now = next > _now ? next : _now;
                Put(new TimeInput(_now));
            }
            else
            {
                break;
            }
        }
        return new(_state, _journal, _children, IsCut: !_state.HasEnded && !_state.IsPaused);
    }

    void Put(RunInput input)
    {
        var ruling = RunMachine.Decide(_state, input, limit: new(default, _budget.Cancel));
        // Long decisions count for more: what is played has to be told, too.
        _budget.Left -= 1 + ruling.Events.Count / 20;
        if (ruling is not Decided { Decision: var decision })
            return;
        _journal.Add(decision);
        foreach (var e in decision.Events)
        {
            if (Effect.Of(_state, e) is { } work)
                _work.Add(work);
        }
    }

    void Answer(Effect work)
    {
        var step = work.Step;
        switch (work.Form)
        {
            case EffectKind.Probes when step.IsLooking:
                Put(
                    new ProbesTakenInput(
                        _now,
                        step.Path,
                        step.Hold!.Looks,
                        _wish.Looks.FirstOrDefault(l => l.Step.Matches(step.Path)) is { Probes.Count: > 0 } looks
                            ? looks.Probes[Math.Min(Next($"{step.Path}?"), looks.Probes.Count) - 1]
                            : Value.Map([.. step.Step.Guard!.Probes.Select(p => (p.Name, Seen(step, p)))])
                    )
                );
                break;
            case EffectKind.Lane:
                Put(new LaneInput(_now, step.Path));
                break;
            case EffectKind.Child:
                PlayChild(step);
                break;
            case EffectKind.Runs:
                Put(new RunsEndedInput(_now, step.Path, step.Attempt, EndsOf(step)));
                break;
            case EffectKind.Attempt:
                Put(new AttemptEndedInput(_now, step.Path, step.Attempt, Result(step)));
                break;
            default:
                break;
        }
    }

    AttemptResult Result(StepState step)
    {
        if (step.IsEnding)
            return AttemptResult.Fail("stopped", "ended early");
        if (Planned(step) is { } planned)
            return new(Value.Map(With(planned, step)), planned.Error);
        var failure = _wish.Fail.FirstOrDefault(f => f.Step.Matches(step.Path));
        var outputs = Value.Map(With(step.Step.Kind.Sample, step, probe: null));
        return failure is not null && (failure.Attempts is null || step.Attempt <= failure.Attempts)
            ? new(
                failure.Attempts is null ? Given(step) : Value.EmptyMap,
                new("rehearsed", "made to fail by the rehearsal")
            )
            : new(outputs);
    }

    RehearsedResult? Planned(StepState step) =>
        _wish.Attempts.FirstOrDefault(a => a.Step.Matches(step.Path)) is { } planned
            ? planned.Of(planned.InOrder ? Next(step.Path) : step.Attempt)
            : null;

    // How often it was asked, from 1.
    int Next(string what) => _asked[what] = _asked.GetValueOrDefault(what) + 1;

    readonly Dictionary<string, int> _asked = [];

    static DictionaryMap With(RehearsedResult planned, StepState step)
    {
        var values = planned.Error is null ? new Dictionary<string, Value>(step.Step.Kind.Sample) : [];
        foreach (var (name, value) in planned.Outputs)
            values[name] = value;
        return DictionaryMap.Of(values);
    }

    // A step that fails gives only what was asked for.
    Value Given(StepState step) => Value.Map(With(new Dictionary<string, Value>(), step, probe: null));

    Value Seen(StepState step, Probe probe) => Value.Map(With(probe.Kind.Sample, step, probe.Name));

    DictionaryMap With(IReadOnlyDictionary<string, Value> sample, StepState step, string? probe)
    {
        var values = new Dictionary<string, Value>(sample);
        foreach (var give in _wish.Give.Where(g => g.Probe == probe && g.Step.Matches(step.Path)))
            values[give.Name] = give.Value;
        return DictionaryMap.Of(values);
    }

    void PlayChild(StepState step)
    {
        var call = step.Step.Call!;
        var depth = (_state.Parent?.Depth ?? 0) + 1;
        if (_wish.Attempts.FirstOrDefault(a => a.Step.Matches(step.Path)) is { Plays: false } instead)
        {
            var (outputs, failed) = instead.Of(instead.InOrder ? Next(step.Path) : step.Attempt);
            Put(new ChildStartedInput(_now, step.Path, step.Attempt, _budget.NextRun(), 1));
            if (step.Phase == StepPhase.Running)
            {
                Put(
                    new ChildEndedInput(
                        _now,
                        step.Path,
                        step.Child!.Run,
                        failed is null ? Outcome.Succeeded : Outcome.Failed,
                        Value.Map(DictionaryMap.Of(outputs)),
                        failed
                    )
                );
            }
            return;
        }
        if (_chains(call.Child) is not { } chain)
        {
            Put(
                new ChildEndedInput(
                    _now,
                    step.Path,
                    null,
                    Outcome.Failed,
                    Value.EmptyMap,
                    new(
                        "call",
                        call.Child.Release is { } wanted
                            ? $"there is no release {wanted} of “{call.Chain}” here"
                            : $"there is no chain “{call.Chain}”"
                    )
                )
            );
            return;
        }
        var (inputs, wrong) = InputsOf(step, chain);
        if (wrong is not null)
        {
            Put(new ChildEndedInput(_now, step.Path, null, Outcome.Failed, Value.EmptyMap, new("call", wrong)));
            return;
        }
        var number = _budget.NextRun();
        var child = new Stage(
            chain,
            _wish.Inside(
                step.Path,
                _now,
                inputs,
                _wish.ProfileOfCalled?.Invoke(_state.Chain.Name, chain.Name, _wish.Profile) ?? _wish.Profile
            ),
            _chains,
            number,
            new(_state.Id, step.Path, step.Attempt, depth),
            _budget
        ).Play();
        _children[(step.Path, step.Attempt)] = child;
        Put(new ChildStartedInput(_now, step.Path, step.Attempt, number, 1));
        if (step.Phase != StepPhase.Running)
            return;
        var failure = _wish.Fail.FirstOrDefault(f => f.Step.Matches(step.Path));
        var planned = Planned(step);
        var (outcome, error) =
            planned?.Error is { } planError ? (Outcome.Failed, planError)
            : failure is not null && (failure.Attempts is null || step.Attempt <= failure.Attempts)
                ? (Outcome.Failed, new("rehearsed", "made to fail by the rehearsal"))
            : (child.State.Outcome ?? Outcome.Failed, child.State.Error);
        // What was cut inside is not continued with outside.
        if (child.IsCut)
            return;
        if (child.State.Outcome is null)
            error = new("paused", "the child run pauses, and nobody answers in a rehearsal");
        var given = child.State.Outputs.AsMap.Entries.Concat(
            With(new Dictionary<string, Value>(), step, probe: null).Entries
        );
        if (planned is not null)
            given = given.Concat(DictionaryMap.Of(planned.Outputs).Entries);
        Put(new ChildEndedInput(_now, step.Path, number, outcome, Value.Map(DictionaryMap.Of(given)), error));
    }

    // As the child declares them; what the check could not know before is told here.
    static (IReadOnlyDictionary<string, Value> Inputs, string? Wrong) InputsOf(StepState step, Chain child)
    {
        var given = step.Inputs.AsMap.Find("inputs") ?? Value.EmptyMap;
        var inputs = new Dictionary<string, Value>();
        foreach (var parameter in child.Parameters)
        {
            if (given.AsMap.Find(parameter.Name) is not { } value)
            {
                if (parameter.Default is null)
                    return (inputs, $"the parameter “{parameter.Name}” is missing");
                continue;
            }
            var (converted, problem) = Conversion.To(parameter.Type, value);
            if (converted is null)
                return (inputs, $"“{parameter.Name}”: {problem}");
            inputs[parameter.Name] = converted.Value;
        }
        return (inputs, null);
    }

    // Only the runs that it asked for; one that the rehearsal does not know has not ended for it.
    AttemptResult EndsOf(StepState step)
    {
        var asked = step.Inputs.AsMap.Find("runs") is { Kind: ValueKind.List } runs
            ? runs.AsList.Where(r => r.Kind == ValueKind.Int).Select(r => r.AsInt).ToHashSet()
            : [];
        var ends = _children
            .Values.Where(c => asked.Contains(c.State.Id))
            .Select(c =>
                RunEnds.Describe(c.State.Id, c.State.Chain.Name, c.State.Word, c.State.Error?.Message, c.State.Outputs)
            )
            .ToList();
        if (Planned(step) is { } planned)
            return new(Value.Map(DictionaryMap.Of(planned.Outputs)), planned.Error);
        return new(Value.Map(With(RunEnds.Outputs(ends).ToDictionary(o => o.Name, o => o.Value), step, probe: null)));
    }
}
