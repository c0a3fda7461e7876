using GateChain.Core.Chains.Kinds;

namespace GateChain.Kinds.Settings;

/// <summary>
/// Describes a property of a settings record; its name in the file is the property's name in lower camel case.
/// </summary>
/// <param name="doc">Meaning, unit and range, in one or two sentences.</param>
[AttributeUsage(AttributeTargets.Property)]
public sealed class SettingAttribute(string doc) : Attribute
{
    public string Doc { get; } = doc;
    public bool Required { get; init; }

    /// <summary>Whether its value (or the values of its map) stands in the file as a bare expression.</summary>
    public bool Expression { get; init; }

    /// <summary>Whether its value (or each of its list) is the name of an attachment.</summary>
    public bool Attachment { get; init; }

    /// <summary>Whether it is HTML, in which values are escaped.</summary>
    public bool Html { get; init; }

    /// <summary>With which choices of another setting it has to be there: <c>action: copy move</c>.</summary>
    public string? RequiredFor { get; init; }

    /// <summary>What of the workspace its value names.</summary>
    public SettingReference Refers { get; init; }

    /// <summary>
    /// For the name of a connection: the types it may be of, with a blank between; empty for any. Sets
    /// <see cref="Refers"/>.
    /// </summary>
    public string Connection { get; init; } = "";

    /// <summary>
    /// Whether nobody should read it. For a map: the entries whose names say that they are credentials.
    /// </summary>
    public bool Secret { get; init; }

    /// <summary>
    /// For a map: whether its values may be <c>secret:name</c>, which its kind puts in with
    /// <see cref="Contract.AttemptContext.WithSecret"/>. Default false.
    /// </summary>
    public bool TakesSecrets { get; init; }

    /// <summary>For a whole number: the least that it may be.</summary>
    public long Min { get; init; } = long.MinValue;

    /// <summary>For a whole number: the most that it may be.</summary>
    public long Max { get; init; } = long.MaxValue;

    /// <summary>
    /// Whether its value stands in the file as an expression that the kind computes itself, row by row.
    /// </summary>
    public bool RowExpression { get; init; }
}

/// <summary>For a settings record: exactly one of these settings has to be there.</summary>
/// <param name="names">Their names in the file, two or more.</param>
[AttributeUsage(AttributeTargets.Class)]
public sealed class OneOfAttribute(params string[] names) : Attribute
{
    /// <summary>Their names in the file.</summary>
    public IReadOnlyList<string> Names { get; } = names;
}

/// <summary>Text in place, or the name of an attachment that holds it.</summary>
/// <param name="Text">The text; null when it is in a file.</param>
/// <param name="File">The attachment's name.</param>
public sealed record TextOrFile(string? Text, string? File);
