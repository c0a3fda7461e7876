using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>Something from outside that a run has to react to. The moment travels with it.</summary>
public abstract record RunInput(DateTimeOffset At);

/// <summary>Begins the run; its first input.</summary>
public sealed record StartInput(DateTimeOffset At, string Uid, string Release, IReadOnlyDictionary<string, Value> Params, Value Profile, string By) : RunInput(At);

/// <summary>The work of an attempt ended.</summary>
public sealed record AttemptEndedInput(DateTimeOffset At, string Step, int Attempt, AttemptResult Result) : RunInput(At);

/// <summary>A moment that the state waits for has come.</summary>
public sealed record TimeInput(DateTimeOffset At) : RunInput(At);

/// <summary>The state was folded from the journal after the service had ended; whatever was in flight is lost.</summary>
public sealed record RecoveredInput(DateTimeOffset At) : RunInput(At);

public sealed record StopInput(DateTimeOffset At, string By, string? Message) : RunInput(At);

/// <summary>Goes on from the checkpoint. Only for a run that ended failed or stopped.</summary>
/// <param name="Params">Parameters to override, already of the declared types.</param>
/// <param name="Vars">Variables of the chain to override.</param>
/// <param name="From">Paths of steps to do again with all their descendants, even if they succeeded.</param>
/// <param name="Skip">Paths of steps to pass over.</param>
public sealed record ResumeInput(DateTimeOffset At, string By, IReadOnlyDictionary<string, Value> Params, IReadOnlyDictionary<string, Value> Vars,
    IReadOnlyList<string> From, IReadOnlyList<string> Skip) : RunInput(At);

/// <summary>What an attempt gave.</summary>
/// <param name="Outputs">A map; may be partly filled for a failure.</param>
/// <param name="Error">Null for a success.</param>
public sealed record AttemptResult(Value Outputs, StepError? Error = null, IReadOnlyList<string>? Warnings = null)
{
    public bool Succeeded => Error is null;

    public static AttemptResult Done(params ReadOnlySpan<(string Name, Value Value)> outputs) => new(Value.Map(outputs));

    public static AttemptResult Fail(string code, string message, string? detail = null) => new(Value.EmptyMap, new(code, message, detail));
}
