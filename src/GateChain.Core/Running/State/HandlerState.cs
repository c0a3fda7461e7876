using GateChain.Core.Chains;
using GateChain.Core.Running.Events;

namespace GateChain.Core.Running.State;

/// <summary>One time that a handler ran. Changed only by the fold.</summary>
/// <param name="Occasion">What it is for.</param>
/// <param name="Number">From 1 over all handlers of the run.</param>
/// <param name="Leg">The leg it belongs to.</param>
/// <param name="Error">What its expressions see as <c>error</c>.</param>
/// <param name="Scope">Its steps.</param>
public sealed record HandlerState(Occasion Occasion, int Number, int Leg, StepError? Error, ScopeState Scope);
