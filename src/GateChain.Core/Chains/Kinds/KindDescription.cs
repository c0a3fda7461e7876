using GateChain.Core.Datasets;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Kinds;

/// <summary>What the core knows of a kind of step: enough to read, check and rehearse it, not how to run it.</summary>
/// <param name="Name">The word after <c>kind:</c>.</param>
/// <param name="Doc">What it does, in a sentence.</param>
/// <param name="Settings">The shape of <c>set</c>; always a record.</param>
/// <param name="Outputs">Names and types of what it gives to <c>steps.&lt;id&gt;</c> and <c>result</c>.</param>
public sealed record KindDescription(
    string Name,
    string Doc,
    SettingShape Settings,
    IReadOnlyDictionary<string, CelType> Outputs
)
{
    /// <summary>Keys of the step itself, beside <c>set</c>, that only this kind has.</summary>
    public IReadOnlyList<string> StepKeys { get; init; } = [];

    /// <summary>Settings of which one has to be given, and whether only one may be.</summary>
    public (IReadOnlyList<string> Names, bool Only)? OneOf { get; init; }

    /// <summary>What it is for; kinds of one purpose stand together where one chooses.</summary>
    public KindPurpose Purpose { get; init; }

    /// <summary>Whether the run machine does its work itself, without a runner.</summary>
    public bool IsControl { get; init; }

    /// <summary>
    /// What a drawing says of a step's settings: <c>{from.csv|from.table} → {into.table}</c>; null for nothing. Of
    /// <c>|</c> the first that is there counts.
    /// </summary>
    public string? Tells { get; init; }

    /// <summary>
    /// Which data a step reads and writes, by its settings; null for a kind that does not tell. Pure; it gets settings
    /// as they are declared too, in which expressions stand as <c>${…}</c>.
    /// </summary>
    public Func<SettingTexts, IEnumerable<DataUse>>? Data { get; init; }

    /// <summary>Outputs a rehearsal gives when nobody chooses others.</summary>
    public IReadOnlyDictionary<string, Value> Sample { get; init; } = new Dictionary<string, Value>();
}

/// <summary>What a kind is for.</summary>
public enum KindPurpose
{
    /// <summary>Programs and other chains.</summary>
    Work,

    /// <summary>Databases and files.</summary>
    Data,

    /// <summary>Ways through the chain: choices, loops, groups.</summary>
    Ways,

    /// <summary>The run itself: variables, time, its end.</summary>
    Run,
}

/// <summary>The kinds a chain may use. Immutable.</summary>
public sealed class KindCatalogue
{
    readonly Dictionary<string, KindDescription> _kinds;

    readonly Dictionary<string, KindDescription> _probes;

    /// <summary>The control kinds and <paramref name="others"/>, without probes.</summary>
    public KindCatalogue(params IEnumerable<KindDescription> others)
        : this(others, []) { }

    /// <summary>The control kinds and <paramref name="others"/>.</summary>
    /// <param name="others">Kinds of steps that do work.</param>
    /// <param name="probes">What guards can look at; their outputs are what <c>probes.x</c> offers.</param>
    public KindCatalogue(IEnumerable<KindDescription> others, IEnumerable<KindDescription> probes)
    {
        _kinds = ControlKinds.All.Concat(others).ToDictionary(k => k.Name);
        _probes = probes.ToDictionary(p => p.Name);
    }

    public IEnumerable<KindDescription> All => _kinds.Values;
    public IEnumerable<string> Names => _kinds.Keys;

    public KindDescription? Find(string name) => _kinds.GetValueOrDefault(name);

    public IEnumerable<KindDescription> Probes => _probes.Values;

    public KindDescription? FindProbe(string name) => _probes.GetValueOrDefault(name);
}
