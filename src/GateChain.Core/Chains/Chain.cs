using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>A chain as its file says it. Immutable once read; safe to share between threads.</summary>
public sealed class Chain
{
    public required string Name { get; init; }
    public string? Title { get; init; }
    public string? Notes { get; init; }

    /// <summary>Hints that are put to rest for the whole chain: the reasons, by the hint's code.</summary>
    public IReadOnlyDictionary<string, string> Quiet { get; init; } = QuietHints.None;
    public required IReadOnlyList<Parameter> Parameters { get; init; }
    public required StepScope Root { get; init; }
    public IReadOnlyList<NamedExpression> Outputs { get; init; } = [];

    /// <summary>Further areas from which it may be called and started by triggers, beside its own and those below.
    /// </summary>
    public IReadOnlyList<Area> Callable { get; init; } = [];

    /// <summary>What a counted failure means for steps that do not depend on it.</summary>
    public FailureReach OnFailure { get; init; }

    /// <summary>What happens to a run that is started while another one of the chain is going.</summary>
    public BusyRule WhenBusy { get; init; }

    /// <summary>
    /// What a run is busy for, over its parameters: others with the same key are in its way. Null for the whole chain.
    /// </summary>
    public SourceExpression? BusyKey { get; init; }

    /// <summary>How many runs may wait in one queue; null for any number.</summary>
    public int? QueueLimit { get; init; }

    /// <summary>The variables whose values go from run to run.</summary>
    public IEnumerable<Variable> Kept => Root.Variables.Where(v => v.Keep);

    /// <summary>How long after its start a run is late; null for never.</summary>
    public TimeSpan? DueIn { get; init; }

    /// <summary>How a failed run is resumed by itself; null for not at all.</summary>
    public RecoverRule? Recover { get; init; }

    /// <summary>Scopes of steps that run on an occasion.</summary>
    public IReadOnlyDictionary<Occasion, StepScope> Handlers { get; init; } = new Dictionary<Occasion, StepScope>();

    /// <summary>Positions on the canvas by step path; absent ones are laid out by the console.</summary>
    public IReadOnlyDictionary<string, (double X, double Y)> Layout { get; init; } =
        new Dictionary<string, (double, double)>();

    /// <summary>All steps of all scopes, outer before inner, those of handlers last.</summary>
    public IEnumerable<Step> AllSteps => Root.AllSteps.Concat(Handlers.Values.SelectMany(h => h.AllSteps));
}

/// <summary>What a counted failure means for steps that do not depend on it.</summary>
public enum FailureReach
{
    /// <summary>Independent branches continue.</summary>
    Finish,

    /// <summary>
    /// Nothing new starts but what stands behind failure, completion, skipped or always gates of the failed step.
    /// </summary>
    Halt,
}

/// <summary>What happens to a run that is started while another one of its chain is going.</summary>
public enum BusyRule
{
    /// <summary>It runs beside it.</summary>
    Allow,

    /// <summary>It waits until the others have ended.</summary>
    Queue,

    /// <summary>It is not started.</summary>
    Skip,

    /// <summary>The others are stopped, then it starts.</summary>
    Replace,
}

/// <summary>What a handler is for.</summary>
public enum Occasion
{
    /// <summary>All steps are through, and none failed that counts.</summary>
    Success,

    /// <summary>All steps are through, and a failure counts.</summary>
    Failure,

    /// <summary>All steps are through, however they ended; after the two above.</summary>
    End,

    /// <summary>The run paused.</summary>
    Pause,

    /// <summary>The run takes longer than <see cref="Chain.DueIn"/>.</summary>
    Late,

    /// <summary>As runs before it went, the run will take longer; it does not yet.</summary>
    Endangered,
}

/// <param name="Attempts">How often a failed run is resumed by itself, 1 to 1000, before a person has to.</param>
/// <param name="Wait">How long after its end.</param>
public sealed record RecoverRule(int Attempts, TimeSpan Wait);

/// <summary>A value the starter of a run gives.</summary>
/// <param name="Default">What holds when it is not given; null makes it required.</param>
public sealed record Parameter(string Name, CelType Type, string? Label, Value? Default, Span Span)
{
    /// <summary>
    /// Whether its value is the name of a secret, <c>secret:warehouse</c>: the secret itself is never in the run.
    /// </summary>
    public bool IsSecret { get; init; }
}

/// <summary>A value that steps change.</summary>
/// <param name="Initial">Its value when its scope begins.</param>
public sealed record Variable(string Name, CelType Type, Value Initial, Span Span, bool Keep = false);

/// <param name="Name">An output's name, or the target of an assignment.</param>
/// <param name="Expression">What gives its value.</param>
/// <param name="Span">Where the name stands.</param>
/// <param name="ExpressionAt">Where the expression stands.</param>
public sealed record NamedExpression(string Name, Expression Expression, Span Span, SourceExpression ExpressionAt);

/// <summary>An expression and how its offsets map to the file.</summary>
public sealed class SourceExpression(Expression expression, Func<Span, Span> place)
{
    public Expression Expression { get; } = expression;

    public Span Place(Span part) => place(part);

    public Span All => place(new(0, Expression.Text.Length));
}

/// <summary>Steps and the gates between them: the whole chain's, a group's, or those of one iteration.</summary>
public sealed class StepScope
{
    public required IReadOnlyList<Step> Steps { get; init; }
    public required IReadOnlyList<Gate> Gates { get; init; }
    public required IReadOnlyList<Variable> Variables { get; init; }

    Dictionary<string, Step>? _byId;

    /// <summary>The container that holds this scope; null for the chain's own and for handlers.</summary>
    public Step? Owner { get; internal set; }

    /// <summary>For a handler's scope: the chain's own scope, whose steps and variables it sees; else null.</summary>
    public StepScope? HandlerOf { get; internal set; }

    /// <summary>For a handler's scope: what it is for.</summary>
    public Occasion? Occasion { get; internal set; }

    /// <summary>The scope around this one.</summary>
    public StepScope? Outer => Owner?.Scope ?? HandlerOf;

    /// <summary>
    /// Where it stands in the chain: empty for the chain's own, <c>depots</c> inside a container, <c>@failure</c> for a
    /// handler.
    /// </summary>
    public string Address => Owner?.Address ?? (Occasion is { } occasion ? "@" + occasion.Word() : "");

    public Step? Find(string id) =>
        (_byId ??= Steps.GroupBy(s => s.Id).ToDictionary(g => g.Key, g => g.First())).GetValueOrDefault(id);

    public IEnumerable<Step> AllSteps => Steps.SelectMany(s => s.Inner is null ? [s] : s.Inner.AllSteps.Prepend(s));
}
