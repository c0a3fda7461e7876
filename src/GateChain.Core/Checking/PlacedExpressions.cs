using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;

namespace GateChain.Core.Checking;

/// <summary>One expression of a chain: what it is for, where it stands, what it sees and what it must give.</summary>
/// <param name="Use">For messages: “the gate's condition”.</param>
/// <param name="At">The expression and its place in the file.</param>
/// <param name="Scope">The names it sees, with types.</param>
/// <param name="Wanted">The type it must give; <see cref="CelType.Dyn"/> for any.</param>
/// <param name="Before">The steps that cannot have run when it is computed.</param>
sealed record PlacedExpression(
    string Use,
    SourceExpression At,
    CelType Scope,
    CelType Wanted,
    Lazy<HashSet<Step>> Before
)
{
    /// <summary>The step it belongs to; null for gates and the chain's outputs.</summary>
    public Step? Step { get; init; }

    /// <summary>The gate it is the condition of; null for others.</summary>
    public Gate? Gate { get; init; }

    /// <summary>The scope that its names are those of.</summary>
    public required StepScope In { get; init; }
}

/// <summary>What an expression can see at a kind of place.</summary>
/// <param name="In">The scope whose steps and variables it sees.</param>
/// <param name="Names">The names, with types.</param>
/// <param name="Wanted">The type it must give; any for those that say so themselves.</param>
/// <param name="Before">The steps that cannot have run when it is computed.</param>
sealed record PlaceView(StepScope In, CelType Names, CelType Wanted, Lazy<HashSet<Step>> Before)
{
    public PlacedExpression Place(string use, SourceExpression at, CelType? wanted = null) =>
        new(use, at, Names, wanted ?? Wanted, Before) { In = In };
}

/// <summary>What is proposed for a mistake at a place.</summary>
static class Proposals
{
    /// <summary>The fix of a mistake, but for a step that can't have run there yet: the step itself, for one.</summary>
    /// <param name="before">The steps that can't have run when the expression is computed.</param>
    /// <param name="mistake">The mistake.</param>
    public static Fix? FixOf(this Lazy<HashSet<Step>> before, ExpressionProblem mistake) =>
        mistake is { Fix.Replacement: { } id }
        && mistake.Message.EndsWith(" in steps", StringComparison.Ordinal)
        && before.Value.Any(s => s.Id == id)
            ? null
            : mistake.Fix;
}

/// <summary>The places of a chain where expressions stand, and all expressions there are.</summary>
sealed class PlacedExpressions(Chain chain, Names names)
{
    public IEnumerable<PlacedExpression> All()
    {
        foreach (var scope in Scopes.All(chain))
        {
            foreach (var step in scope.Steps)
            {
                foreach (var placed in OfStep(step))
                {
                    yield return placed with
                    {
                        Step = step,
                    };
                }
            }
            foreach (var gate in scope.Gates.Where(g => g.When is not null && g.Branch is null))
            {
                yield return AtGate(scope, gate.From).Place("a gate's condition", gate.When!) with
                {
                    Gate = gate,
                };
            }
        }
        if (chain.BusyKey is { } key)
            yield return AtStart().Place("busyKey", key);
        foreach (var output in chain.Outputs)
            yield return AtOutputs().Place($"output “{output.Name}”", output.ExpressionAt);
    }

    /// <summary>What the condition of a gate sees, that leaves from a step.</summary>
    public PlaceView AtGate(StepScope scope, Step? from) =>
        new(
            scope,
            names.In(scope),
            CelType.Bool,
            new(() => [.. from is null ? [] : Scopes.FromHereOn(from).Where(s => s != from), .. Around(scope)])
        );

    /// <summary>What is seen before a run begins.</summary>
    public PlaceView AtStart() => new(chain.Root, names.AtStart, CelType.Dyn, new(() => []));

    /// <summary>What the chain's outputs see.</summary>
    public PlaceView AtOutputs() => new(chain.Root, names.In(chain.Root), CelType.Dyn, new(() => []));

    /// <summary>What expressions of a step see.</summary>
    public PlaceView At(Step step, StepPlace place)
    {
        var before = new Lazy<HashSet<Step>>(() => [.. Scopes.FromHereOn(step), .. Around(step.Scope)]);
        PlaceView Here(CelType wanted, params ReadOnlySpan<(string Name, CelType Type)> more) =>
            new(step.Scope, names.In(step.Scope, more), wanted, before);
        PlaceView Inside(CelType wanted, IEnumerable<Step> notYet) =>
            new(step.Inner!, names.In(step.Inner!), wanted, new(() => [.. notYet]));
        return place switch
        {
            StepPlace.Setting => step.Guard is null
                ? Here(CelType.Dyn)
                : Here(CelType.Dyn, ("probes", Names.Probes(step))),
            StepPlace.Probe => Here(CelType.Dyn),
            StepPlace.Guard => Here(CelType.Bool, ("probes", Names.Probes(step))),
            StepPlace.Expect => Here(CelType.Bool, ("result", Names.ResultOf(step)), ("probes", Names.Probes(step))),
            StepPlace.Assign => Here(CelType.Dyn, ("result", Names.ResultOf(step))),
            StepPlace.Branch => Here(CelType.Bool),
            StepPlace.Retry => Here(CelType.Bool, ("error", Names.Error)),
            StepPlace.Over => Here(CelType.List(CelType.Dyn)),
            StepPlace.Collect when step.Inner is not null => Inside(CelType.Dyn, Around(step.Inner)),
            StepPlace.Until when step.Inner is not null => Inside(CelType.Bool, Around(step.Inner)),
            // Looked at before a round, when none of its steps has run.
            StepPlace.While when step.Inner is not null => Inside(
                CelType.Bool,
                [.. Around(step.Inner), .. step.Inner.Steps]
            ),
            _ => Here(CelType.Dyn),
        };
    }

