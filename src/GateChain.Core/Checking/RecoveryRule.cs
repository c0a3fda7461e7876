using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>What can't do what it says: a handler that pauses or stops its run, a redo without another attempt.</summary>
sealed class RecoveryRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var step in chain.Handlers.Values.SelectMany(h => h.AllSteps))
        {
            if (step.IfFails == Chains.FailureRule.Pause || step.OnCrash == CrashRule.Pause)
            {
                problems.Add(ProblemKinds.BadHandler, step.Span, $"“{step.Id}” stands in a handler, and handlers do not pause the run", "use ifFails: fail or absorb, and onCrash: redo or fail");
            }
            if (step.Kind.Name == ControlKinds.Stop) { problems.Add(ProblemKinds.BadHandler, step.Span, $"“{step.Id}” stands in a handler, and a handler can't stop the run it is told of"); }
        }
        foreach (var step in chain.AllSteps.Where(s => s.Retry is null && s.Expect.Any(e => e.Verdict == ExpectVerdict.Redo)))
        {
            problems.Add(ProblemKinds.RedoWithoutRetry, step.Span, $"“{step.Id}” expects to be done again, and has no further attempt: redo will fail it", "add retry: { limit: 1 }");
        }
    }
}
