using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Triggers;

/// <summary>What a fire does.</summary>
public abstract record FireDecision
{
    FireDecision() { }

    /// <summary>It starts a run.</summary>
    /// <param name="Params">The parameters, as the trigger computes them.</param>
    public sealed record Start(IReadOnlyDictionary<string, Value> Params) : FireDecision;

    /// <summary>It is passed over.</summary>
    /// <param name="Why">In a sentence.</param>
    public sealed record PassOver(string Why) : FireDecision;

    /// <summary>It can't start a run.</summary>
    /// <param name="Why">In a sentence.</param>
    public sealed record Refuse(string Why) : FireDecision;
}

/// <summary>Says what a fire does: definition and event in, decision out. Pure. Thread-safe.</summary>
public static class FireRules
{
    /// <summary>What an occasion of a trigger does.</summary>
    /// <param name="trigger">The trigger.</param>
    /// <param name="event">What happened: a map as <see cref="EventTypes"/> says.</param>
    /// <param name="profile">The profile's values: a map.</param>
    /// <param name="kept">What the chain has kept: a map.</param>
    /// <param name="bounds">What an expression may cost.</param>
    /// <param name="cancel">Ends the evaluation, with an error.</param>
    public static FireDecision Decide(
        TriggerDefinition trigger,
        Value @event,
        Value profile,
        Value kept,
        Bounds? bounds = null,
        CancellationToken cancel = default
    )
    {
        var names = new EventNames(
            new Dictionary<string, Value>
            {
                ["event"] = @event,
                ["profile"] = profile,
                ["kept"] = kept,
            },
            bounds ?? Bounds.Default,
            cancel
        );
        if (trigger.When is { Expression: var when })
        {
            switch (when.Evaluate(names))
            {
                case { Kind: ValueKind.Bool, AsBool: true }:
                    break;
                case { Kind: ValueKind.Bool }:
                    return new FireDecision.PassOver($"its when is false: {when.Text}");
                case { IsError: true } error:
                    return new FireDecision.Refuse($"its when can't be computed: {error.AsError.Message}");
                default:
                    return new FireDecision.Refuse($"its when is no bool: {when.Text}");
            }
        }
        var values = new Dictionary<string, Value>();
        var wrong = new List<string>();
        foreach (var given in trigger.Params)
        {
            var value = given.Expression.Evaluate(names);
            if (value.IsError)
                wrong.Add($"“{given.Name}” can't be computed: {value.AsError.Message}");
            else
                values[given.Name] = value;
        }
        return wrong.Count > 0 ? new FireDecision.Refuse(string.Join("; ", wrong)) : new FireDecision.Start(values);
    }
}

/// <summary>Names of an event, with what an evaluation may cost.</summary>
sealed class EventNames(IReadOnlyDictionary<string, Value> values, Bounds bounds, CancellationToken cancel) : IBindings
{
    public Bounds Bounds => bounds;

    public CancellationToken Cancel => cancel;

    public bool TryGet(string name, out Value value) => values.TryGetValue(name, out value);
}
