using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Checking;

/// <summary>
/// The names that expressions of a chain can use at a place, with their types. What was found out for a scope is kept.
/// </summary>
sealed class Names(Chain chain, WorkspaceContext? workspace = null)
{
    static readonly CelType Run = Object(
        ("id", CelType.Int),
        ("chain", CelType.String),
        ("release", CelType.Int),
        ("leg", CelType.Int),
        ("started", CelType.Timestamp),
        ("trigger", CelType.String),
        ("event", CelType.Map(CelType.String, CelType.Dyn)),
        ("folder", CelType.String),
        ("url", CelType.String),
        ("outcome", CelType.String),
        ("late", CelType.Bool)
    );

    public static CelType Error { get; } = Object(("code", CelType.String), ("message", CelType.String));

    CelType Profile { get; } = ProfileType(workspace?.Profiles.Values ?? []);

    /// <summary>
    /// What <c>profile</c> offers. A value that has one type in all profiles has it here; what a profile lacks is told
    /// by a rule of its own.
    /// </summary>
    public static CelType ProfileType(IEnumerable<Value> profiles) =>
        CelType.Object(
            profiles
                .SelectMany(p => p.AsMap.Entries)
                .GroupBy(e => e.Key.AsString, e => TypeOf(e.Value))
                .ToDictionary(g => g.Key, g => g.Distinct().Count() == 1 ? g.First() : CelType.Dyn),
            open: true
        );

    static CelType TypeOf(Value value) =>
        value.Kind switch
        {
            ValueKind.Bool => CelType.Bool,
            ValueKind.Int => CelType.Int,
            ValueKind.Double => CelType.Double,
            ValueKind.Decimal => CelType.Decimal,
            ValueKind.String => CelType.String,
            ValueKind.List => CelType.List(CelType.Dyn),
            ValueKind.Map => CelType.Map(CelType.String, CelType.Dyn),
            _ => CelType.Dyn,
        };

    /// <summary>What an expression sees that is computed for each row.</summary>
    public static CelType Row { get; } =
        Object(("row", CelType.Map(CelType.String, CelType.Dyn)), ("bind", CelType.Map(CelType.String, CelType.Dyn)));

    readonly Dictionary<StepScope, Dictionary<string, CelType>> _scopes = [];
    readonly Dictionary<StepScope, CelType> _steps = [];

    /// <summary>
    /// What is in scope among the steps of <paramref name="scope"/>, with <paramref name="more"/> on top.
    /// </summary>
    public CelType In(StepScope scope, params ReadOnlySpan<(string Name, CelType Type)> more)
    {
        if (!_scopes.TryGetValue(scope, out var known))
            _scopes[scope] = known = Of(scope);
        if (more.Length == 0)
            return CelType.Object(known);
        var fields = new Dictionary<string, CelType>(known);
        foreach (var (name, type) in more)
            fields[name] = type;
        return CelType.Object(fields);
    }

    /// <summary>What there is before a run begins.</summary>
    public CelType AtStart =>
        CelType.Object(
            Of(chain.Root).Where(n => n.Key is "params" or "profile" or "event").ToDictionary(n => n.Key, n => n.Value)
        );

