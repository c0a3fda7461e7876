using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>One node of a chain. Immutable once read.</summary>
public sealed class Step
{
    public required string Id { get; init; }
    public required KindDescription Kind { get; init; }
    public string? Title { get; init; }
    public string? Notes { get; init; }

    /// <summary>Hints that are put to rest for the step and what is in it: the reasons, by the hint's code.</summary>
    public IReadOnlyDictionary<string, string> Quiet { get; init; } = QuietHints.None;

    /// <summary>Its place among the steps of its scope, from 0, in the order of the file.</summary>
    public int Index { get; internal set; }

    public StepScope Scope { get; internal set; } = null!;
    public Join Join { get; init; } = Join.All;
    public RetryRule? Retry { get; init; }

    /// <summary>The longest one attempt may take; null is without limit.</summary>
    public TimeSpan? Timeout { get; init; }

    public FailureRule IfFails { get; init; }

    /// <summary>Checks on its threshold; null for none.</summary>
    public GuardRule? Guard { get; init; }

    /// <summary>Checks on its result, in the order of the file; when none holds, the result is accepted.</summary>
    public IReadOnlyList<ExpectCase> Expect { get; init; } = [];

    /// <summary>
    /// The lane its attempts queue for: its own, or the chain's for steps that do work; null for none.
    /// </summary>
    public string? Lane { get; init; }

    /// <summary>Where the step names its lane; null when the lane is not its own word.</summary>
    public Span? LaneSpan { get; init; }

    /// <summary>
    /// The label of the nodes that do its attempts: its own, or what stands around it; null for wherever its run is.
    /// </summary>
    public Setting? Place { get; init; }

    /// <summary>Whether it is done again in each leg that still needs it.</summary>
    public bool RedoOnResume { get; init; }

    public CrashRule OnCrash { get; init; }

    /// <summary>How many attempts may be lost to crashes before the step fails. Default 3.</summary>
    public int CrashLimit { get; init; } = 3;

    public bool Disabled { get; init; }

    /// <summary>Whether a failure inside a container resets all of it on resume.</summary>
    public bool ResumeWhole { get; init; }

    public MapSetting Settings { get; init; } = MapSetting.Empty;
    public IReadOnlyList<NamedExpression> Assignments { get; init; } = [];
    public IReadOnlyList<Branch> Branches { get; init; } = [];
    public EachRule? Each { get; init; }
    public RepeatRule? Repeat { get; init; }
    public CallRule? Call { get; init; }

    /// <summary>The name that a loop gives to what it goes through; null for none.</summary>
    public string? LoopName => Each?.As ?? Repeat?.As;

    /// <summary>The steps inside, for containers.</summary>
    public StepScope? Inner { get; init; }

    /// <summary>Gates that lead here, in the order of the file.</summary>
    public IReadOnlyList<Gate> Incoming { get; internal set; } = [];

    /// <summary>Gates that leave from here, in the order of the file.</summary>
    public IReadOnlyList<Gate> Outgoing { get; internal set; } = [];

    public Span Span { get; init; }

    /// <summary>
    /// Where it stands in the chain: ids from the outermost container down, for example <c>depots/load</c>.
    /// </summary>
    public string Address => Scope is { Address.Length: > 0 } scope ? $"{scope.Address}/{Id}" : Id;

    /// <summary>
    /// What a drawing says below its title: what a loop goes through, what a call runs, which branches there are, what
    /// its settings tell; null when the title says all.
    /// </summary>
    public string? Caption =>
        this switch
        {
            { Repeat: { } repeat } => repeat.Until is { } until
                ? $"until {until.Expression.Text}"
                : $"while {repeat.While!.Expression.Text}",
            { Call: { } call } => $"runs {call.Chain}{(call.Wait ? "" : ", without waiting")}",
            { Each: { } each } =>
                $"over {each.Over.Expression.Text}{(each.Parallel > 1 ? $", {each.Parallel} at a time" : "")}",
            { Branches.Count: > 0 } => string.Join(" / ", Branches.Select(b => b.Name)),
            { Assignments.Count: > 0 } => string.Join(", ", Assignments.Select(a => a.Name)),
            _ => Settings["for"] is LiteralSetting { Value.Kind: ValueKind.Duration } wait
                ? TimeText.Setting(wait.Value.AsTimeSpan)
            : Kind.Tells is { } template ? SettingFacts.Of(template, Settings)
            : null,
        };

