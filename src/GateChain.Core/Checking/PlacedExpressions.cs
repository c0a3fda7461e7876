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
sealed record PlacedExpression(string Use, SourceExpression At, CelType Scope, CelType Wanted, Func<IEnumerable<Step>> Before);

/// <summary>Finds all expressions of a chain.</summary>
static class PlacedExpressions
{
    public static IEnumerable<PlacedExpression> Of(Chain chain)
    {
        foreach (var scope in Scopes.All(chain))
        {
            var names = Names.In(chain, scope);
            foreach (var step in scope.Steps)
            {
                foreach (var placed in OfStep(chain, step, names)) { yield return placed; }
            }
            foreach (var gate in scope.Gates.Where(g => g.When is not null && g.Branch is null))
            {
                yield return new("a gate's condition", gate.When!, names, CelType.Bool, () => Scopes.FromHereOn(gate.From).Where(s => s != gate.From).Concat(Around(scope)));
            }
        }
        foreach (var output in chain.Outputs)
        {
            yield return new($"output “{output.Name}”", output.ExpressionAt, Names.In(chain, chain.Root), CelType.Dyn, () => []);
        }
    }

    static IEnumerable<PlacedExpression> OfStep(Chain chain, Step step, CelType names)
    {
        IEnumerable<Step> Before() => Scopes.FromHereOn(step).Concat(Around(step.Scope));

        foreach (var (setting, shape) in Settings(step.Settings, step.Kind.Settings))
        {
            switch (setting)
            {
                case ExpressionSetting bare:
                    yield return new("a setting", bare.At, names, CelType.Dyn, Before);
                    break;
                case TemplateSetting text:
                    foreach (var at in text.Expressions)
                    {
                        yield return new("a setting", at, names, text.Template.Single is null ? CelType.Dyn : shape.Type, Before);
                    }
                    break;
                default: break;
            }
        }
        foreach (var assignment in step.Assignments)
        {
            yield return new("an assignment", assignment.ExpressionAt, Names.In(chain, step.Scope, ("result", Names.ResultOf(step))), CelType.Dyn, Before);
        }
        foreach (var branch in step.Branches.Where(b => b.When is not null))
        {
            yield return new($"branch “{branch.Name}”", branch.When!, names, CelType.Bool, Before);
        }
        if (step.Retry?.When is { } when)
        {
            yield return new("retry.when", when, Names.In(chain, step.Scope, ("error", Names.Error)), CelType.Bool, Before);
        }
        if (step.Each is { } each)
        {
            yield return new("over", each.Over, names, CelType.List(CelType.Dyn), Before);
            if (each.Collect is { } collect) { yield return new("collect", collect, Names.In(chain, step.Inner!), CelType.Dyn, () => Around(step.Inner!)); }
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
                    var innerShape = shape.Members.FirstOrDefault(m => m.Name == name)?.Shape ?? shape.Item ?? new(SettingForm.Any);
                    foreach (var found in Settings(inner, innerShape)) { yield return found; }
                }
                break;
            case ListSetting list:
                foreach (var found in list.Items.SelectMany(i => Settings(i, shape.Item ?? new(SettingForm.Any)))) { yield return found; }
                break;
            default:
                yield return (setting, shape);
                break;
        }
    }
}
