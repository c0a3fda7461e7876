namespace GateChain.Core.Datasets;

/// <summary>Which way data go.</summary>
public enum DataDirection
{
    /// <summary>The step reads it.</summary>
    Reads,

    /// <summary>The step writes, changes or removes it.</summary>
    Writes,
}

/// <summary>What data are.</summary>
public enum DataForm
{
    /// <summary>A file, or a pattern for several.</summary>
    File,

    /// <summary>A table or view of a database.</summary>
    Table,

    /// <summary>An address of the web.</summary>
    Address,
}

/// <summary>What a step does with data.</summary>
/// <param name="Direction">Which way they go.</param>
/// <param name="Data">The data.</param>
public sealed record DataUse(DataDirection Direction, Dataset Data)
{
    /// <summary>Reads a file, table or address.</summary>
    public static DataUse Reads(DataForm form, string? connection, string name) =>
        new(DataDirection.Reads, new(form, connection, name));

    /// <summary>Writes a file, table or address.</summary>
    public static DataUse Writes(DataForm form, string? connection, string name) =>
        new(DataDirection.Writes, new(form, connection, name));
}