    Dictionary<string, CelType> Of(StepScope scope)
    {
        var fields = new Dictionary<string, CelType>
        {
            ["params"] = CelType.Object(
                chain.Parameters.GroupBy(p => p.Name).ToDictionary(g => g.Key, g => g.First().Type)
            ),
            ["vars"] = CelType.Object(
                Scopes
                    .Outward(scope)
                    .SelectMany(s => s.Variables)
                    .GroupBy(v => v.Name)
                    .ToDictionary(g => g.Key, g => g.First().Type)
            ),
            ["profile"] = Profile,
            ["steps"] = CelType.Object(
                Scopes
                    .Outward(scope)
                    .SelectMany(StepsOf)
                    .GroupBy(s => s.Key)
                    .ToDictionary(g => g.Key, g => g.First().Value)
            ),
            ["run"] = Run,
            ["event"] = CelType.Map(CelType.String, CelType.Dyn),
            ["now"] = CelType.Timestamp,
        };
        if (Scopes.Outward(scope).Select(s => s.Owner).FirstOrDefault(o => o?.Each is not null) is { } each)
        {
            fields["item"] = ItemType(each);
            fields["index"] = CelType.Int;
        }
        foreach (
            var loop in Scopes.Outward(scope).Select(s => s.Owner).OfType<Step>().Where(o => o.LoopName is not null)
        )
        {
            fields.TryAdd(
                loop.LoopName!,
                loop.Each is not null
                    ? Object(("item", ItemType(loop)), ("index", CelType.Int))
                    : Object(("round", CelType.Int))
            );
        }

        if (Scopes.Outward(scope).Any(s => s.Owner?.Repeat is not null))
            fields["round"] = CelType.Int;
        if (Scopes.Outward(scope).Any(TellsError))
            fields["error"] = Error;
        return fields;
    }

    // What it begins for is told as an error.
    static bool TellsError(StepScope scope) =>
        scope.Occasion is Occasion.Failure or Occasion.Pause or Occasion.End or Occasion.Endangered;

    // The outputs of a scope's steps are the same wherever they are seen from.
    IReadOnlyDictionary<string, CelType> StepsOf(StepScope scope)
    {
        if (!_steps.TryGetValue(scope, out var known))
        {
            _steps[scope] = known = CelType.Object(
                scope.Steps.GroupBy(s => s.Id).ToDictionary(g => g.Key, g => OfStep(g.First()))
            );
        }
        return known.Fields!;
    }

    CelType ItemType(Step each)
    {
        var (type, _) = each.Each!.Over.Expression.Check(In(each.Scope));
        return type.Name == "list" ? type.Arguments[0] : CelType.Dyn;
    }

    /// <summary>What <c>steps.x</c> offers.</summary>
    static CelType OfStep(Step step)
    {
        var fields = Outputs(step).ToDictionary(o => o.Key, o => o.Value);
        foreach (var (name, type) in StepMap.OwnTypes)
            fields[name] = type;
        return CelType.Object(fields, open: IsOpen(step));
    }

    // A call gives what its child declares; one whose child is not known may give anything.
    static IEnumerable<KeyValuePair<string, CelType>> Outputs(Step step) =>
        step.Call is { Wait: true, Target: { } child }
            ? step.Kind.Outputs.Concat(child.Outputs.Where(o => !step.Kind.Outputs.ContainsKey(o.Key)))
            : step.Kind.Outputs;

    static bool IsOpen(Step step) => step.Kind.Outputs.ContainsKey("*") || step.Call is { Wait: true, Target: null };

    /// <summary>What <c>probes</c> offers behind a guard.</summary>
    public static CelType Probes(Step step) => ProbeTypes(step.Guard?.Probes ?? []);

    /// <summary>What <c>probes</c> offers.</summary>
    public static CelType ProbeTypes(IEnumerable<Probe> probes) =>
        CelType.Object(
            probes
                .GroupBy(p => p.Name)
                .ToDictionary(
                    g => g.Key,
                    g =>
                        CelType.Object(
                            new Dictionary<string, CelType>(g.First().Kind.Outputs),
                            open: g.First().Kind.Outputs.ContainsKey("*")
                        )
                )
        );

    /// <summary>What <c>result</c> offers.</summary>
    public static CelType ResultOf(Step step) =>
        CelType.Object(Outputs(step).ToDictionary(o => o.Key, o => o.Value), open: IsOpen(step));

    static CelType Object(params ReadOnlySpan<(string Name, CelType Type)> fields)
    {
        var all = new Dictionary<string, CelType>();
        foreach (var (name, type) in fields)
            all[name] = type;
        return CelType.Object(all);
    }
}
