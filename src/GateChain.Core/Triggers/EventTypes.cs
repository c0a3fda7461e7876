using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Triggers;

/// <summary>What <c>event</c> offers, by what a trigger waits for.</summary>
public static class EventTypes
{
    static readonly CelType Text = CelType.Map(CelType.String, CelType.String);

    static readonly CelType Any = CelType.Map(CelType.String, CelType.Dyn);

    static readonly CelType File = Object(
        ("path", CelType.String),
        ("name", CelType.String),
        ("size", CelType.Int),
        ("changed", CelType.Timestamp)
    );

    /// <summary>The type of the event of a trigger.</summary>
    public static CelType Of(TriggerSource source) =>
        Object([("trigger", CelType.String), ("at", CelType.Timestamp), .. Own(source)]);

    /// <summary>
    /// An event that somebody typed, as JSON, in the types that expressions expect: times are no texts. What does not
    /// fit stays as it is.
    /// </summary>
    public static Value Fit(TriggerSource source, Value given) => Fit(Of(source), given);

    static Value Fit(CelType type, Value given)
    {
        if (type.Fields is { } fields && given.Kind == ValueKind.Map)
        {
            return Value.Map(
                DictionaryMap.Of(
                    given.AsMap.Entries.Select(e =>
                        KeyValuePair.Create(
                            e.Key.AsString,
                            fields.TryGetValue(e.Key.AsString, out var own) ? Fit(own, e.Value) : e.Value
                        )
                    )
                )
            );
        }
        if (type is { Name: "list", Arguments: [{ Fields: not null } item] } && given.Kind == ValueKind.List)
            return Value.List([.. given.AsList.Select(v => Fit(item, v))]);
        return Conversion.To(type, given).Value ?? given;
    }

    static IEnumerable<(string Name, CelType Type)> Own(TriggerSource source) =>
        source switch
        {
            ScheduleSource =>
            [
                ("due", CelType.Timestamp),
                ("period", Object(("from", CelType.Timestamp), ("to", CelType.Timestamp))),
                ("missed", CelType.Int),
                ("backfill", CelType.Bool),
            ],
            ArrivalSource { Together: not null } => [("files", CelType.List(File))],
            ArrivalSource => [.. File.Fields!.Select(f => (f.Key, f.Value)), ("files", CelType.List(File))],
            HookSource => [("body", CelType.Dyn), ("headers", Text), ("query", Text), ("id", CelType.String)],
            WatchSource watch => [("probes", Names.ProbeTypes(watch.Probes))],
            _ =>
            [
                ("run", CelType.Int),
                ("chain", CelType.String),
                ("outcome", CelType.String),
                ("error", Names.Error),
                ("params", Any),
                ("outputs", Any),
                ("backfill", CelType.Bool),
            ],
        };

    static CelType Object(params IEnumerable<(string Name, CelType Type)> fields) =>
        CelType.Object(fields.ToDictionary(f => f.Name, f => f.Type));
}
