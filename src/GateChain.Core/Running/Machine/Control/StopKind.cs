using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary><c>stop</c>: ends the whole run as it says.</summary>
sealed class StopKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        run.Begin(step, inputs, null);
        var settings = inputs.AsMap;
        var by = Actor.OfStep(step.Path, $"step {step.Path}");
        var message = settings.Find("message") is { } text ? ValueText.ToPlainString(text) : null;
        switch (settings.Find("outcome") is { Kind: ValueKind.String } word ? word.AsString : "")
        {
            case "succeeded":
                run.Settle(step, Outcome.Succeeded, note: "ended the run" + (message is null ? "" : $": {message}"));
                run.StopRun(by, message, Outcome.Succeeded);
                break;
            case "failed":
                run.Settle(step, Outcome.Failed, error: new("stop", message ?? "the run was ended as failed"));
                run.StopRun(by, message, Outcome.Failed);
                break;
            default:
                run.Settle(step, Outcome.Stopped, note: "stopped the run");
                run.StopRun(by, message);
                break;
        }
    }
}
