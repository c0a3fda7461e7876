using GateChain.Core.Values;

namespace GateChain.Core.History;

/// <summary>What a run was, as far as two are compared.</summary>
/// <param name="Number">The number of its release; null for a draft.</param>
/// <param name="Release">The hash of that content.</param>
/// <param name="State">How it ended or stands, a word of the vocabulary.</param>
/// <param name="Params">Its parameters.</param>
/// <param name="Profile">The values of its profile, a map.</param>
/// <param name="Outputs">What it gave, a map.</param>
/// <param name="Steps">Its steps in the order of the chain.</param>
public sealed record RunFacts(
    int? Number,
    string Release,
    string State,
    Value Params,
    Value Profile,
    Value Outputs,
    IReadOnlyList<StepHistory> Steps
)
{
    /// <summary>The instances of steps in loops over items; none where there are too many.</summary>
    public IReadOnlyList<ItemHistory> Items { get; init; } = [];
}

/// <summary>A value that two runs had differently; null where one had none.</summary>
/// <param name="Name">What it is called.</param>
public sealed record ValueDifference(string Name, Value? A, Value? B);

/// <summary>A step of two runs; null where one had not come to it.</summary>
/// <param name="Differs">Whether it ended otherwise, or had other rows.</param>
/// <param name="Items">Of a step in loops, the items for which it did; some of them.</param>
public sealed record StepDifference(
    string Address,
    StepHistory? A,
    StepHistory? B,
    bool Differs,
    IReadOnlyList<ItemDifference> Items
);

/// <summary>An item of a loop that a step fared otherwise with; null where one run had no such item.</summary>
public sealed record ItemDifference(string Items, StepHistory? A, StepHistory? B);

/// <summary>What two runs had differently.</summary>
/// <param name="SameContent">Whether both followed the same content.</param>
/// <param name="PartsAt">The first step, in time, that ended otherwise; where all ended alike, the first that had other
/// rows; null for none.</param>
public sealed record RunComparison(
    bool SameContent,
    IReadOnlyList<ValueDifference> Params,
    IReadOnlyList<ValueDifference> Profile,
    IReadOnlyList<ValueDifference> Outputs,
    IReadOnlyList<StepDifference> Steps,
    string? PartsAt
)
{
    /// <summary>Compares two runs. Pure.</summary>
    /// <param name="a">The earlier one, or what is compared with.</param>
    /// <param name="b">The one that is asked about.</param>
    public static RunComparison Of(RunFacts a, RunFacts b)
    {
        var (before, after) = (a.Steps.ToDictionary(s => s.Address), b.Steps.ToDictionary(s => s.Address));
        var steps = a
            .Steps.Concat(b.Steps)
            .Select(s => s.Address)
            .Distinct()
            .Select(address =>
            {
                var (was, isNow) = (before.GetValueOrDefault(address), after.GetValueOrDefault(address));
                var items = ItemsOf(a, b, address);
                return new StepDifference(address, was, isNow, AreDifferent(was, isNow) || items.Count > 0, items);
            })
            .ToList();
        return new(
            a.Release == b.Release,
            Values(a.Params, b.Params),
            Values(a.Profile, b.Profile),
            Values(a.Outputs, b.Outputs),
            steps,
            FirstOf(steps)
        );
    }

    /// <summary>So many items of a step are told.</summary>
    const int MostItems = 20;

    static List<ItemDifference> ItemsOf(RunFacts a, RunFacts b, string address)
    {
        var (before, after) = (ByItem(a, address), ByItem(b, address));
        return
        [
            .. before
                .Keys.Concat(after.Keys)
                .Distinct()
                .Select(items => new ItemDifference(
                    items,
                    before.GetValueOrDefault(items),
                    after.GetValueOrDefault(items)
                ))
                .Where(d => AreDifferent(d.A, d.B))
                .Take(MostItems),
        ];
    }

    // An item that stands in a list twice counts once.
    static Dictionary<string, StepHistory> ByItem(RunFacts run, string address)
    {
        var items = new Dictionary<string, StepHistory>();
        foreach (var item in run.Items)
        {
            if (item.Step.Address == address)
                items.TryAdd(item.Items, item.Step);
        }
        return items;
    }

    static bool AreDifferent(StepHistory? a, StepHistory? b) =>
        a is null
        || b is null
        || (a.State, a.Count, a.Failed, a.Read, a.Written, a.Rejected)
            != (b.State, b.Count, b.Failed, b.Read, b.Written, b.Rejected);

    // What holds others is different because they are: the innermost one that began first says it.
    static string? FirstOf(IReadOnlyList<StepDifference> steps)
    {
        // Rows differ from day to day; an end that is another one is what somebody looks for.
        var ended = steps.Where(s => EndedOtherwise(s.A, s.B)).ToList();
        var different = ended.Count > 0 ? ended : steps.Where(s => s.Differs).ToList();
        return different
            .Where(s => !different.Any(o => o.Address.StartsWith($"{s.Address}/", StringComparison.Ordinal)))
            .Where(s => (s.A ?? s.B)!.State != "skipped" || s.B is { Count: > 0 })
            .OrderBy(s => s.B?.Begin ?? s.A!.Begin)
            .FirstOrDefault()
            ?.Address;
    }

    static bool EndedOtherwise(StepHistory? a, StepHistory? b) =>
        a is null || b is null || (a.State, a.Failed) != (b.State, b.Failed);

    static List<ValueDifference> Values(Value a, Value b)
    {
        var (before, after) = (Entries(a), Entries(b));
        return
        [
            .. before
                .Keys.Concat(after.Keys)
                .Distinct()
                .Order(StringComparer.Ordinal)
                .Select(name => new ValueDifference(name, Find(before, name), Find(after, name)))
                .Where(d => (d.A is null) != (d.B is null) || (d.A is { } x && d.B is { } y && Text(x) != Text(y))),
        ];
    }

    static Value? Find(Dictionary<string, Value> values, string name) =>
        values.TryGetValue(name, out var found) ? found : null;

    static string Text(Value value) => ValueJson.ToText(value);

    static Dictionary<string, Value> Entries(Value map) =>
        map.Kind == ValueKind.Map ? map.AsMap.Entries.ToDictionary(e => e.Key.AsString, e => e.Value) : [];
}
