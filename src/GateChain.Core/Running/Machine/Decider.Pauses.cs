using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// Pausing: by a person, or by a step whose failure a person has to decide about.
sealed partial class Decider
{
    /// <summary>Whether a step must not begin anything new because the run is paused. Handlers continue.</summary>
    public bool IsBlockedByPause(StepState step) => state.IsPaused && !step.Scope.IsHandler;

    void PauseRun(PauseInput pause)
    {
        var was = state.IsPaused;
        Emit(new PauseAsked(pause.By, pause.Message));
        if (!was)
            OpenHandler(Occasion.Pause, new("paused", pause.Message ?? $"paused by {pause.By}"));
    }

    void PauseAt(StepState step, StepError error, Value? outputs = null)
    {
        var was = state.IsPaused;
        Emit(new StepPaused(step.Path, error, outputs ?? Value.EmptyMap));
        if (!was)
            OpenHandler(Occasion.Pause, error with { Message = $"{step.Path}: {error.Message}" });
    }

    void Answer(AnswerInput answer)
    {
        var step = state.Find(answer.Step)!;
        var (error, outputs) = (step.Error, step.Outputs);
        var inside = answer.Answer == PauseAnswer.Retry ? ResumeCollector.Inside(step) : null;
        Emit(new PauseAnswered(step.Path, answer.Answer, answer.By, inside));
        foreach (var gate in inside?.Undecided ?? [])
            DecideAgain(gate);
        switch (answer.Answer)
        {
            case PauseAnswer.Retry or PauseAnswer.Anew:
                break;
            case PauseAnswer.Skip:
                Settle(step, Outcome.Skipped, note: $"skipped by {answer.By}{Because(answer)}");
                break;
            case PauseAnswer.Settle:
                SettleByHand(step, answer.Outputs, $"settled by {answer.By}{Because(answer)}");
                break;
            case PauseAnswer.Fail:
                Settle(step, Outcome.Failed, outputs, error);
                break;
            default:
                StopRun(answer.By, answer.Message);
                break;
        }
        if (!state.IsPaused)
            Continue(state.Root);
    }

    static string Because(AnswerInput answer) => answer.Message is { } why ? $": {why}" : "";

    void SettleByHand(StepState step, Value outputs, string note)
    {
        if (Assign(step, outputs) is { } wrong)
            Fail(step, wrong, outputs);
        else
            Settle(step, Outcome.Succeeded, outputs, note: note);
    }
}
