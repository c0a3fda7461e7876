using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Tests;

/// <summary>
/// Plays a chain on the run machine with outcomes the test chooses, and keeps the journal it would write.
/// </summary>
sealed class Play
{
    /// <summary>
    /// A kind for tests: <c>kind: work</c>, whose outcome the test chooses; and a probe <c>kind: eye</c> that sees
    /// <c>n</c>.
    /// </summary>
    public static readonly KindCatalogue Kinds = new(
        [
            new KindDescription(
                "work",
                "Work for tests.",
                SettingShape.Record(
                    new SettingMember("give", new(SettingForm.Any), false, null, ""),
                    new SettingMember("text", SettingShape.Text, false, null, "")
                ),
                new Dictionary<string, CelType> { ["n"] = CelType.Int, ["*"] = CelType.Dyn }
            ),
        ],
        [
            new KindDescription(
                "eye",
                "A probe for tests.",
                SettingShape.Record(new SettingMember("at", SettingShape.Text, false, null, "")),
                new Dictionary<string, CelType> { ["n"] = CelType.Int }
            ),
        ]
    );

    public static readonly DateTimeOffset Start0 = new(2026, 11, 22, 4, 0, 0, TimeSpan.Zero);

    readonly List<(EffectKind Form, string Step, int Number)> _toDo = [];
    readonly Func<string, int, AttemptResult?> _outcome;

    public Play(string yaml, Func<string, int, AttemptResult?>? outcome = null)
    {
        Chain = Read(yaml);
        State = New();
        _outcome = outcome ?? ((_, _) => AttemptResult.Done(("n", Value.Int(1))));
    }

    public static Chain Read(string yaml)
    {
        var (chain, problems) = new ChainCheck(Kinds).Check("test.chain.yaml", yaml);
        Assert.True(!problems.Any(p => p.IsError), string.Join("\n", problems));
        return chain!;
    }

    /// <summary>Steps named here fail; the others succeed.</summary>
    public static Play Failing(string yaml, params string[] failing) =>
        new(yaml, (path, _) =>
            failing.Contains(path)
                ? AttemptResult.Fail("test", $"{path} broke")
                : AttemptResult.Done(("n", Value.Int(1)))
        );

    public Chain Chain { get; }
    public RunState State { get; private set; }
    public List<Decision> Journal { get; } = [];
    public DateTimeOffset Now { get; set; } = Start0;

    /// <summary>What the probes of a step see, by the number of the look. Default: 1.</summary>
    public Func<string, int, int> Sees { get; set; } = (_, _) => 1;

    /// <summary>How a child run ends; null leaves it going. Default: as the outcome of a step of work.</summary>
    public Func<string, AttemptResult?>? Child { get; set; }

    public Bounds Bounds { get; init; } = Bounds.Default;

    /// <summary>Releases that the run can move to, by name.</summary>
    public Dictionary<string, Chain> Releases { get; } = [];

    /// <summary>Paths of the attempts of kinds and of calls, in the order they began.</summary>
    public List<string> Started { get; } = [];

    public string StartedWords => string.Join(' ', Started);

    /// <summary>What is asked of the world outside and not yet answered.</summary>
    public IReadOnlyList<(EffectKind Form, string Step, int Number)> InFlight => _toDo;

    public IEnumerable<RunEvent> Events => Journal.SelectMany(d => d.Events);

    RunState New() => new(1, Chain, r => Releases[r]);

    public RunState Folded() => RunState.Fold(1, Chain, Journal, r => Releases[r]);

    /// <summary>The state as it comes out of a snapshot of it.</summary>
    public RunState Restored()
    {
        using var snapshot = new MemoryStream();
        Snapshot.Write(State, snapshot);
        snapshot.Position = 0;
        return Snapshot.Read(1, snapshot, r => Releases.GetValueOrDefault(r, Chain))
            ?? throw new InvalidOperationException("the snapshot can't be read");
    }

    public Play Begin(params (string Name, Value Value)[] parameters)
    {
        Put(
            new StartInput(
                Now,
                "uid",
                "release",
                parameters.ToDictionary(p => p.Name, p => p.Value),
                Value.EmptyMap,
                Ann
            )
        );
        return this;
    }

    public Play Run(params (string Name, Value Value)[] parameters) => Begin(parameters).Continue();

    /// <summary>Why the machine refused the last input; null when it did not.</summary>
    public string? Refusal { get; private set; }

