using System.Collections.Concurrent;
using System.Text.Json;
using System.Text.Json.Serialization;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Sharing;

/// <summary>
/// What a node answers to others: questions and answers are plain records and travel as JSON. A refusal comes out at
/// the
/// one who asks as it would here. Thread-safe.
/// </summary>
public sealed class NodeAnswers
{
    static readonly JsonSerializerOptions Json = new()
    {
        Converters = { new ValueTextConverter() },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        MaxDepth = 256,
    };

    readonly ConcurrentDictionary<string, Func<byte[], Task<byte[]>>> _answers = new();

    sealed record Answer(JsonElement? Given, Refusal? Refused, bool IsElsewhere = false);

    sealed record Refusal(RefusalKind Kind, string Message, IReadOnlyList<string> Details, bool IsTaken, long? Busy);

    /// <summary>Says how a question is answered.</summary>
    /// <param name="what">Its name.</param>
    /// <param name="answer">Gives the answer; may refuse.</param>
    public void Add<TAsk, TAnswer>(string what, Func<TAsk, Task<TAnswer>> answer) =>
        _answers[what] = async body =>
        {
            Answer given;
            try
            {
                var result = await answer(JsonSerializer.Deserialize<TAsk>(body, Json)!).ConfigureAwait(false);
                given = new(JsonSerializer.SerializeToElement(result, Json), null);
            }
            catch (RefusedException e)
            {
                given = new(null, new(e.Kind, e.Message, e.Details, e.IsTaken, e.Busy));
            }
            catch (NodeSilentException)
            {
                given = new(null, null, IsElsewhere: true);
            }
            return JsonSerializer.SerializeToUtf8Bytes(given, Json);
        };

    /// <summary>Answers a question of another node.</summary>
    /// <exception cref="NodeSilentException">Nobody here knows the question yet.</exception>
    public Task<byte[]> AnswerAsync(string what, byte[] body) =>
        _answers.TryGetValue(what, out var answer)
            ? answer(body)
            : throw new NodeSilentException($"this node does not answer “{what}”");

    /// <summary>Asks another node.</summary>
    /// <exception cref="NodeSilentException">It did not answer, or what it was asked for is not there.</exception>
    /// <exception cref="RefusedException">It refused.</exception>
    public static async Task<TAnswer> AskAsync<TAsk, TAnswer>(INodeLink link, string node, string what, TAsk ask)
    {
        var body = JsonSerializer.SerializeToUtf8Bytes(ask, Json);
        var given = JsonSerializer.Deserialize<Answer>(
            await link.AskAsync(node, what, body).ConfigureAwait(false),
            Json
        )!;
        if (given.Refused is { } refused)
        {
            throw new RefusedException(refused.Kind, refused.Message, refused.Details)
            {
                IsTaken = refused.IsTaken,
                Busy = refused.Busy,
            };
        }
        return given.IsElsewhere ? throw new NodeSilentException($"what was asked of {node} is not there")
            : given.Given is { } element ? element.Deserialize<TAnswer>(Json)!
            : default!;
    }

    // As in journals: what comes out is what went in, whatever its type.
    sealed class ValueTextConverter : JsonConverter<Value>
    {
        public override Value Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            ValueJson.TryParse(reader.GetString()!, exact: true) ?? throw new JsonException("this is no value");

        public override void Write(Utf8JsonWriter writer, Value value, JsonSerializerOptions options) =>
            writer.WriteStringValue(ValueJson.ToText(value, plain: false));
    }
}

/// <summary>
/// Who does something, with where from and through what: the audit log of another node says that too.
/// </summary>
public sealed record FarActor(ActorKind Kind, string Id, string Name, string? Source, string? Through)
{
    /// <summary>Takes it down.</summary>
    public static FarActor Of(Actor actor) => new(actor.Kind, actor.Id, actor.Name, actor.Source, actor.Through);

    /// <summary>As it was.</summary>
    public Actor ToActor() => new(Kind, Id, Name) { Source = Source, Through = Through };
}
