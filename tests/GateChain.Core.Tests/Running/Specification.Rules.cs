using GateChain.Core.Chains;
using GateChain.Core.Running.Events;

namespace GateChain.Core.Tests.Running;

sealed partial class Specification
{
    void Started(AttemptStarted e)
    {
        Begins(e.Step);
        Must(!_cancelled.ContainsKey(e.Step), CancelHolds);
        var cell = At(e.Step);
        Must(e.Attempt == ++cell.Attempts, AttemptsCount);
        cell.Running = true;
        Forget(e.Step, itself: false);
    }

    void Looked(GuardLooked e)
    {
        // A look that was asked for before a pause still gives its verdict.
        if (!At(e.Step).Begun)
            Begins(e.Step);
        if (e.Next is null || At(e.Step).Woken)
            return;
        var holds = At(e.Step).Holds;
        holds[e.Rule] = holds.GetValueOrDefault(e.Rule) + 1;
        if (At(e.Step).Step.Guard!.Rules[e.Rule].Hold!.Times is { } times)
            Must(holds[e.Rule] <= Math.Max(1, times), HoldsEnd);
    }

    void Answered(PauseAnswered e)
    {
        _paused.Remove(e.Step);
        if (e.Inside is { } inside)
        {
            GoesOnInside(inside.Reset, inside.Reopened, inside.Undecided);
            At(e.Step).Retries = 0;
        }
        else if (e.Answer is PauseAnswer.Retry or PauseAnswer.Anew)
        {
            (At(e.Step).Retries, At(e.Step).Begun, At(e.Step).Answered) = (0, false, true);
        }
    }

    void Settled(StepSettled e)
    {
        var cell = At(e.Step);
        Must(cell.Outcome is null, SettlesOnce);
        if (e is { Outcome: Outcome.Skipped, Note: null })
        {
            var incoming = cell
                .Step.Incoming.Select(g => _gates.TryGetValue((ScopeOf(e.Step), g.Index), out _))
                .ToList();
            Must(incoming.TrueForAll(d => d) && !IsReleased(e.Step, cell.Step), SkippedUnreleased);
        }
        if (e is { Outcome: Outcome.Succeeded, Note: null } && cell.Step.Inner is not null && cell.Step.Each is null)
        {
            Must(
                !_cells.Any(c =>
                    IsInside(c.Key, e.Step)
                    && (
                        ScopeOf(c.Key) == e.Step
                        || ScopeOf(c.Key).StartsWith(e.Step + "[", StringComparison.Ordinal)
                            && !ScopeOf(c.Key)[(e.Step.Length + 1)..].Contains('/', StringComparison.Ordinal)
                    )
                    && c.Value.CountsAsFailure
                ),
                ContainerFollows
            );
        }

        if (_cancelled.Remove(e.Step, out var said))
        {
            Must(
                e.Outcome == said
                    || EndsWithAll(e.Step)
                    // What it would assign can't be computed without its outputs.
                    || (said == Outcome.Succeeded && e.Error?.Code is "expression" or "assign"),
                CancelHolds
            );
        }
        (cell.Outcome, cell.Running, cell.Begun) = (e.Outcome, false, false);
        _paused.Remove(e.Step);
        _timedOut.Remove(e.Step);
        // A gate from a stopped step never opens.
        if (e.Outcome == Outcome.Stopped)
        {
            foreach (var gate in cell.Step.Outgoing)
                _gates[(ScopeOf(e.Step), gate.Index)] = false;
        }
    }

    void Decided(GateDecided e)
    {
        var scope =
            e.Scope.Length == 0 ? chain.Root
            : e.Scope[0] == '@' && !e.Scope.Contains('/', StringComparison.Ordinal)
                ? chain.Handlers[Enum.Parse<Occasion>(e.Scope[1..e.Scope.IndexOf('[')], ignoreCase: true)]
            : Definition(e.Scope).Inner!;
        var gate = scope.Gates[e.Gate];
        var source = At(e.Scope.Length == 0 ? gate.From.Id : $"{e.Scope}/{gate.From.Id}");
        Must(_gates.TryAdd((e.Scope, e.Gate), e.Open), GateOnce);
        Must(source.Outcome is not null, GateAfterSource);
        if (e.Reason?.Error is null)
            _gatesInError.Remove((e.Scope, e.Gate));
        else
            _gatesInError.Add((e.Scope, e.Gate));
        if (source.Outcome is not { } outcome)
            return;
        var asked = outcome switch
        {
            Outcome.Succeeded => GateOutcomes.Success,
            Outcome.Failed => GateOutcomes.Failure,
            Outcome.Skipped => GateOutcomes.Skipped,
            _ => GateOutcomes.None,
        };
        var admitted = (gate.On & asked) != 0;
        if (gate.IsElse)
            DecidedLast(e, scope, gate, asked, admitted);
        else if (gate.When is null)
            Must(e.Open == admitted, GateFollowsOutcome);
    }

    void DecidedLast(GateDecided e, StepScope scope, Gate gate, GateOutcomes asked, bool admitted)
    {
        var beside = scope
            .Gates.Where(g => g.From == gate.From && g.When is not null)
            .Where(g => (g.On & asked) != 0 || g.Match == GateMatch.Either)
            .Select(g => (e.Scope, g.Index))
            .ToList();
        var isError = admitted && beside.Exists(_gatesInError.Contains);
        Must(beside.TrueForAll(_gates.ContainsKey), ElseComesLast);
        Must(e.Reason?.Error is not null == isError, ElseComesLast);
        Must(e.Open == (admitted && !isError && !beside.Exists(g => _gates.GetValueOrDefault(g))), ElseComesLast);
    }

    void Opened(HandlerOpened e)
    {
        Must(
            e.Occasion switch
            {
                Occasion.Success => _rootEnd?.Outcome == Outcome.Succeeded,
                Occasion.Failure => _rootEnd?.Outcome == Outcome.Failed,
                Occasion.End => _rootEnd is not null && !_handlers.Contains(Occasion.End),
                _ => _rootEnd is null,
            },
            HandlersFit
        );
        _handlers.Add(e.Occasion);
        _stopped = false;
    }

    void Ends(Outcome outcome, RootSettled? root)
    {
        var own = chain.Root.Steps.Select(s => At(s.Id)).ToList();
        Must(own.TrueForAll(c => c.Outcome is not null), EndsWhenSettled);
        Must(
            outcome
                == (
                    root is not null && _handlers.Count > 0 && root.Outcome != outcome ? root.Outcome
                    : _stopped && root?.Outcome is null or Outcome.Stopped && _stopped ? Outcome.Stopped
                    : own.Exists(c => c.CountsAsFailure) ? (root?.Outcome ?? Outcome.Failed)
                    : root?.Outcome
                        ?? (own.Exists(c => c.Outcome == Outcome.Stopped) ? Outcome.Stopped : Outcome.Succeeded)
                ),
            OutcomeFollows
        );
        if (root is not null && outcome == Outcome.Succeeded)
            Must(!own.Exists(c => c.CountsAsFailure), OutcomeFollows);
    }
}
