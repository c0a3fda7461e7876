using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>
/// A run's state in one piece, so that a long journal needs to be folded only from there. It is a shortcut and nothing
/// more: what it gives equals the fold, and one that can't be read is left aside.
/// </summary>
public static class Snapshot
{
    // Grows with every change of what is written.
    const int Version = 11;

    /// <summary>Writes a state.</summary>
    public static void Write(RunState state, Stream to)
    {
        using var writer = new BinaryWriter(to, System.Text.Encoding.UTF8, leaveOpen: true);
        writer.Write7BitEncodedInt(Version);
        state.Save(new SnapshotWriter(writer));
    }

    /// <summary>
    /// Reads what <see cref="Write"/> wrote; null when it is of another version or does not fit the chain.
    /// </summary>
    /// <param name="id">The run's number.</param>
    /// <param name="from">The snapshot.</param>
    /// <param name="chains">Gives the chain of a release.</param>
    public static RunState? Read(long id, Stream from, Func<string, Chain> chains)
    {
        try
        {
            using var reader = new BinaryReader(from, System.Text.Encoding.UTF8, leaveOpen: true);
            return reader.Read7BitEncodedInt() == Version
                ? RunState.Restore(id, new SnapshotReader(reader), chains)
                : null;
        }
        catch (Exception e)
            when (e
                    is IOException
                        or FormatException
                        or System.Text.Json.JsonException
                        or InvalidOperationException
                        or ArgumentException
                        or IndexOutOfRangeException
            )
        {
            return null;
        }
    }
}

/// <summary>The form that a value has in a snapshot.</summary>
enum ValueTag : byte
{
    None,
    Null,
    False,
    True,
    Int,
    Double,
    String,
    List,
    Map,
    Json,
}

/// <summary>The small pieces that a snapshot is made of.</summary>
sealed class SnapshotWriter(BinaryWriter writer)
{
    public void Int(int value) => writer.Write7BitEncodedInt(value);

    public void Long(long value) => writer.Write7BitEncodedInt64(value);

    public void Bool(bool value) => writer.Write(value);

    public void Text(string value) => writer.Write(value);

    public void Actor(Actor value)
    {
        Int((int)value.Kind);
        Text(value.Id);
        Text(value.Name);
    }

    public void TextOrNull(string? value)
    {
        writer.Write(value is not null);
        if (value is not null)
            writer.Write(value);
    }

    public void Time(DateTimeOffset? value) => writer.Write7BitEncodedInt64(value?.UtcTicks ?? 0);

    /// <summary>Most values are small maps; what is rare is written as its JSON.</summary>
    public void Value(Value? value)
    {
        if (value is not { } v)
        {
            Tag(ValueTag.None);
            return;
        }
        switch (v.Kind)
        {
            case ValueKind.Null:
                Tag(ValueTag.Null);
                break;
            case ValueKind.Bool:
                Tag(v.AsBool ? ValueTag.True : ValueTag.False);
                break;
            case ValueKind.Int:
                Tag(ValueTag.Int);
                writer.Write7BitEncodedInt64(v.AsInt);
                break;
            case ValueKind.Double:
                Tag(ValueTag.Double);
                writer.Write(v.AsDouble);
                break;
            // Halves of characters are no UTF-8; JSON has a way to write them.
            case ValueKind.String when v.AsString.AsSpan().IndexOfAnyInRange('\ud800', '\udfff') < 0:
                Tag(ValueTag.String);
                writer.Write(v.AsString);
                break;
            case ValueKind.List:
                Tag(ValueTag.List);
                Int(v.AsList.Count);
                foreach (var item in v.AsList)
                    Value(item);
                break;
            case ValueKind.Map:
                Tag(ValueTag.Map);
                Int(v.AsMap.Count);
                foreach (var (key, item) in v.AsMap.Entries)
                {
                    Value(key);
                    Value(item);
                }
                break;
            default:
                Tag(ValueTag.Json);
                writer.Write(ValueJson.ToText(v, plain: false));
                break;
        }
    }

