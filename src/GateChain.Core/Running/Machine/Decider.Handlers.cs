using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// How a run ends: its own steps, then the handlers, then the outcome.
sealed partial class Decider
{
    void OpenHandler(Occasion occasion, StepError? error)
    {
        if (!state.Chain.Handlers.ContainsKey(occasion))
            return;
        Emit(new HandlerOpened(occasion, state.Handlers.Count + 1, error));
        OpenScope(state.Handlers[^1].Scope);
    }

    void BecomeLate()
    {
        Emit(new RunLate());
        OpenHandler(Occasion.Late, null);
    }

    // Once in a run, and only while there is something that can be done about it.
    void BeEndangered(EndangeredInput danger)
    {
        if (state is not { LateAt: { } due, Danger: null, Try: null } || danger.Expected <= due || at >= due)
            return;
        Emit(new RunEndangered(due, danger.Expected, danger.Runs));
        OpenHandler(Occasion.Endangered, new("endangered", state.Danger!.Sentence));
    }

    // The last two steps of a scope may settle in one go; its end is told once.
    HashSet<ScopeState>? _endedHandlers;

    void HandlerEnded(ScopeState scope)
    {
        if (!(_endedHandlers ??= []).Add(scope))
            return;
        WarnOfFailed(scope);
        if (state.RootEnd is { } end && !state.HasEnded)
            HandleEnd(end);
    }

    void WarnOfFailed(ScopeState handler)
    {
        if (handler.CountedFailures == 0 || state.Warnings.Any(w => w.Step == handler.Path))
            return;
        Emit(new RunWarned(handler.Path, $"the handler failed: {FailureIn(handler)}"));
    }

    // The warning names the handler; its steps need not do so again.
    string FailureIn(ScopeState handler) =>
        FailureOf(handler).Message is var why && why.StartsWith(handler.Path + "/", StringComparison.Ordinal)
            ? why[(handler.Path.Length + 1)..]
            : why;

    void RootEnded()
    {
        var (outcome, error) = OutcomeOf(state.Root);
        var outputs = new List<KeyValuePair<string, Value>>();
        foreach (var output in state.Chain.Outputs)
        {
            var value = output.Expression.Evaluate(Names(state.Root));
            var tooBig = value.IsError ? null : bounds.Refuse(value) ?? NoRoomFor(value);
            if (!value.IsError && tooBig is null)
            {
                outputs.Add(KeyValuePair.Create(output.Name, value));
            }
            // What a step did not give never turns a green run red; nobody gets it, and the run says so.
            else if (outcome == Outcome.Succeeded && value.IsError && value.AsError.IsAbsent)
            {
                Emit(new RunWarned("", $"output “{output.Name}” is absent: {value.AsError.Message}"));
            }
            else if (outcome == Outcome.Succeeded)
            {
                (outcome, error) = (
                    Outcome.Failed,
                    new(
                        "expression",
                        $"output “{output.Name}”: "
                            + $"{tooBig ?? ExpressionExplanation.Of(output.Expression, Names(state.Root), value)}",
                        output.Expression.Text
                    )
                );
            }
        }
        var end = new RootSettled(outcome, Value.Map(DictionaryMap.Of(outputs)), error);
        if (state.Chain.Handlers.Count > 0)
            Emit(end);
        HandleEnd(end);
    }

    (Outcome Outcome, StepError? Error) OutcomeOf(ScopeState root)
    {
        if (state.IsStopping)
        {
            var stop = state.Stop!;
            return stop.Outcome switch
            {
                Outcome.Succeeded => (Outcome.Succeeded, null),
                Outcome.Failed => (
                    Outcome.Failed,
                    root.CountedFailures > 0
                        ? FailureOf(root)
                        : new("stop", $"{stop.By}: {stop.Message ?? "the run was ended as failed"}")
                ),
                _ => (Outcome.Stopped, stop.Message is { } why ? new("stopped", why) : null),
            };
        }
        if (root.CountedFailures > 0)
            return (Outcome.Failed, FailureOf(root));
        // A child run that somebody stopped.
        return root.Steps.FirstOrDefault(s => s.Outcome == Outcome.Stopped) is { } stopped
            ? (Outcome.Stopped, new("stopped", $"{stopped.Path}: {stopped.Note ?? "it was stopped"}"))
            : (Outcome.Succeeded, null);
    }

    /// <summary>Runs the handlers that are left, one after the other, and settles the run when none is.</summary>
    void HandleEnd(RootSettled end)
    {
        var ofLeg = state.Handlers.Where(h => h.Leg == state.Leg).ToList();
        // Handlers of a pause may have begun in an earlier leg.
        if (state.Handlers.Any(h => h.Scope.Unsettled > 0))
            return;
        Occasion[] occasions = end.Outcome switch
        {
            Outcome.Succeeded => [Occasion.Success, Occasion.End],
            Outcome.Failed => [Occasion.Failure, Occasion.End],
            _ => [Occasion.End],
        };
        foreach (var occasion in state.IsStopping && state.RootEnd is not null ? [] : occasions)
        {
            if (!state.Chain.Handlers.ContainsKey(occasion) || ofLeg.Exists(h => h.Occasion == occasion))
                continue;
            OpenHandler(occasion, end.Error);
            return;
        }
        var again =
            end.Outcome == Outcome.Failed
            && state.Chain.Recover is { } rule
            && state.Resumes.Reverse().TakeWhile(r => r.Automatic).Count() < rule.Attempts
                ? at + rule.Wait
                : (DateTimeOffset?)null;
        Emit(new RunSettled(end.Outcome, end.Outputs, end.Error, again));
    }
}
