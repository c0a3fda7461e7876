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
sealed record PlacedExpression(string Use, SourceExpression At, CelType Scope, CelType Wanted, Lazy<HashSet<Step>> Before)
{
    /// <summary>The step it belongs to; null for gates and the chain's outputs.</summary>
    public Step? Step { get; init; }

    /// <summary>The gate it is the condition of; null for others.</summary>
    public Gate? Gate { get; init; }
}

/// <summary>Finds all expressions of a chain.</summary>
sealed class PlacedExpressions(Chain chain, Names names)
{
    public IEnumerable<PlacedExpression> All()
    {
        foreach (var scope in Scopes.All(chain))
        {
            var here = names.In(scope);
            foreach (var step in scope.Steps)
            {
                foreach (var placed in OfStep(step, here)) { yield return placed with { Step = step }; }
            }
            foreach (var gate in scope.Gates.Where(g => g.When is not null && g.Branch is null))
            {
                yield return new("a gate's condition", gate.When!, here, CelType.Bool, new(() => [.. Scopes.FromHereOn(gate.From).Where(s => s != gate.From), .. Around(scope)])) { Gate = gate };
            }
        }
        foreach (var output in chain.Outputs)
        {
            yield return new($"output “{output.Name}”", output.ExpressionAt, names.In(chain.Root), CelType.Dyn, new(() => []));
        }
    }

    IEnumerable<PlacedExpression> OfStep(Step step, CelType here)
    {
        var before = new Lazy<HashSet<Step>>(() => [.. Scopes.FromHereOn(step), .. Around(step.Scope)]);
        CelType With(params ReadOnlySpan<(string Name, CelType Type)> more) => names.In(step.Scope, more);

        var behindGuard = step.Guard is null ? here : With(("probes", Names.Probes(step)));
        foreach (var placed in OfSetting("a setting", step.Settings, step.Kind.Settings, behindGuard, before)) { yield return placed; }
        foreach (var probe in step.Guard?.Probes ?? [])
        {
            foreach (var placed in OfSetting($"a setting of probe “{probe.Name}”", probe.Settings, probe.Kind.Settings, here, before)) { yield return placed; }
        }
        foreach (var rule in step.Guard?.Rules ?? [])
        {
            if (rule.When is { } condition) { yield return new("a rule of the guard", condition, behindGuard, CelType.Bool, before); }
            foreach (var placed in OfSetting("a message", rule.Message, SettingShape.Text, behindGuard, before)) { yield return placed; }
        }
        if (step.Expect.Count > 0)
        {
            var withResult = With(("result", Names.ResultOf(step)), ("probes", Names.Probes(step)));
            foreach (var rule in step.Expect)
            {
                yield return new("an expect rule", rule.When, withResult, CelType.Bool, before);
                foreach (var placed in OfSetting("a message", rule.Message, SettingShape.Text, withResult, before)) { yield return placed; }
            }
        }
        foreach (var assignment in step.Assignments)
        {
            yield return new("an assignment", assignment.ExpressionAt, With(("result", Names.ResultOf(step))), CelType.Dyn, before);
        }
        foreach (var branch in step.Branches.Where(b => b.When is not null))
        {
            yield return new($"branch “{branch.Name}”", branch.When!, here, CelType.Bool, before);
        }
        if (step.Retry?.When is { } when)
        {
            yield return new("retry.when", when, With(("error", Names.Error)), CelType.Bool, before);
        }
        if (step.Each is { } each)
        {
            yield return new("over", each.Over, here, CelType.List(CelType.Dyn), before);
            if (each.Collect is { } collect) { yield return new("collect", collect, names.In(step.Inner!), CelType.Dyn, new(() => [.. Around(step.Inner!)])); }
        }
        if (step.Repeat?.Until is { } until) { yield return new("until", until, names.In(step.Inner!), CelType.Bool, new(() => [.. Around(step.Inner!)])); }
        // Looked at before a round, when none of its steps has run.
        if (step.Repeat?.While is { } goOn) { yield return new("while", goOn, names.In(step.Inner!), CelType.Bool, new(() => [.. Around(step.Inner!), .. step.Inner!.Steps])); }
        foreach (var input in step.Call?.Inputs ?? [])
        {
            yield return new($"input “{input.Name}”", input.ExpressionAt, here, CelType.Dyn, before);
        }
    }

    static IEnumerable<PlacedExpression> OfSetting(string use, Setting? setting, SettingShape shape, CelType here, Lazy<HashSet<Step>> before)
    {
        foreach (var (part, partShape) in setting is null ? [] : Settings(setting, shape))
        {
            switch (part)
            {
                case ExpressionSetting bare:
                    yield return new(use, bare.At, here, CelType.Dyn, before);
                    break;
                case TemplateSetting text:
                    foreach (var at in text.Expressions)
                    {
                        yield return new(use, at, here, text.Template.Single is null ? CelType.Dyn : partShape.Type, before);
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
