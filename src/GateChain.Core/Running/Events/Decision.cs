using System.Text.Json;
using System.Text.Json.Serialization;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Events;

/// <summary>The events of one decision: they reach the journal together or not at all.</summary>
/// <param name="At">The moment of the input that led to them.</param>
public sealed record Decision(DateTimeOffset At, IReadOnlyList<RunEvent> Events)
{
    /// <summary>One journal row, UTF-8 JSON.</summary>
    public byte[] ToBytes() => EventWriter.Write(this);

    /// <summary>Reads what <see cref="ToBytes"/> wrote.</summary>
    /// <exception cref="JsonException">The row is damaged.</exception>
    public static Decision FromBytes(ReadOnlySpan<byte> row) =>
        JsonSerializer.Deserialize(row, EventJson.Default.Decision) ?? throw new JsonException("an empty journal row");
}

[JsonSourceGenerationOptions(
    PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    UseStringEnumConverter = true,
    MaxDepth = ValueJson.MaxDepth,
    Converters = [typeof(ValueJsonConverter)]
)]
[JsonSerializable(typeof(Decision))]
sealed partial class EventJson : JsonSerializerContext;
