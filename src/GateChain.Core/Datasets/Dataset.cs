namespace GateChain.Core.Datasets;

/// <summary>Data that steps read and write.</summary>
/// <param name="Form">What it is.</param>
/// <param name="Connection">The connection that leads to it; null for this machine or the web.</param>
/// <param name="Name">
/// A path, the name of a table, an address. It may be a pattern: <c>*</c> and <c>${…}</c> stand for anything.
/// </param>
public sealed record Dataset(DataForm Form, string? Connection, string Name)
{
    /// <summary>Whether it may stand for several: what is there is not known before it runs.</summary>
    public bool IsPattern => NamePatterns.IsPattern(Name);

    /// <summary>The chain whose runs alone have it, as what lies in a run's folder; null for what others may have too.
    /// </summary>
    public string? Within { get; init; }

    /// <summary>The connection and the name, as people write them: <c>warehouse:pickups</c>.</summary>
    public override string ToString() => Connection is null ? Name : $"{Connection}:{Name}";

    /// <summary>Whether two may be the same data: what one writes another reads.</summary>
    public bool Meets(Dataset other) =>
        Form == other.Form
        && Connection == other.Connection
        && Within == other.Within
        && NamePatterns.Meet(Name, other.Name, Form);
}
