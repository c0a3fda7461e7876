using GateChain.Core.Chains;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>What of a chain a run that tries it does. Steps of the chain's own scope are named by their ids.</summary>
/// <param name="Begin">Steps that start whatever their gates say; null lets the gates decide.</param>
/// <param name="Taken">Steps that are taken as they ended elsewhere, without being done.</param>
/// <param name="LeftOut">Steps that are skipped.</param>
/// <param name="PauseBefore">Addresses of steps, inner ones too, before which the run pauses.</param>
public sealed record TryPlan(
    IReadOnlyList<string> Begin,
    IReadOnlyList<TakenStep> Taken,
    IReadOnlyList<string> LeftOut,
    IReadOnlyList<string> PauseBefore
)
{
    /// <summary>How a step ended elsewhere; null when it is done here.</summary>
    internal TakenStep? TakenFor(string id) => Taken.FirstOrDefault(t => t.Step == id);

    /// <summary>The plan for a part of a chain.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="part">Which part.</param>
    /// <param name="step">The id of the step that <paramref name="part"/> speaks of; not looked at for the
    /// whole.</param>
    /// <param name="known">How steps before the part ended, for example in an earlier run; those not in it are taken as
    /// succeeded without outputs.</param>
    /// <param name="pauseBefore">Addresses of steps before which the run pauses.</param>
    public static TryPlan For(
        Chain chain,
        TryPart part,
        string step,
        IReadOnlyDictionary<string, TakenStep> known,
        IReadOnlyList<string> pauseBefore
    )
    {
        if (part == TryPart.Whole || chain.Root.Find(step) is not { } at)
            return new([], [], [], pauseBefore);
        var behind = Scopes.FromHereOn(at);
        var before = Scopes.UpToHere(at);
        var done = part switch
        {
            TryPart.From => behind,
            TryPart.Only => [at],
            _ => before,
        };
        var rest = chain.Root.Steps.Where(s => !done.Contains(s)).ToList();
        // What stands before the part has ended somehow; what stands behind it is left out, and so is what has nothing
        // to do with it.
        var taken = part == TryPart.UpTo ? [] : rest.Where(s => part == TryPart.From || before.Contains(s)).ToList();
        return new(
            part == TryPart.UpTo ? [] : [at.Id],
            [.. taken.Select(s => known.GetValueOrDefault(s.Id) ?? new(s.Id, Outcome.Succeeded, Value.EmptyMap, null))],
            [.. rest.Except(taken).Select(s => s.Id)],
            pauseBefore
        );
    }
}

/// <summary>Which part of a chain is tried.</summary>
public enum TryPart
{
    Whole,

    /// <summary>A step and everything behind it.</summary>
    From,

    /// <summary>A step alone.</summary>
    Only,

    /// <summary>A step and everything before it.</summary>
    UpTo,
}

/// <param name="Step">Its id.</param>
/// <param name="Outputs">What it gives to the steps behind it: a map.</param>
/// <param name="Run">The run it is taken from; null when it is only taken as such.</param>
public sealed record TakenStep(string Step, Outcome Outcome, Value Outputs, long? Run);
