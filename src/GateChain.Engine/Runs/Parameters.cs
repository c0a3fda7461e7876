using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Runs;

/// <summary>Reads what is handed in for parameters and variables.</summary>
static class Parameters
{
    /// <summary>The values in their declared types.</summary>
    /// <exception cref="RefusedException">Says all that is missing, unknown or ill-typed at once.</exception>
    public static Dictionary<string, Value> Read(
        IReadOnlyList<Parameter> declared,
        IReadOnlyDictionary<string, Value> given,
        bool complete,
        Bounds bounds
    )
    {
        var values = new Dictionary<string, Value>();
        var wrong = new List<string>();
        foreach (var (name, value) in given)
        {
            if (declared.FirstOrDefault(p => p.Name == name) is not { } parameter)
            {
                wrong.Add($"there is no parameter “{name}”" + $"{Nearest.Hint(name, declared.Select(p => p.Name))}");
                continue;
            }
            Take(parameter, value, values, wrong, bounds);
        }
        foreach (var parameter in declared.Where(p => complete && p.Default is null && !given.ContainsKey(p.Name)))
        {
            wrong.Add(
                $"the parameter “{parameter.Name}” ({(parameter.IsSecret ? "secret:NAME" : parameter.Type)}"
                    + $"{(parameter.Label is { } label ? $", {label}" : "")}) is missing"
            );
        }
        return wrong.Count == 0
            ? values
            : throw new RefusedException(RefusalKind.Invalid, string.Join("; ", wrong), wrong);
    }

    /// <summary>Splits overrides of a resume into parameters and variables of the chain.</summary>
    /// <exception cref="RefusedException">One of them is unknown or ill-typed.</exception>
    public static (Dictionary<string, Value> Params, Dictionary<string, Value> Vars) ReadOverrides(
        Chain chain,
        IReadOnlyDictionary<string, Value> set,
        Bounds bounds
    )
    {
        var parameters = new Dictionary<string, Value>();
        var variables = new Dictionary<string, Value>();
        var wrong = new List<string>();
        foreach (var (key, value) in set)
        {
            var name =
                key.StartsWith("params.", StringComparison.Ordinal) ? key[7..]
                : key.StartsWith("vars.", StringComparison.Ordinal) ? key[5..]
                : key;
            var variable = key.StartsWith("params.", StringComparison.Ordinal)
                ? null
                : chain.Root.Variables.FirstOrDefault(v => v.Name == name);
            var parameter = key.StartsWith("vars.", StringComparison.Ordinal)
                ? null
                : chain.Parameters.FirstOrDefault(p => p.Name == name);
            if (variable is not null && parameter is not null)
            {
                wrong.Add($"“{name}” is a parameter and a variable; write params.{name} or vars.{name}");
            }
            else if (parameter is not null)
            {
                Take(parameter, value, parameters, wrong, bounds);
            }
            else if (variable is not null)
            {
                Convert(name, variable.Type, value, variables, wrong, bounds);
            }
            else
            {
                var known = chain.Parameters.Select(p => p.Name).Concat(chain.Root.Variables.Select(v => v.Name));
                wrong.Add($"there is no parameter or variable “{name}”" + $"{Nearest.Hint(name, known)}");
            }
        }
        return wrong.Count == 0
            ? (parameters, variables)
            : throw new RefusedException(RefusalKind.Invalid, string.Join("; ", wrong), wrong);
    }

    // What is wrong with a secret is said without what was given: it may be the secret itself.
    static void Take(
        Parameter parameter,
        Value value,
        Dictionary<string, Value> into,
        List<string> wrong,
        Bounds bounds
    )
    {
        if (parameter.IsSecret && SecretParameters.Problem(parameter.Name, value) is { } problem)
            wrong.Add(problem);
        else
            Convert(parameter.Name, parameter.Type, value, into, wrong, bounds);
    }

    /// <summary>Refuses names of secrets that are not there for a chain.</summary>
    /// <param name="declared">Its parameters.</param>
    /// <param name="values">What they are.</param>
    /// <param name="isSet">Whether a secret of a name is set for the chain's folder.</param>
    /// <exception cref="RefusedException">One is not.</exception>
    public static void RefuseUnset(
        IReadOnlyList<Parameter> declared,
        IReadOnlyDictionary<string, Value> values,
        Func<string, bool> isSet
    )
    {
        foreach (var parameter in declared.Where(p => p.IsSecret))
        {
            var value = values.TryGetValue(parameter.Name, out var given) ? given : parameter.Default;
            if (value is { } text && SecretNames.In(text.AsString) is { } name && !isSet(name))
            {
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"“{parameter.Name}”: {SecretNames.Unset(name)}; {SecretNames.HowToSet(name)}"
                );
            }
        }
    }

    static void Convert(
        string name,
        CelType type,
        Value value,
        Dictionary<string, Value> into,
        List<string> wrong,
        Bounds bounds
    )
    {
        if (bounds.Refuse(value) is { } tooBig)
        {
            wrong.Add($"“{name}” is too big: {tooBig}");
            return;
        }
        var (converted, problem) = Conversion.To(type, value);
        if (converted is { } fits)
            into[name] = fits;
        else
            wrong.Add($"“{name}”: {problem}");
    }
}
