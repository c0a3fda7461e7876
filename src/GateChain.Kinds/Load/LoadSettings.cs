using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load;

/// <summary>Settings of <c>kind: load</c>.</summary>
public sealed record LoadSettings
{
    [Setting("The file to read.", Required = true)]
    public LoadFrom From { get; init; } = new();

    [Setting("The table to fill.", Required = true)]
    public LoadInto Into { get; init; } = new();

    [Setting("The table's columns and where they come from. When absent, every column of the file goes to the column of the same name as it is.")]
    public IReadOnlyDictionary<string, LoadColumn> Columns { get; init; } = new Dictionary<string, LoadColumn>();

    [Setting("What happens to lines that do not fit.")]
    public LoadReject Reject { get; init; } = new();

    [Setting("Lines per transaction, 100 to 1,000,000.")]
    public int Batch { get; init; } = 10_000;
}

/// <summary>Where lines come from.</summary>
public sealed record LoadFrom
{
    [Setting("Path of a CSV file in UTF-8 with a header line.", Required = true)]
    public string Csv { get; init; } = "";

    [Setting("The character between fields; found by itself when absent.")]
    public string? Delimiter { get; init; }
}

/// <summary>Where rows go.</summary>
public sealed record LoadInto
{
    [Setting("The name of the connection.", Required = true)]
    public string Connection { get; init; } = "";

    [Setting("The table.", Required = true)]
    public string Table { get; init; } = "";

    [Setting("`append` adds rows, `replace` empties the table first, `upsert` replaces rows with the same key.")]
    public LoadMode Mode { get; init; } = LoadMode.Append;

    [Setting("The columns that tell rows apart, for `upsert`; the table needs a primary key or unique index on them.")]
    public IReadOnlyList<string> Key { get; init; } = [];
}

public enum LoadMode { Append, Replace, Upsert }

/// <summary>One column.</summary>
public sealed record LoadColumn
{
    [Setting("The column of the file; the same name when absent.")]
    public string? From { get; init; }

    [Setting("How the text is read: `string int double bool timestamp`.")]
    public ColumnType Type { get; init; } = ColumnType.String;

    [Setting("Whether an empty field makes the line a reject.")]
    public bool Required { get; init; }

    [Setting("The smallest number that is accepted.")]
    public double? Min { get; init; }

    [Setting("The largest number that is accepted.")]
    public double? Max { get; init; }
}

public enum ColumnType { String, Int, Double, Bool, Timestamp }

/// <summary>Lines that do not fit.</summary>
public sealed record LoadReject
{
    [Setting("How many lines may be rejected; one more fails the step and the table stays as it was.")]
    public int Limit { get; init; }

    [Setting("Path of a CSV file that gets the rejected lines with line number and reason.")]
    public string? File { get; init; }
}
