using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>
/// What can't do what it says: a step without what its work is, a handler that pauses or stops its run, a redo without
/// another attempt.
/// </summary>
sealed class RecoveryRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var step in chain.Handlers.Values.SelectMany(h => h.AllSteps))
        {
            if (step.IfFails == Chains.FailureRule.Pause || step.OnCrash == CrashRule.Pause)
            {
                problems.Add(
                    ProblemKinds.BadHandler,
                    step.Span,
                    $"“{step.Id}” stands in a handler, and handlers do not pause the run",
                    "use ifFails: fail or absorb, and onCrash: redo or fail"
                );
            }

            if (step.Kind.Name == ControlKinds.Stop)
            {
                problems.Add(
                    ProblemKinds.BadHandler,
                    step.Span,
                    $"“{step.Id}” stands in a handler, and a handler can't stop the run it is told of"
                );
            }
        }
        foreach (var step in chain.AllSteps)
        {
            if (step.Kind.OneOf is not var (names, only))
                continue;
            var given = names
                .Where(n =>
                    step.Settings[n] is { } setting
                    && setting.Constant is not { Kind: Values.ValueKind.List, AsList.Count: 0 }
                )
                .ToList();
            if (given.Count == 0)
            {
                problems.Add(
                    ProblemKinds.MissingKey,
                    step.Span,
                    $"“{step.Id}” needs {(only ? "one of " : "")}{string.Join(only ? ", " : " or ", names)} under “set”"
                );
            }
            else if (only && given.Count > 1)
            {
                problems.Add(
                    ProblemKinds.DoubleKey,
                    step.Span,
                    $"“{step.Id}” has {string.Join(" and ", given)}: keep one"
                );
            }
        }
        foreach (
            var step in chain.AllSteps.Where(s => s.Retry is null && s.Expect.Any(e => e.Verdict == ExpectVerdict.Redo))
        )
        {
            problems.Add(
                ProblemKinds.RedoWithoutRetry,
                step.Span,
                $"“{step.Id}” asks for another attempt, and has none left: redo will fail it",
                "add retry: { limit: 1 }"
            );
        }
    }
}
