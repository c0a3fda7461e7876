using System.Buffers;
using System.Text.Json;
using GateChain.Core.Chains;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Events;

/// <summary>
/// Writes the events that every step gives straight to JSON, quicker than the general serializer, which writes all
/// others, and byte for byte the same. Thread-safe.
/// </summary>
static class EventWriter
{
    // One buffer and writer for each thread: rows are written thousands of times a second.
    [ThreadStatic]
    static (ArrayBufferWriter<byte> Buffer, Utf8JsonWriter Json)? _mine;

    const int KeptBuffer = 1 << 20;

    static readonly JsonEncodedText At = JsonEncodedText.Encode("at"),
        Events = JsonEncodedText.Encode("events"),
        Type = JsonEncodedText.Encode("t"),
        Step = JsonEncodedText.Encode("step"),
        Attempt = JsonEncodedText.Encode("attempt"),
        Inputs = JsonEncodedText.Encode("inputs"),
        Due = JsonEncodedText.Encode("due"),
        OutcomeName = JsonEncodedText.Encode("outcome"),
        Outputs = JsonEncodedText.Encode("outputs"),
        Scope = JsonEncodedText.Encode("scope"),
        Gate = JsonEncodedText.Encode("gate"),
        Open = JsonEncodedText.Encode("open"),
        Name = JsonEncodedText.Encode("name"),
        ValueName = JsonEncodedText.Encode("value"),
        By = JsonEncodedText.Encode("by"),
        Index = JsonEncodedText.Encode("index"),
        Started = JsonEncodedText.Encode("started"),
        Settled = JsonEncodedText.Encode("settled"),
        Set = JsonEncodedText.Encode("set"),
        Opened = JsonEncodedText.Encode("iteration-opened");

    static readonly JsonEncodedText[] Outcomes = [.. Enum.GetNames<Outcome>().Select(n => JsonEncodedText.Encode(n))];

    public static byte[] Write(Decision decision)
    {
        var (buffer, json) = _mine ??= Make();
        buffer.ResetWrittenCount();
        json.Reset();
        json.WriteStartObject();
        json.WriteString(At, decision.At);
        json.WriteStartArray(Events);
        foreach (var e in decision.Events)
            Write(json, e);
        json.WriteEndArray();
        json.WriteEndObject();
        json.Flush();
        var row = buffer.WrittenSpan.ToArray();
        if (buffer.Capacity > KeptBuffer)
            _mine = null;
        return row;
    }

    static (ArrayBufferWriter<byte>, Utf8JsonWriter) Make()
    {
        var buffer = new ArrayBufferWriter<byte>(4096);
        return (buffer, new(buffer, new JsonWriterOptions { SkipValidation = true }));
    }

    static void Write(Utf8JsonWriter json, RunEvent e)
    {
        switch (e)
        {
            case AttemptStarted started:
                Head(json, Started, started.Step);
                json.WriteNumber(Attempt, started.Attempt);
                json.WritePropertyName(Inputs);
                ValueJson.Write(json, started.Inputs);
                if (started.Due is { } due)
                    json.WriteString(Due, due);
                break;
            case StepSettled { Error: null, Note: null, Warnings: null, Looks: null } settled:
                Head(json, Settled, settled.Step);
                json.WriteString(OutcomeName, Outcomes[(int)settled.Outcome]);
                json.WritePropertyName(Outputs);
                ValueJson.Write(json, settled.Outputs);
                break;
            case GateDecided { Reason: null } gate:
                json.WriteStartObject();
                json.WriteString(Type, Gate);
                json.WriteString(Scope, gate.Scope);
                json.WriteNumber(Gate, gate.Gate);
                json.WriteBoolean(Open, gate.Open);
                break;
            case VariableSet set:
                json.WriteStartObject();
                json.WriteString(Type, Set);
                json.WriteString(Scope, set.Scope);
                json.WriteString(Name, set.Name);
                json.WritePropertyName(ValueName);
                ValueJson.Write(json, set.Value);
                json.WriteString(By, set.By);
                break;
            case IterationOpened opened:
                Head(json, Opened, opened.Step);
                json.WriteNumber(Index, opened.Index);
                break;
            default:
                JsonSerializer.Serialize(json, e, EventJson.Default.RunEvent);
                return;
        }
        json.WriteEndObject();
    }

    static void Head(Utf8JsonWriter json, JsonEncodedText type, string step)
    {
        json.WriteStartObject();
        json.WriteString(Type, type);
        json.WriteString(Step, step);
    }
}
