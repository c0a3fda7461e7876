using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>Outputs that a person gives for a step, held to what its kind gives.</summary>
public static class ManualOutputs
{
    /// <summary>
    /// What does not fit, a sentence each: names that the kind does not give, and values of other types. What is left
    /// out is absent.
    /// </summary>
    public static IReadOnlyList<string> Wrong(Step step, Value outputs)
    {
        var known = step.Kind.Outputs;
        var open = known.ContainsKey("*") || step.Call is not null;
        var wrong = new List<string>();
        foreach (var (key, value) in outputs.AsMap.Entries)
        {
            var name = ValueText.ToPlainString(key);
            if (known.TryGetValue(name, out var type))
            {
                var (fits, problem) =
                    value.Kind == ValueKind.String && type.Name is not ("string" or "any")
                        ? (null, $"expected {Article.Of(type)}, and this is a string")
                        : Conversion.To(type, value);
                if (fits is null)
                    wrong.Add($"“{name}”: {problem}");
            }
            else if (!open)
            {
                wrong.Add(
                    $"{Article.Of(step.Kind.Name)} step gives no “{name}”"
                        + (
                            Nearest.Hint(name, known.Keys) is { Length: > 0 } hint ? hint
                            : known.Count > 0 ? $"; it gives {string.Join(", ", known.Keys)}"
                            : ""
                        )
                );
            }
        }
        return wrong;
    }
}
