namespace GateChain.Client;

/// <summary>A decision of a run.</summary>
/// <param name="Seq">Its number, from 1.</param>
/// <param name="At">When it was.</param>
/// <param name="Leg">The leg that it belongs to.</param>
/// <param name="Lines">What was decided.</param>
public sealed record MomentInfo(long Seq, DateTimeOffset At, int Leg, IReadOnlyList<TraceInfo> Lines);
