using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;

namespace GateChain.Kinds.Contract;

/// <summary>
/// A small observation that guards use. One instance serves all looks; it keeps no state between them.
/// </summary>
public interface IProbe
{
    /// <summary>Its name, its settings, and what <c>probes.x</c> offers.</summary>
    KindDescription Description { get; }

    /// <summary>Takes a look. What can't be seen is returned as <see cref="ProbeResult.Failed"/>, not thrown.</summary>
    /// <param name="settings">Its settings, computed: a map.</param>
    /// <param name="context">What it may use.</param>
    /// <param name="cancel">Asked for when nobody waits for it any more.</param>
    ValueTask<Value> LookAsync(Value settings, ProbeContext context, CancellationToken cancel);

    /// <summary>When another look can see what this one could not see yet; null when only a change can.</summary>
    /// <param name="settings">Its settings, computed: a map.</param>
    /// <param name="seen">What the look gave.</param>
    TimeSpan? LookAgainIn(Value settings, Value seen) => null;

    /// <summary>
    /// The path or pattern whose changes in the file system make another look worth while; null when there is none.
    /// </summary>
    string? Watches(Value settings, ProbeContext context) => null;
}

/// <summary>What a probe may use.</summary>
/// <param name="WorkFolder">The folder that relative paths start from.</param>
/// <param name="Folders">Where files may be looked at.</param>
/// <param name="Connections">Addresses with their credentials.</param>
/// <param name="Secrets">Where passwords come from.</param>
/// <param name="Time">The clock.</param>
public sealed record ProbeContext(
    string WorkFolder,
    AllowedFolders Folders,
    IConnections Connections,
    ISecrets Secrets,
    TimeProvider Time
);

/// <summary>What probes give: a map with <c>ok</c>, and either what was seen or <c>error</c>.</summary>
public static class ProbeResult
{
    /// <summary>The two names that every probe has, and its own.</summary>
    public static IReadOnlyDictionary<string, CelType> Outputs(params ReadOnlySpan<(string Name, CelType Type)> own)
    {
        var outputs = new Dictionary<string, CelType> { ["ok"] = CelType.Bool, ["error"] = CelType.String };
        foreach (var (name, type) in own)
            outputs[name] = type;
        return outputs;
    }

    /// <summary>What a rehearsal sees when nobody chooses otherwise.</summary>
    public static IReadOnlyDictionary<string, Value> Sample(params ReadOnlySpan<(string Name, Value Value)> seen)
    {
        var sample = new Dictionary<string, Value> { ["ok"] = Value.True, ["error"] = Value.String("") };
        foreach (var (name, value) in seen)
            sample[name] = value;
        return sample;
    }

    /// <summary>The probe could look, and saw this.</summary>
    public static Value Seen(params ReadOnlySpan<(string Name, Value Value)> seen) =>
        Value.Map([("ok", Value.True), ("error", Value.String("")), .. seen]);

    /// <summary>
    /// Nothing could be seen. Rules that ask for more than <c>ok</c> and <c>error</c> get an error of their own.
    /// </summary>
    public static Value Failed(string error) => Value.Map(("ok", Value.False), ("error", Value.String(error)));
}

/// <summary>Base of probes whose settings are a record.</summary>
/// <typeparam name="T">The settings; properties bear <see cref="Settings.SettingAttribute"/>.</typeparam>
public abstract class Probe<T> : IProbe
    where T : class, new()
{
    /// <inheritdoc/>
    public abstract KindDescription Description { get; }

    /// <inheritdoc/>
    public ValueTask<Value> LookAsync(Value settings, ProbeContext context, CancellationToken cancel)
    {
        var (bound, problem) = Settings.SettingsBinder.Bind<T>(settings);
        return bound is null ? new(ProbeResult.Failed(problem!)) : LookAsync(bound, context, cancel);
    }

    /// <summary>Looks once. What it throws is told as a look that failed.</summary>
    /// <param name="settings">What to look at.</param>
    /// <param name="context">What it may use.</param>
    /// <param name="cancel">Is cancelled when nobody waits for the look any more.</param>
    protected abstract ValueTask<Value> LookAsync(T settings, ProbeContext context, CancellationToken cancel);

    /// <inheritdoc/>
    public virtual TimeSpan? LookAgainIn(Value settings, Value seen) => null;

    /// <inheritdoc/>
    public virtual string? Watches(Value settings, ProbeContext context) => null;
}
