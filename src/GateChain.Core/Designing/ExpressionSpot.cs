using GateChain.Core.Chains;
using GateChain.Core.Checking;

namespace GateChain.Core.Designing;

/// <summary>A place of a chain where an expression stands, or is going to.</summary>
/// <param name="Step">The address of its step; null for a gate's condition and the chain's outputs.</param>
/// <param name="Place">What it is for, at a step.</param>
/// <param name="Scope">For a gate: the address of the scope it lies in, empty for the chain's own; null for
/// outputs.</param>
/// <param name="From">For a gate: the id of the step it leaves from.</param>
public sealed record ExpressionSpot(string? Step, StepPlace Place, string? Scope = null, string? From = null)
{
    /// <summary>The address of the scope whose names it sees.</summary>
    public string SeenScope =>
        Step is null ? Scope ?? ""
        : Place is StepPlace.Collect or StepPlace.Until or StepPlace.While ? Step
        : new StepPath(Step).Scope.Text;

    /// <summary>The id of the step whose result and probes it sees; null for none.</summary>
    public string? OwnId => Step is null || SeenScope == Step ? null : new StepPath(Step).Last;
}

/// <summary>What can be written next.</summary>
/// <param name="Label">What it is called.</param>
/// <param name="Kind"><c>name</c>, <c>function</c> or <c>word</c>.</param>
/// <param name="Type">Its type, or a function's signature.</param>
/// <param name="Doc">What it is; null when there is nothing to say.</param>
public sealed record Completion(string Label, string Kind, string Type, string? Doc);