    /// <summary>Gives the machine an input. False when it changed nothing.</summary>
    public bool Put(RunInput input)
    {
        var ruling = RunMachine.Decide(State, input, Bounds);
        Refusal = (ruling as Refused)?.Sentence;
        if (ruling is not Decided { Decision: var decision })
            return false;
        // Through bytes, as the real journal has it.
        Journal.Add(Decision.FromBytes(decision.ToBytes()));
        foreach (var e in decision.Events)
        {
            if (Effect.Of(State, e) is not { } work)
                continue;
            if (work.Form is EffectKind.Attempt or EffectKind.Child)
                Started.Add(work.Step.Path);
            Ask(work);
        }
        _toDo.RemoveAll(w => !IsWanted(w));
        var dump = Dump(State);
        Assert.Equal(Dump(Folded()), dump);
        Assert.Equal(dump, Dump(Restored()));
        return true;
    }

    void Ask(Effect work)
    {
        var item = (
            work.Form,
            work.Step.Path,
            work.Form == EffectKind.Probes ? work.Step.Hold!.Looks : work.Step.Attempt
        );
        if (!_toDo.Contains(item))
            _toDo.Add(item);
    }

    // Turns and looks that nobody waits for any more are not answered; attempts are.
    bool IsWanted((EffectKind Form, string Step, int Number) work) =>
        work.Form switch
        {
            EffectKind.Lane => State.Find(work.Step)?.Phase == StepPhase.Queued,
            EffectKind.Probes => State.Find(work.Step)?.IsLooking == true,
            EffectKind.Child or EffectKind.Runs => State.Find(work.Step)?.Phase == StepPhase.Running,
            _ => true,
        };