    IEnumerable<PlacedExpression> OfStep(Step step)
    {
        var settings = At(step, StepPlace.Setting);
        foreach (var placed in OfSetting("a setting", step.Settings, step.Kind.Settings, settings))
            yield return placed;
        foreach (var placed in OfSetting("the place", step.Place, SettingShape.Text, settings))
            yield return placed;
        var probed = At(step, StepPlace.Probe);
        foreach (var probe in step.Guard?.Probes ?? [])
        {
            foreach (
                var placed in OfSetting(
                    $"a setting of probe “{probe.Name}”",
                    probe.Settings,
                    probe.Kind.Settings,
                    probed
                )
            )
            {
                yield return placed;
            }
        }
        var guard = At(step, StepPlace.Guard);
        foreach (var rule in step.Guard?.Rules ?? [])
        {
            if (rule.When is { } condition)
                yield return guard.Place("a rule of the guard", condition);
            foreach (var placed in OfSetting("a message", rule.Message, SettingShape.Text, guard))
                yield return placed;
        }
        if (step.Expect.Count > 0)
        {
            var expect = At(step, StepPlace.Expect);
            foreach (var rule in step.Expect)
            {
                yield return expect.Place("an expect rule", rule.When);
                foreach (var placed in OfSetting("a message", rule.Message, SettingShape.Text, expect))
                    yield return placed;
            }
        }
        foreach (var assignment in step.Assignments)
            yield return At(step, StepPlace.Assign).Place("an assignment", assignment.ExpressionAt);
        foreach (var branch in step.Branches.Where(b => b.When is not null))
            yield return At(step, StepPlace.Branch).Place($"branch “{branch.Name}”", branch.When!);
        if (step.Retry?.When is { } when)
            yield return At(step, StepPlace.Retry).Place("retry.when", when);
        if (step.Each is { } each)
        {
            yield return At(step, StepPlace.Over).Place("over", each.Over);
            if (each.Collect is { } collect)
                yield return At(step, StepPlace.Collect).Place("collect", collect);
        }
        if (step.Repeat?.Until is { } until)
            yield return At(step, StepPlace.Until).Place("until", until);
        if (step.Repeat?.While is { } goOn)
            yield return At(step, StepPlace.While).Place("while", goOn);
        foreach (var input in step.Call?.Inputs ?? [])
            yield return At(step, StepPlace.Input).Place($"input “{input.Name}”", input.ExpressionAt);
    }

    static IEnumerable<PlacedExpression> OfSetting(string use, Setting? setting, SettingShape shape, PlaceView view)
    {
        foreach (var (part, partShape) in setting is null ? [] : Settings(setting, shape))
        {
            switch (part)
            {
                case ExpressionSetting bare:
                    yield return view.Place(use, bare.At, CelType.Dyn);
                    break;
                case RowExpressionSetting perRow:
                    yield return view.Place(use, perRow.At, CelType.Dyn) with
                    {
                        Scope = Names.Row,
                    };
                    break;
                case TemplateSetting text:
                    foreach (var at in text.Expressions)
                        yield return view.Place(use, at, text.Template.Single is null ? CelType.Dyn : partShape.Type);
                    break;
                default:
                    break;
            }
        }
    }

    /// <summary>The containers a scope stands in, and what comes behind them: none of it has run yet.</summary>
    static IEnumerable<Step> Around(StepScope scope) =>
        Scopes.Outward(scope).Select(s => s.Owner).OfType<Step>().SelectMany(Scopes.FromHereOn);

    static IEnumerable<(Setting Setting, SettingShape Shape)> Settings(Setting setting, SettingShape shape)
    {
        switch (setting)
        {
            case MapSetting map:
                foreach (var (name, inner) in map.Entries)
                {
                    var innerShape = shape.Members.FirstOrDefault(m => m.Name == name)?.Shape
                        ?? shape.Item
                        ?? new(SettingForm.Any);
                    foreach (var found in Settings(inner, innerShape))
                        yield return found;
                }
                break;
            case ListSetting list:
                foreach (var found in list.Items.SelectMany(i => Settings(i, shape.Item ?? new(SettingForm.Any))))
                    yield return found;
                break;
            default:
                yield return (setting, shape);
                break;
        }
    }
}

/// <summary>What an expression of a step is for; it decides what the expression sees.</summary>
public enum StepPlace
{
    Setting,
    Probe,
    Guard,
    Expect,
    Assign,
    Branch,
    Retry,
    Over,
    Collect,
    Until,
    While,
    Input,
}
