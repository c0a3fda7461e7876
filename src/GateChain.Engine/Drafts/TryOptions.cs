using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Engine.Drafts;

/// <summary>What of a draft is tried, and with what.</summary>
/// <param name="Source">The chain file.</param>
/// <param name="Params">Parameters; text is read as their types ask.</param>
/// <param name="Profile">The name of a profile, or null.</param>
/// <param name="Part">Which part of it.</param>
/// <param name="Step">The id of the step that the part speaks of; null for the whole.</param>
/// <param name="Known">An earlier run of the chain that steps before the part are taken from; null to take them as
/// succeeded.</param>
/// <param name="Given">Outputs of steps before the part, by id: they come before those of the earlier run.</param>
/// <param name="PauseBefore">Addresses of steps before which the run pauses.</param>
public sealed record TryOptions(
    string Source,
    IReadOnlyDictionary<string, Value> Params,
    string? Profile,
    TryPart Part,
    string? Step,
    long? Known,
    IReadOnlyDictionary<string, Value> Given,
    IReadOnlyList<string> PauseBefore
);