    public override string ToString() => $"{Id} ({Kind.Name})";
}

public enum JoinMode
{
    All,
    Any,
    Some,
    Count,
}

/// <summary>
/// How a step with several incoming gates is released. <see cref="Needed"/> counts only for
/// <see cref="JoinMode.Count"/>.
/// </summary>
public readonly record struct Join(JoinMode Mode, int Needed = 0)
{
    public static Join All { get; } = new(JoinMode.All);

    public override string ToString() => Mode == JoinMode.Count ? Needed.ToString() : Mode.Word();
}

/// <summary>What a settled failure means for the run.</summary>
public enum FailureRule
{
    /// <summary>It counts: the run will end failed.</summary>
    Fail,

    /// <summary>It is dealt with and does not count.</summary>
    Absorb,

    /// <summary>The run pauses, and a person decides.</summary>
    Pause,
}

/// <summary>What happens to an attempt that a crash cut off.</summary>
public enum CrashRule
{
    Redo,
    Pause,
    Fail,
}

/// <param name="Limit">Further attempts after the first, 0 to 1000.</param>
/// <param name="Wait">Before the first further attempt. Default 0.</param>
/// <param name="Factor">What the wait grows by each time, 1 to 100. Default 1.</param>
/// <param name="Max">The longest wait; null is without limit.</param>
/// <param name="Jitter">The share of the wait that varies by chance, 0 to 1. Default 0.</param>
/// <param name="When">Sees <c>error</c> and says whether another attempt makes sense; null is always.</param>
public sealed record RetryRule(
    int Limit,
    TimeSpan Wait,
    double Factor,
    TimeSpan? Max,
    double Jitter,
    SourceExpression? When
);

/// <param name="When">What must hold; null for the branch that is taken otherwise.</param>
public sealed record Branch(string Name, SourceExpression? When, Span Span);

/// <param name="Over">Gives the list.</param>
/// <param name="Parallel">Iterations in flight at once, 1 to 1000. Default 1.</param>
/// <param name="Tolerate">How many iterations may fail. Default 0.</param>
/// <param name="Collect">Gives one value per succeeded iteration.</param>
/// <param name="As">A name by which the scopes inside read <c>name.item</c> and <c>name.index</c>; null for
/// none.</param>
public sealed record EachRule(
    SourceExpression Over,
    int Parallel,
    Tolerance Tolerate,
    SourceExpression? Collect,
    string? As = null
);

/// <param name="Until">Ends the rounds when true; looked at after each. Null when <paramref name="While"/>
/// rules.</param>
/// <param name="While">Lets a round begin while true; looked at before each. Null when <paramref name="Until"/>
/// rules.</param>
/// <param name="Limit">The most rounds, 1 to 1,000,000.</param>
/// <param name="Pause">Between two rounds. Default 0.</param>
/// <param name="AcceptAtLimit">Whether reaching the limit is a success. Default false: the step fails.</param>
/// <param name="As">A name by which the scopes inside read <c>name.round</c>; null for none.</param>
public sealed record RepeatRule(
    SourceExpression? Until,
    SourceExpression? While,
    int Limit,
    TimeSpan Pause,
    bool AcceptAtLimit,
    string? As = null
);

/// <summary>A count of failed iterations, or a percentage of all.</summary>
public readonly record struct Tolerance(int Count, double? Percent = null)
{
    public bool Allows(int failed, int of) => Percent is { } percent ? failed * 100.0 <= percent * of : failed <= Count;

    /// <summary>How many may fail: <c>none</c>, <c>at most 2</c>, <c>at most 20 % (2)</c>.</summary>
    /// <param name="of">How many iterations there are.</param>
    public string InWords(int of) =>
        Percent is { } percent and > 0
            ? $"at most {percent.ToString(System.Globalization.CultureInfo.InvariantCulture)} % ("
                + $"{Math.Floor(percent * of / 100)})"
        : Count > 0 ? $"at most {Count}"
        : "none";
}
