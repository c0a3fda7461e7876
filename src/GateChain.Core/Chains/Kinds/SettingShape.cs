using System.Globalization;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Kinds;

/// <summary>The form a setting's value takes in a chain file.</summary>
public enum SettingForm
{
    Text,
    Bool,
    Int,
    Double,
    Duration,
    Timestamp,

    /// <summary>One of <see cref="SettingShape.Choices"/>.</summary>
    Choice,

    /// <summary>Text in place, or <c>{file: name}</c> for an attachment of the chain.</summary>
    TextOrFile,

    /// <summary>The name of an attachment of the chain.</summary>
    Attachment,

    /// <summary>An expression that stands bare.</summary>
    Expression,

    /// <summary>
    /// An expression that the kind computes itself for each row; it sees <c>row</c> and <c>bind</c>. Its value is its
    /// text.
    /// </summary>
    RowExpression,
    List,
    Map,
    Record,
    Any,
}

/// <summary>What of the workspace a setting's value names.</summary>
public enum SettingReference
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>A connection.</summary>
    Connection,

    /// <summary>A lane.</summary>
    Lane,

    /// <summary>A chain.</summary>
    Chain,

    /// <summary>A table of the database that the setting <c>connection</c> beside it names.</summary>
    Table,

    /// <summary>A file or folder, on the machine or where the setting <c>connection</c> beside it leads.</summary>
    Path,
}

/// <summary>The shape of a setting: check, JSON Schema, forms and docs are made from it.</summary>
public sealed record SettingShape(SettingForm Form)
{
    /// <summary>The shape of the items of a list or the values of a map.</summary>
    public SettingShape? Item { get; init; }

    /// <summary>The members of a record.</summary>
    public IReadOnlyList<SettingMember> Members { get; init; } = [];

    public IReadOnlyList<string> Choices { get; init; } = [];

    /// <summary>Whether a whole number may stand in the place of a choice.</summary>
    public bool OrNumber { get; init; }

    /// <summary>What of the workspace its value names.</summary>
    public SettingReference Refers { get; init; }

    /// <summary>For the name of a connection: the types it may be of; empty for any.</summary>
    public IReadOnlyList<string> ConnectionTypes { get; init; } = [];

    /// <summary>
    /// Whether nobody should read it. For a map: the entries whose names say that they are credentials.
    /// </summary>
    public bool IsSecret { get; init; }

    /// <summary>Whether values of this map may be <c>secret:name</c>, or a parameter that is a secret.</summary>
    public bool TakesSecrets { get; init; }

    /// <summary>For a whole number: the least that it may be; null for any.</summary>
    public long? Least { get; init; }

    /// <summary>For a whole number: the most that it may be; null for any.</summary>
    public long? Most { get; init; }

    /// <summary>
    /// Whether it is HTML: what expressions within it give is escaped. One that is a single expression is taken as it
    /// is.
    /// </summary>
    public bool IsHtml { get; init; }

    /// <summary>For a record: the members of which exactly one has to be there; empty for no such rule.</summary>
    public IReadOnlyList<string> OneOf { get; init; } = [];

    /// <summary>
    /// For a record whose members are told elsewhere, because it holds itself or depends on a kind: its name.
    /// </summary>
    public string? Name { get; init; }

    /// <summary>The type a computed value must have.</summary>
    public CelType Type =>
        Form switch
        {
            SettingForm.Text
            or SettingForm.Choice
            or SettingForm.TextOrFile
            or SettingForm.Attachment
            or SettingForm.RowExpression => CelType.String,
            SettingForm.Bool => CelType.Bool,
            SettingForm.Int => CelType.Int,
            SettingForm.Double => CelType.Double,
            SettingForm.Duration => CelType.Duration,
            SettingForm.Timestamp => CelType.Timestamp,
            SettingForm.List => CelType.List(Item?.Type ?? CelType.Dyn),
            SettingForm.Map or SettingForm.Record => CelType.Map(CelType.String, CelType.Dyn),
            _ => CelType.Dyn,
        };

    /// <summary>What is wrong with a number, in words; null when nothing is.</summary>
    public string? RangeProblem(long number) =>
        (Least is null || number >= Least) && (Most is null || number <= Most) ? null
        : Least is { } least && Most is { } most ? $"expected {Grouped(least)} to {Grouped(most)}, and this is {number}"
        : Least is { } floor ? $"expected {Grouped(floor)} or more, and this is {number}"
        : $"expected {Grouped(Most!.Value)} at most, and this is {number}";

    static string Grouped(long number) => number.ToString("N0", CultureInfo.InvariantCulture);

    /// <summary>The shape of what stands under a key of a mapping; any where nothing is known of it.</summary>
    internal SettingShape Under(string key) => Members.FirstOrDefault(m => m.Name == key)?.Shape ?? Each;

    /// <summary>The shape of each item of a list or a map; any where nothing is known of it.</summary>
    internal SettingShape Each => Item ?? Any;

    static SettingShape Any { get; } = new(SettingForm.Any);

    public static SettingShape Text { get; } = new(SettingForm.Text);

    public static SettingShape Record(params IReadOnlyList<SettingMember> members) =>
        new(SettingForm.Record) { Members = members };
}

/// <param name="Name">The key in the file.</param>
/// <param name="Shape">The form of its value.</param>
/// <param name="Required">Whether it must be there.</param>
/// <param name="Default">What holds when it is absent; null when nothing does.</param>
/// <param name="Doc">One or two sentences: meaning, unit, range.</param>
public sealed record SettingMember(string Name, SettingShape Shape, bool Required, Value? Default, string Doc)
{
    /// <summary>The choices of another member with which this one has to be there; null for none.</summary>
    public (string Member, IReadOnlyList<string> Choices)? RequiredFor { get; init; }
}
