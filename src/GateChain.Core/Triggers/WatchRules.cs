using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Triggers;

/// <summary>Says whether a look of a watch fires. Pure. Thread-safe.</summary>
public static class WatchRules
{
    /// <param name="Fires">Whether it fires.</param>
    /// <param name="Memory">What is remembered from here on.</param>
    public sealed record Step(bool Fires, string Memory);

    /// <summary>What a look leads to; no step, and why, when its condition can't be told.</summary>
    /// <param name="source">The watch.</param>
    /// <param name="seen">What the probes saw: a map by name.</param>
    /// <param name="profile">The profile's values: a map.</param>
    /// <param name="memory">What was remembered; null for the first look.</param>
    public static (Step? Step, string? Trouble) Look(WatchSource source, Value seen, Value profile, string? memory)
    {
        var value = source.Condition.Expression.Evaluate(
            new DictionaryBindings(new Dictionary<string, Value> { ["probes"] = seen, ["profile"] = profile })
        );
        // A probe that failed says nothing about what it looks at: neither true nor false is remembered of it.
        if (value.Kind != ValueKind.Bool)
        {
            return (
                null,
                FirstError(seen) is { } failed ? failed
                : value.IsError ? $"its when can't be computed: {value.AsError.Message}"
                : $"its when is no bool: {source.Condition.Expression.Text}"
            );
        }
        var holds = value.AsBool;
        var now = holds ? $"true {ValueJson.ToText(seen, plain: false)}" : "false";
        var held = memory?.StartsWith("true", StringComparison.Ordinal) == true;
        var fires =
            holds
            && source.Again switch
            {
                WatchAgain.Always => true,
                WatchAgain.Once => !held,
                _ => memory != now,
            };
        return (new(fires, now), FirstError(seen));
    }

    static string? FirstError(Value seen)
    {
        foreach (var (name, probe) in seen.AsMap.Entries)
        {
            if (
                probe.Kind == ValueKind.Map
                && probe.AsMap.Find("error") is { Kind: ValueKind.String, AsString.Length: > 0 } error
            )
            {
                return $"probe “{name.AsString}”: {error.AsString}";
            }
        }
        return null;
    }
}