    void Tag(ValueTag tag) => writer.Write((byte)tag);

    public void Events(DateTimeOffset at, IReadOnlyList<RunEvent> events)
    {
        Bool(events.Count > 0);
        if (events.Count == 0)
            return;
        var bytes = new Decision(at, events).ToBytes();
        writer.Write7BitEncodedInt(bytes.Length);
        writer.Write(bytes);
    }

    public void Cancelled(StepCancelled? cancelled) => Events(default, cancelled is null ? [] : [cancelled]);

    public void Error(StepError? error)
    {
        Bool(error is not null);
        if (error is null)
            return;
        Text(error.Code);
        Text(error.Message);
        TextOrNull(error.Detail);
        Bool(error.Origin is not null);
        if (error.Origin is not { } origin)
            return;
        writer.Write7BitEncodedInt64(origin.Run);
        Text(origin.Chain);
        Text(origin.Step);
        Text(origin.Message);
        TextOrNull(origin.Item);
        TextOrNull(origin.Way);
    }

    public void Parts(IReadOnlyList<PartValue> parts)
    {
        Int(parts.Count);
        foreach (var part in parts)
        {
            Text(part.Text);
            Int(part.Start);
            TextOrNull(part.Value);
        }
    }
}

/// <summary>Reads what <see cref="SnapshotWriter"/> writes.</summary>
sealed class SnapshotReader(BinaryReader reader)
{
    public int Int() => reader.Read7BitEncodedInt();

    public long Long() => reader.Read7BitEncodedInt64();

    public bool Bool() => reader.ReadBoolean();

    public string Text() => reader.ReadString();

    public Actor Actor() => new((ActorKind)Int(), Text(), Text());

    public string? TextOrNull() => reader.ReadBoolean() ? reader.ReadString() : null;

    public DateTimeOffset? Time() =>
        reader.Read7BitEncodedInt64() is > 0 and var ticks ? new(ticks, TimeSpan.Zero) : null;

    public Value? Value()
    {
        switch ((ValueTag)reader.ReadByte())
        {
            case ValueTag.None:
                return null;
            case ValueTag.Null:
                return Values.Value.Null;
            case ValueTag.False:
                return Values.Value.False;
            case ValueTag.True:
                return Values.Value.True;
            case ValueTag.Int:
                return Values.Value.Int(reader.Read7BitEncodedInt64());
            case ValueTag.Double:
                return Values.Value.Double(reader.ReadDouble());
            case ValueTag.String:
                return Values.Value.String(reader.ReadString());
            case ValueTag.List:
                var items = new List<Value>();
                for (var left = Int(); left > 0; left--)
                    items.Add(Item());
                return Values.Value.List(items);
            case ValueTag.Map:
                var count = Int();
                if (count == 0)
                    return Values.Value.EmptyMap;
                var entries = new List<KeyValuePair<Value, Value>>(Math.Min(count, 64));
                for (; count > 0; count--)
                    entries.Add(new(Item(), Item()));
                return Values.Value.Map(DictionaryMap.Of(entries));
            case ValueTag.Json:
                return ValueJson.TryParse(reader.ReadString()) ?? throw new FormatException("a value can't be read");
            default:
                throw new FormatException("a value of an unknown form");
        }
    }

    Value Item() => Value() ?? throw new FormatException("a value is missing");

    public IReadOnlyList<RunEvent> Events() => Bool() ? Decision.FromBytes(reader.ReadBytes(Int())).Events : [];

    public StepCancelled? Cancelled() => Events() is [StepCancelled cancelled] ? cancelled : null;

    public StepError? Error() => Bool() ? new(Text(), Text(), TextOrNull(), Origin()) : null;

    FailureOrigin? Origin() => Bool() ? new(Long(), Text(), Text(), Text(), TextOrNull(), TextOrNull()) : null;

    public List<PartValue> Parts()
    {
        var parts = new List<PartValue>();
        for (var left = Int(); left > 0; left--)
            parts.Add(new(Text(), Int(), TextOrNull()));
        return parts;
    }
}
