using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>
/// Parameters that are secrets. What is given for one is a name, <c>secret:warehouse</c>; a step's entry that is
/// nothing but the parameter gets the secret at the last moment, in its kind's runner. Pure.
/// </summary>
public static class SecretParameters
{
    /// <summary>The names of a chain's parameters that are secrets.</summary>
    public static IReadOnlySet<string> Of(Chain chain) =>
        chain.Parameters.Where(p => p.IsSecret).Select(p => p.Name).ToHashSet();

    /// <summary>The parameter that an expression is, when it is nothing else; null otherwise.</summary>
    public static string? NameIn(Expression expression) => NameIn(expression.Tree);

    /// <summary>The parameter that a part of an expression reads; null when it does not.</summary>
    internal static string? NameIn(Expr part) =>
        part is SelectExpr { Operand: IdentExpr { Name: "params" }, Test: false, Optional: false } select
            ? select.Field
            : null;

    /// <summary>Whether a setting of a chain's step is one of its secret parameters, and nothing else.</summary>
    public static bool Is(Setting? setting, Chain chain) =>
        setting is TemplateSetting { Template.Single: { } only }
        && NameIn(only) is { } name
        && chain.Parameters.Any(p => p.IsSecret && p.Name == name);

    /// <summary>What is wrong with how such a parameter is declared, in words; null when nothing is.</summary>
    internal static string? Problem(Parameter parameter) =>
        parameter.Type != CelType.String ? $"“{parameter.Name}” is a secret, and its type is string then"
        : parameter.Default is { } value ? Problem(parameter.Name, value)
        : null;

    /// <summary>What is wrong with a value for such a parameter, in words that do not say it; null when nothing is.
    /// </summary>
    /// <param name="name">The parameter.</param>
    /// <param name="value">What is given for it.</param>
    public static string? Problem(string name, Value value) =>
        value.Kind == ValueKind.String && SecretNames.In(value.AsString) is { Length: > 0 }
            ? null
            : $"“{name}” is a secret, and is given by its name: secret:NAME";
}
