using System.Text.Json.Serialization;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Events;

/// <summary>An attempt was asked to end early.</summary>
public sealed record CancelAsked(string Step, CancelReason Reason) : RunEvent, IStepEvent;

/// <summary>A person has said how a step, or an iteration, ends; it settles so when all in it has ended.</summary>
/// <param name="As">Failed, skipped or succeeded.</param>
/// <param name="Outputs">For succeeded: what it gives, a map.</param>
/// <param name="Index">For an iteration of the step: its number from 0; null for the step itself.</param>
public sealed record StepCancelled(string Step, Outcome As, Actor By, Value Outputs, string? Message, int? Index = null)
    : RunEvent,
        IStepEvent
{
    /// <summary>Who it was, and why: <c>ann: the file is broken</c>.</summary>
    [JsonIgnore]
    public string Sentence => Message is null ? $"cancelled by {By}" : $"cancelled by {By}: {Message}";
}

public enum CancelReason
{
    None,
    Stop,
    Timeout,

    /// <summary>The container holds nothing that failed, but a failure beside it lets nothing new start.</summary>
    Halt,

    /// <summary>A person cancelled it.</summary>
    Person,
}
