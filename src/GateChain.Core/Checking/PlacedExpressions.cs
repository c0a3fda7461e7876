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
sealed record PlacedExpression(string Use, SourceExpression At, CelType Scope, CelType Wanted, Func<IEnumerable<Step>> Before)
{
    /// <summary>The step it belongs to; null for gates and the chain's outputs.</summary>
    public Step? Step { get; init; }

    /// <summary>The gate it is the condition of; null for others.</summary>
    public Gate? Gate { get; init; }
}

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
                foreach (var placed in OfStep(chain, step, names)) { yield return placed with { Step = step }; }
            }
            foreach (var gate in scope.Gates.Where(g => g.When is not null && g.Branch is null))
            {
                yield return new("a gate's condition", gate.When!, names, CelType.Bool, () => Scopes.FromHereOn(gate.From).Where(s => s != gate.From).Concat(Around(scope))) { Gate = gate };
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
        CelType With(params ReadOnlySpan<(string Name, CelType Type)> more) => Names.In(chain, step.Scope, more);

        var behindGuard = step.Guard is null ? names : With(("probes", Names.Probes(step)));
        foreach (var placed in OfSetting("a setting", step.Settings, step.Kind.Settings, behindGuard, Before)) { yield return placed; }
        foreach (var probe in step.Guard?.Probes ?? [])
        {
            foreach (var placed in OfSetting($"a setting of probe “{probe.Name}”", probe.Settings, probe.Kind.Settings, names, Before)) { yield return placed; }
        }
        foreach (var rule in step.Guard?.Rules ?? [])
        {
            if (rule.When is { } condition) { yield return new("a rule of the guard", condition, behindGuard, CelType.Bool, Before); }
            foreach (var placed in OfSetting("a message", rule.Message, SettingShape.Text, behindGuard, Before)) { yield return placed; }
        }
        if (step.Expect.Count > 0)
        {
            var withResult = With(("result", Names.ResultOf(step)), ("probes", Names.Probes(step)));
            foreach (var rule in step.Expect)
            {
                yield return new("an expect rule", rule.When, withResult, CelType.Bool, Before);
                foreach (var placed in OfSetting("a message", rule.Message, SettingShape.Text, withResult, Before)) { yield return placed; }
            }
        }
        foreach (var assignment in step.Assignments)
        {
            yield return new("an assignment", assignment.ExpressionAt, With(("result", Names.ResultOf(step))), CelType.Dyn, Before);
        }
        foreach (var branch in step.Branches.Where(b => b.When is not null))
        {
            yield return new($"branch “{branch.Name}”", branch.When!, names, CelType.Bool, Before);
        }
        if (step.Retry?.When is { } when)
        {
            yield return new("retry.when", when, With(("error", Names.Error)), CelType.Bool, Before);
        }
        if (step.Each is { } each)
        {
            yield return new("over", each.Over, names, CelType.List(CelType.Dyn), Before);
            if (each.Collect is { } collect) { yield return new("collect", collect, Names.In(chain, step.Inner!), CelType.Dyn, () => Around(step.Inner!)); }
        }
        if (step.Repeat?.Until is { } until) { yield return new("until", until, Names.In(chain, step.Inner!), CelType.Bool, () => Around(step.Inner!)); }
        // Looked at before a round, when none of its steps has run.
        if (step.Repeat?.While is { } goOn) { yield return new("while", goOn, Names.In(chain, step.Inner!), CelType.Bool, () => Around(step.Inner!).Concat(step.Inner!.Steps)); }
        foreach (var input in step.Call?.Inputs ?? [])
        {
            yield return new($"input “{input.Name}”", input.ExpressionAt, names, CelType.Dyn, Before);
        }
    }

    static IEnumerable<PlacedExpression> OfSetting(string use, Setting? setting, SettingShape shape, CelType names, Func<IEnumerable<Step>> before)
    {
        foreach (var (part, partShape) in setting is null ? [] : Settings(setting, shape))
        {
            switch (part)
            {
                case ExpressionSetting bare:
                    yield return new(use, bare.At, names, CelType.Dyn, before);
                    break;
                case TemplateSetting text:
                    foreach (var at in text.Expressions)
                    {
                        yield return new(use, at, names, text.Template.Single is null ? CelType.Dyn : partShape.Type, before);
                    }
                    break;
                default: break;
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
