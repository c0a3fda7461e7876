using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>What a wait for runs gives: how each of them ended, and how many well.</summary>
public static class RunEnds
{
    /// <summary>How one run ended.</summary>
    /// <param name="outcome">The word of its outcome.</param>
    /// <param name="error">Why it failed; null when it did not.</param>
    public static Value Describe(long run, string chain, string outcome, string? error, Value outputs) =>
        Value.Map(
            ("run", Value.Int(run)),
            ("chain", Value.String(chain)),
            ("outcome", Value.String(outcome)),
            ("error", Value.String(error ?? "")),
            ("outputs", outputs)
        );

    /// <summary>The outputs of the wait.</summary>
    public static (string Name, Value Value)[] Outputs(IReadOnlyList<Value> ends)
    {
        var succeeded = ends.Count(e => e.AsMap.Find("outcome") is { } outcome && outcome.AsString == "succeeded");
        return
        [
            ("outcomes", Value.List(ends)),
            ("succeeded", Value.Int(succeeded)),
            ("failed", Value.Int(ends.Count - succeeded)),
        ];
    }
}
