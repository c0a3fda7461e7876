using GateChain.Core.Expressions;

namespace GateChain.Core.Chains;

/// <summary>How a step ended.</summary>
public enum Outcome
{
    Succeeded,
    Failed,
    Skipped,
    Stopped,
}

/// <summary>Which outcomes of its source let a gate open.</summary>
[Flags]
public enum GateOutcomes
{
    None = 0,
    Success = 1,
    Failure = 2,
    Completion = 3,
    Skipped = 4,
    Always = 7,
}

public enum GateMatch
{
    Both,
    Either,
}

/// <summary>A conditional link from one step to another of the same scope. Immutable once read.</summary>
public sealed class Gate
{
    /// <summary>Its place among the gates of its scope, from 0.</summary>
    public required int Index { get; init; }

    public required Step From { get; init; }
    public required Step To { get; init; }
    public GateOutcomes On { get; init; } = GateOutcomes.Success;
    public SourceExpression? When { get; init; }
    public GateMatch Match { get; init; }

    /// <summary>The branch of the decide step it leaves; null for none.</summary>
    public string? Branch { get; init; }

    /// <summary>Whether it opens when no gate with a condition that leaves the same step has opened.</summary>
    public bool IsElse { get; init; }

    public Span Span { get; init; }

    /// <summary>Whether <see cref="On"/> lets it open after this outcome.</summary>
    public bool Admits(Outcome outcome) =>
        outcome switch
        {
            Outcome.Succeeded => On.HasFlag(GateOutcomes.Success),
            Outcome.Failed => On.HasFlag(GateOutcomes.Failure),
            Outcome.Skipped => On.HasFlag(GateOutcomes.Skipped),
            _ => false,
        };

    /// <summary>
    /// Whether an else gate of the same step counts it after this outcome: it has a condition, and could have opened.
    /// </summary>
    public bool CountsForElse(Outcome outcome) => When is not null && (Admits(outcome) || Match == GateMatch.Either);

    /// <summary>What its label says; empty for a plain link on success.</summary>
    public string Label
    {
        get
        {
            var on = On switch
            {
                GateOutcomes.Success => "",
                GateOutcomes.Failure => "on failure",
                GateOutcomes.Completion => "either way",
                GateOutcomes.Skipped => "if skipped",
                GateOutcomes.Always => "always",
                GateOutcomes.Failure | GateOutcomes.Skipped => "failed or skipped",
                _ => "succeeded or skipped",
            };
            if (IsElse)
                return on.Length == 0 ? "else" : $"{on}, else";
            var condition = Branch ?? When?.Expression.Text;
            return condition is null ? on
                : on.Length == 0 ? condition
                : $"{on} {(Match == GateMatch.Either ? "or" : "and")} {condition}";
        }
    }
}
