namespace GateChain.Core.Problems;

/// <summary>A part of a chain file. One of the two is there.</summary>
/// <param name="Step">A step's address.</param>
/// <param name="Gate">A gate.</param>
public sealed record PartPlace(string? Step, GatePlace? Gate);

/// <summary>A gate of a chain file.</summary>
/// <param name="Scope">The address of its scope: empty for the chain's own, <c>@failure</c> for a handler's.</param>
/// <param name="Index">Its place among the gates of its scope, from 0.</param>
/// <param name="From">The id of the step it leaves from; empty when the file does not say.</param>
/// <param name="To">The id of the step it leads to; empty when the file does not say.</param>
public sealed record GatePlace(string Scope, int Index, string From, string To);
