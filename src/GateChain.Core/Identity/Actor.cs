using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace GateChain.Core.Identity;

/// <summary>What kind of somebody does something.</summary>
public enum ActorKind
{
    /// <summary>A person.</summary>
    Person,

    /// <summary>A program with a token.</summary>
    Token,

    /// <summary>A trigger that fired.</summary>
    Trigger,

    /// <summary>Another run.</summary>
    Run,

    /// <summary>A step of another run.</summary>
    Step,

    /// <summary>The service itself.</summary>
    Service,
}

/// <summary>Who does something. Immutable.</summary>
/// <param name="Kind">What kind of somebody.</param>
/// <param name="Id">Names them among those of their kind, for good.</param>
/// <param name="Name">What people call them; it may change.</param>
[JsonConverter(typeof(ActorJsonConverter))]
public readonly record struct Actor(ActorKind Kind, string Id, string Name)
{
    /// <summary>
    /// The address that they do it from, and through what: <c>console</c>, <c>token nightly</c>. Both stand in lines of
    /// the audit log only: not in journals, and who it is does not depend on them. Null for what the service does.
    /// </summary>
    public string? Source { get; init; }

    /// <summary>Through what they do it; see <see cref="Source"/>.</summary>
    public string? Through { get; init; }

    /// <summary>Whether it is the same somebody, from wherever.</summary>
    public bool Equals(Actor other) => (Kind, Id, Name) == (other.Kind, other.Id, other.Name);

    public override int GetHashCode() => HashCode.Combine(Kind, Id, Name);

    /// <summary>The service continues by itself with runs that failed, as their chain's <c>recover</c> says.</summary>
    public static Actor Recovery { get; } = new(ActorKind.Service, "recover", "recover");

    /// <summary>A rehearsal.</summary>
    public static Actor Rehearsal { get; } = new(ActorKind.Service, "rehearsal", "rehearsal");

    /// <summary>A try of a draft, which pauses where it was told to.</summary>
    public static Actor Trying { get; } = new(ActorKind.Service, "try", "try");

    /// <summary>A person who is known by a name only.</summary>
    public static Actor Person(string name) => new(ActorKind.Person, name, name);

    /// <summary>A run that does something to another one.</summary>
    /// <param name="run">Its number.</param>
    /// <param name="name">What people are shown; <c>run 5</c> when absent.</param>
    public static Actor OfRun(long run, string? name = null) =>
        new(
            ActorKind.Run,
            run.ToString(CultureInfo.InvariantCulture),
            name ?? string.Create(CultureInfo.InvariantCulture, $"run {run}")
        );

    /// <summary>A step that does something to its own run.</summary>
    /// <param name="path">Its path.</param>
    /// <param name="name">What people are shown.</param>
    public static Actor OfStep(string path, string name) => new(ActorKind.Step, path, name);

    /// <summary>The name.</summary>
    public override string ToString() => Name;
}

/// <summary>
/// Writes an actor as an object, and a person who is known by a name only as that name: so stood everybody in journals
/// of the first versions.
/// </summary>
public sealed class ActorJsonConverter : JsonConverter<Actor>
{
    public override Actor Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        if (reader.TokenType == JsonTokenType.String)
            return OfName(reader.GetString()!);
        if (reader.TokenType != JsonTokenType.StartObject)
            throw new JsonException("an actor is a name or an object");
        var (kind, id, name) = (ActorKind.Person, "", "");
        while (reader.Read() && reader.TokenType == JsonTokenType.PropertyName)
        {
            var member = reader.GetString();
            reader.Read();
            switch (member)
            {
                case "kind":
                    kind = Enum.TryParse<ActorKind>(reader.GetString(), ignoreCase: true, out var known)
                        ? known
                        : throw new JsonException("an actor of an unknown kind");
                    break;
                case "id":
                    id = reader.GetString()!;
                    break;
                case "name":
                    name = reader.GetString()!;
                    break;
                default:
                    reader.Skip();
                    break;
            }
        }
        return new(kind, id, name);
    }

    static readonly Actor[] Service = [Actor.Recovery, Actor.Rehearsal, Actor.Trying];

    /// <summary>Whom a bare name means: in the first versions the service and runs stood there too.</summary>
    public static Actor OfName(string name)
    {
        if (Array.Find(Service, a => a.Name == name) is { Id: not null } service)
            return service;
        return
            name.StartsWith("run ", StringComparison.Ordinal)
            && long.TryParse(name.AsSpan(4), NumberStyles.None, CultureInfo.InvariantCulture, out var run)
            ? Actor.OfRun(run)
            : Actor.Person(name);
    }

    public override void Write(Utf8JsonWriter writer, Actor value, JsonSerializerOptions options)
    {
        if (OfName(value.Name) == value)
        {
            writer.WriteStringValue(value.Name);
            return;
        }
        writer.WriteStartObject();
        writer.WriteString("kind", value.Kind.ToString().ToLowerInvariant());
        writer.WriteString("id", value.Id);
        writer.WriteString("name", value.Name);
        writer.WriteEndObject();
    }
}
