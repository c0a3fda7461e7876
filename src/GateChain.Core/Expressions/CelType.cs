namespace GateChain.Core.Expressions;

/// <summary>A type as the checker knows it. Immutable; compare with <see cref="ToString"/>.</summary>
public sealed class CelType
{
    CelType(
        string name,
        IReadOnlyList<CelType>? arguments = null,
        IReadOnlyDictionary<string, CelType>? fields = null,
        bool open = false
    ) => (Name, Arguments, Fields, IsOpen) = (name, arguments ?? [], fields, open);

    public string Name { get; }
    public IReadOnlyList<CelType> Arguments { get; }

    /// <summary>
    /// For objects (<c>params</c>, <c>steps.load</c>) and records: the names that can be selected. Null where any can.
    /// </summary>
    public IReadOnlyDictionary<string, CelType>? Fields { get; }

    /// <summary>Whether an object may have more than its known fields; what is selected then is <c>any</c>.</summary>
    public bool IsOpen { get; }

    /// <summary>Whether a name is that of a type whose values CEL and its decimals write out.</summary>
    internal static bool IsWrittenType(string name) =>
        name is "bool" or "int" or "uint" or "double" or "decimal" or "string" or "bytes" or "list" or "map";

    public static CelType Dyn { get; } = new("any");
    public static CelType Null { get; } = new("null_type");
    public static CelType Bool { get; } = new("bool");
    public static CelType Int { get; } = new("int");
    public static CelType Uint { get; } = new("uint");
    public static CelType Double { get; } = new("double");
    public static CelType String { get; } = new("string");
    public static CelType Bytes { get; } = new("bytes");
    public static CelType Timestamp { get; } = new("timestamp");

    /// <summary>An exact decimal; CEL has none.</summary>
    public static CelType Decimal { get; } = new("decimal");
    public static CelType Duration { get; } = new("duration");
    public static CelType Type { get; } = TypeOf(Dyn);

    public static CelType TypeOf(CelType type) => new("type", [type]);

    public static CelType List(CelType item) => new("list", [item]);

    public static CelType Map(CelType key, CelType value) => new("map", [key, value]);

    /// <summary>A map from string whose keys are known: an item of a list of files. Otherwise as any map.</summary>
    public static CelType Record(params ReadOnlySpan<(string Name, CelType Type)> fields)
    {
        var known = new Dictionary<string, CelType>();
        foreach (var (name, type) in fields)
            known[name] = type;
        return new("map", [String, Dyn], known);
    }

    public static CelType Optional(CelType inner) => new("optional", [inner]);

    internal static CelType Opaque(string name, params IReadOnlyList<CelType> arguments) => new(name, arguments);

    public static CelType Object(IReadOnlyDictionary<string, CelType> fields, bool open = false) =>
        new("object", null, fields, open);

    static readonly Dictionary<string, CelType> Simple = new()
    {
        ["any"] = Dyn,
        ["dyn"] = Dyn,
        ["null_type"] = Null,
        ["bool"] = Bool,
        ["int"] = Int,
        ["uint"] = Uint,
        ["double"] = Double,
        ["decimal"] = Decimal,
        ["string"] = String,
        ["bytes"] = Bytes,
        ["timestamp"] = Timestamp,
        ["duration"] = Duration,
        ["type"] = Type,
        ["list"] = List(Dyn),
        ["map"] = Map(String, Dyn),
    };

    /// <summary>The simple type names a chain file may use.</summary>
    public static IReadOnlyList<string> FileNames { get; } =
    ["bool", "int", "double", "decimal", "string", "timestamp", "duration", "list", "map", "any"];

    /// <summary>
    /// Reads <c>int</c>, <c>list&lt;string&gt;</c>, <c>map&lt;string, any&gt;</c>; single capital letters are type
    /// parameters. Null when it is none.
    /// </summary>
    public static CelType? Parse(string text)
    {
        text = text.Trim();
        if (Simple.TryGetValue(text, out var simple))
            return simple;
        if (text.Length == 1 && char.IsAsciiLetterUpper(text[0]))
            return new(text);
        var open = text.IndexOf('<', StringComparison.Ordinal);
        if (open < 0 || !text.EndsWith('>'))
            return null;
        var inside = text[(open + 1)..^1];
        switch (text[..open])
        {
            case "list" when Parse(inside) is { } item:
                return List(item);
            case "type" when Parse(inside) is { } type:
                return TypeOf(type);
            case "optional" when Parse(inside) is { } inner:
                return Optional(inner);
            case "map":
                var comma = inside.IndexOf(',', StringComparison.Ordinal);
                return comma > 0 && Parse(inside[..comma]) is { } key && Parse(inside[(comma + 1)..]) is { } value
                    ? Map(key, value)
                    : null;
            default:
                return null;
        }
    }

    internal static CelType Parameter(int number) => new($"'{number}");

    // In signatures parameters are single letters; the checker's own are numbered.
    internal bool IsParameter => Name.Length == 1 || Name[0] == '\'';
    internal bool IsDyn => ReferenceEquals(this, Dyn);

    /// <summary>Whether a value of type <paramref name="actual"/> can stand where this type is asked for.</summary>
    public bool Accepts(CelType actual) => new Unifier().Fits(actual, this);

    /// <summary>The same, where an int is also taken for a double.</summary>
    internal bool Takes(CelType actual) => Accepts(actual) || (Name == "double" && actual.Name == "int");

    internal CelType With(IReadOnlyList<CelType> arguments) => new(Name, arguments, Fields, IsOpen);

    /// <summary>The type with the names of the parts of a record, or of each item of a list of records.</summary>
    public string WithParts =>
        (Name == "list" ? Arguments[0].Fields : Fields) is { } parts
            ? $"{this} with {string.Join(", ", parts.Keys)}"
            : $"{this}";

    /// <summary>Whether both are the same type: the same names all the way down, fields by identity.</summary>
    internal bool IsSame(CelType other)
    {
        if (ReferenceEquals(this, other))
            return true;
        if (Name != other.Name || Arguments.Count != other.Arguments.Count || !ReferenceEquals(Fields, other.Fields))
        {
            return false;
        }
        for (var i = 0; i < Arguments.Count; i++)
        {
            if (!Arguments[i].IsSame(other.Arguments[i]))
                return false;
        }
        return true;
    }

    public override string ToString() =>
        Arguments.Count == 0 || Name == "type" ? Name : $"{Name}<{string.Join(", ", Arguments)}>";
}