    /// <summary>Ends attempts as chosen and lets time pass, until the run has ended or nothing more happens.</summary>
    public Play Continue()
    {
        for (var quiet = 0; !State.HasEnded && quiet <= _toDo.Count; )
        {
            if (_toDo.Count > quiet)
            {
                quiet = EndOne(quiet) ? 0 : quiet + 1;
            }
            else if (State.NextDue is not null)
            {
                LetTimePass();
                quiet = 0;
            }
            else
            {
                break;
            }
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

    /// <summary>
    /// Answers one thing that was asked for; attempts for which the test chose no outcome stay running.
    /// </summary>
    public bool EndOne(int index = 0)
    {
        var (form, path, number) = _toDo[index];
        var step = State.Find(path);
        Now += TimeSpan.FromMilliseconds(10);
        switch (form)
        {
            case EffectKind.Probes:
                _toDo.RemoveAt(index);
                Put(
                    new ProbesTakenInput(
                        Now,
                        path,
                        number,
                        Value.Map(
                            State
                                .Find(path)!
                                .Step.Guard!.Probes.Select(p =>
                                    (p.Name, Value.Map(("n", Value.Int(Sees(path, number)))))
                                )
                                .ToArray()
                        )
                    )
                );
                return true;
            case EffectKind.Lane:
                // While the run is paused the turn is not taken.
                if (!Put(new LaneInput(Now, path)))
                    return false;
                return true;
            case EffectKind.Child:
                if (step!.Child is null or { ToResume: true })
                {
                    Put(
                        new ChildStartedInput(
                            Now,
                            path,
                            number,
                            step.Child?.Run ?? 100 + step.Record!.Number,
                            (step.Child?.Leg ?? 0) + 1
                        )
                    );
                }
                if (State.Find(path) is not { Phase: StepPhase.Running })
                    return true;
                if ((Child is null ? _outcome(path, number) : Child(path)) is not { } ended)
                    return false;
                _toDo.RemoveAt(_toDo.FindIndex(w => w.Step == path));
                var stops = State.Find(path)!.IsEnding;
                Put(
                    new ChildEndedInput(
                        Now,
                        path,
                        State.Find(path)!.Child!.Run,
                        stops ? Outcome.Stopped
                            : ended.Succeeded ? Outcome.Succeeded
                            : ended.Error!.Code == "stopped" ? Outcome.Stopped
                            : Outcome.Failed,
                        ended.Outputs,
                        ended.Error
                    )
                );
                return true;
            case EffectKind.Runs:
                _toDo.RemoveAt(index);
                Put(new RunsEndedInput(Now, path, number, AttemptResult.Done(("succeeded", Value.Int(1)))));
                return true;
            default:
                if (_outcome(path, number) is not { } result)
                    return false;
                _toDo.RemoveAt(index);
                var cancelled = step?.IsEnding == true;
                Put(
                    new AttemptEndedInput(
                        Now,
                        path,
                        number,
                        cancelled ? AttemptResult.Fail("stopped", "ended early") : result
                    )
                );
                return true;
        }
    }

    /// <summary>
    /// What a kill and a new start do: the state is folded from the journal, what was in flight is lost.
    /// </summary>
    public void Crash()
    {
        _toDo.Clear();
        State = Folded();
        foreach (var work in Effect.Of(State).Where(w => w.Form != EffectKind.Attempt).ToList())
            Ask(work);
        Put(new RecoveredInput(Now));
        Put(new TimeInput(Now));
    }

    public Play Resume(
        IReadOnlyDictionary<string, Value>? parameters = null,
        IReadOnlyDictionary<string, Value>? variables = null,
        string[]? from = null,
        string[]? skip = null,
        Dictionary<string, Value>? settle = null,
        string? release = null
    )
    {
        Started.Clear();
        Put(
            new ResumeInput(
                Now,
                Bob,
                parameters ?? new Dictionary<string, Value>(),
                variables ?? new Dictionary<string, Value>(),
                from ?? [],
                skip ?? []
            )
            {
                Settle = settle ?? [],
                Release = release,
            }
        );
        return Continue();
    }

    /// <summary>Decides about a paused step. False when it was not paused.</summary>
    public bool Answer(string step, PauseAnswer answer, params (string Name, Value Value)[] outputs) =>
        Put(new AnswerInput(Now, step, answer, Bob, Value.Map(outputs)));

    public string Word(string path) => State.Find(path)?.Word ?? "absent";

    /// <summary>All steps with their words: <c>a succeeded, b skipped</c>.</summary>
    public string Words => string.Join(", ", State.AllSteps.Select(s => $"{s.Path} {s.Word}"));

    /// <summary>Everything a state holds that a decision could depend on.</summary>
    public static string Dump(RunState state)
    {
        var lines = new List<string>
        {
            $"{state.Chain.Name} {state.IsStopping} {state.IsLate} {state.Danger} {state.Pause} {state.RootEnd} "
                + $"{state.ResumeAt:O} {state.Word} leg {state.Leg} {Value.Map(state.Params)} {state.Outputs} "
                + $"{state.Error} {state.Stop} due {state.NextDue:O} attempts {state.Attempts.Count}",
        };
        void Add(ScopeState scope)
        {
            lines.Add(
                $"[{scope.Path}] {scope.Unsettled} {scope.CountedFailures} {scope.IterationOutcome} "
                    + $"{scope.Collected} {scope.Cancelled} "
                    + $"{string.Concat(scope.Gates.Select(g => $"{g.Phase.ToString()[0]}{g.Place}"))} "
                    + $"{string.Join(";", scope.Variables.OrderBy(v => v.Key))}"
            );
            foreach (var step in scope.Steps)
            {
                lines.Add(
                    $"{step.Path} {step.Word} {step.Attempt}/{step.Retries}/{step.Lost} {step.OpenGates}+"
                        + $"{step.ShutGates} {step.Due:O} {step.QueuedAt:O} {step.Cancel} {step.Outputs} "
                        + $"{step.Error} {step.Leg} {step.SkipInLeg} {step.Cancelled}"
                );
                if (step.Hold is { } hold)
                {
                    lines.Add(
                        $"  held since {hold.Since:O} looks {hold.Looks} saw {hold.Probes} "
                            + $"{hold.Latest?.Verdict} {hold.Latest?.Next:O}"
                    );
                }
                if (step.Child is { } child)
                    lines.Add($"  child {child}");
                if (step.Answered is { } answered)
                    lines.Add($"  answered {answered}");
                if (step.Repeat is { } repeat)
                    lines.Add($"  repeat {repeat.Rounds.Count} before {repeat.Before} next {repeat.Next:O}");
                if (step.Each is { } each)
                {
                    lines.Add(
                        $"  each {each.Next} {each.InFlight} {each.Succeeded}/{each.Failed}/{each.Stopped}/"
                            + $"{each.Skipped} again {string.Join(",", each.Again)}"
                    );
                }
                foreach (var inner in step.InnerScopes)
                    Add(inner);
            }
        }
        Add(state.Root);
        foreach (var handler in state.Handlers)
        {
            lines.Add($"{handler.Occasion} {handler.Number} {handler.Leg} {handler.Error}");
            Add(handler.Scope);
        }
        return string.Join('\n', lines);
    }
}
