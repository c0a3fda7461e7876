using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running.Machine;

// What a scope tells of its failures, and of what was stopped in it.
sealed partial class Decider
{
    static bool EnclosedInClosing(StepState step)
    {
        for (var scope = step.Scope; scope.Owner is { } owner; scope = owner.Scope)
        {
            if (owner.IsEnding || scope.Cancelled is not null)
                return true;
        }
        return false;
    }

    /// <summary>
    /// The failure of a scope: that of the deepest step which failed first, however many containers and calls it came
    /// through.
    /// </summary>
    public StepError FailureOf(ScopeState scope)
    {
        var first = scope.Steps.First(s => s.IsCountedFailure);
        var origin =
            first.Error?.Origin is not { } deeper
                ? new(state.Id, state.Chain.Name, first.Path, first.Error?.Message ?? "failed", ItemOf(scope))
            : first.Step.Call is null ? deeper
            : deeper.Through(ItemOf(scope) is { } item ? $"{first.Path} (“{item}”)" : first.Path);
        var others = RunState.FailuresIn(scope).Count() - 1;
        return new(
            first.Error?.Code ?? "failed",
            $"{origin.Sentence}{(others > 0 ? $" (and {others:N0} more failed)" : "")}",
            Origin: origin
        );
    }

    /// <summary>
    /// A container in which something was stopped by itself, as a child run can be, and nothing failed.
    /// </summary>
    public void SettleStopped(StepState owner, ScopeState scope)
    {
        var stopped = scope.Steps.First(s => s.Outcome == Outcome.Stopped);
        Settle(owner, Outcome.Stopped, note: $"{stopped.Path}: {stopped.Note ?? "it was stopped"}");
    }

    static string? ItemOf(ScopeState scope) =>
        scope.Outward.FirstOrDefault(s => s.Owner?.Each is not null) is { } iteration
            ? LoopItems.Name(iteration.Item, 40)
            : null;
}
