using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load;

/// <summary>Settings of <c>kind: load</c>.</summary>
public sealed record LoadSettings
{
    [Setting(
        "Where rows come from: one of `csv`, `jsonl`, `parquet`, `xlsx`, or `connection` with `table` or `query`.",
        Required = true
    )]
    public LoadFrom From { get; init; } = new();

    [Setting("Where rows go: one of `csv`, `jsonl`, `parquet`, or `connection` with `table`.", Required = true)]
    public LoadInto Into { get; init; } = new();

    [Setting(
        "The target's columns and where they come from. When absent, every column goes to the column of "
            + "the same name as it is."
    )]
    public IReadOnlyDictionary<string, LoadColumn> Columns { get; init; } = new Dictionary<string, LoadColumn>();

    [Setting("Values that computed columns see as `bind.name`.", Expression = true)]
    public IReadOnlyDictionary<string, Value> Bind { get; init; } = new Dictionary<string, Value>();

    [Setting(
        "What computed columns see of numbers that no int holds: `near` doubles, "
            + "`exact` decimals with all of their digits."
    )]
    public NumberRule Numbers { get; init; } = NumberRule.Near;

    [Setting("What happens to rows that do not fit.")]
    public LoadReject Reject { get; init; } = new();

    [Setting(
        "Rows that are written together, 100 to 1,000,000; fewer when they are very long.",
        Min = 100,
        Max = 1_000_000
    )]
    public int Batch { get; init; } = 5_000;

    [Setting(
        "What a load into a table does after a crash: `anew` reads the source from its start, "
            + "and where the database allows it rows are written once, straight into the table; "
            + "`batch` continues after the last batch of a file, and rows are written twice for it."
    )]
    public LoadRestart Restart { get; init; } = LoadRestart.Anew;
}

public enum LoadRestart
{
    Anew,
    Batch,
}

/// <summary>Where rows come from: one of these.</summary>
[OneOf("csv", "jsonl", "parquet", "xlsx", "connection")]
public sealed record LoadFrom
{
    [Setting("Path of a CSV file in UTF-8 with a header line.", Refers = SettingReference.Path)]
    public string? Csv { get; init; }

    [Setting(
        "Path of a file with one JSON object in each line; an object without a name has no value there.",
        Refers = SettingReference.Path
    )]
    public string? Jsonl { get; init; }

    [Setting("Path of a Parquet file.", Refers = SettingReference.Path)]
    public string? Parquet { get; init; }

    [Setting("Path of an Excel workbook (xlsx) whose sheet begins with a header row.", Refers = SettingReference.Path)]
    public string? Xlsx { get; init; }

    [Setting("The sheet of the workbook; the first one when absent.")]
    public string? Sheet { get; init; }

    [Setting("The character between the fields of a CSV file; detected when absent.")]
    public string? Delimiter { get; init; }

    [Setting("The connection to read from, with `table` or `query`.", Connection = DatabaseTypes.All)]
    public string? Connection { get; init; }

    [Setting("The table to read.", Refers = SettingReference.Table)]
    public string? Table { get; init; }

    [Setting("A query, or `{file: name}`, whose rows are read.")]
    public TextOrFile? Query { get; init; }

    [Setting("Values for the parameters that the query writes as `$name`.", Expression = true)]
    public IReadOnlyDictionary<string, Value> Bind { get; init; } = new Dictionary<string, Value>();
}

/// <summary>Where rows go: one of these.</summary>
[OneOf("csv", "jsonl", "parquet", "connection")]
public sealed record LoadInto
{
    [Setting("Path of the CSV file to write; it is there as a whole or not at all.", Refers = SettingReference.Path)]
    public string? Csv { get; init; }

    [Setting("Path of the file to write with one JSON object in each line.", Refers = SettingReference.Path)]
    public string? Jsonl { get; init; }

    [Setting("Path of the Parquet file to write.", Refers = SettingReference.Path)]
    public string? Parquet { get; init; }

    [Setting("The connection to write to, with `table`.", Connection = DatabaseTypes.All)]
    public string? Connection { get; init; }

    [Setting("The table to fill.", Refers = SettingReference.Table)]
    public string? Table { get; init; }

    [Setting(
        "For a table: `append` adds rows, `replace` empties the table first, "
            + "`truncate` does so at the end in the database's quick way (in MySQL, "
            + "where that can't be taken back, as `replace` does), `upsert` replaces rows with the same key "
            + "and leaves alone those that are the same already."
    )]
    public LoadMode Mode { get; init; } = LoadMode.Append;

    [Setting(
        "The columns that tell rows apart, for `upsert`; the table needs a primary key or unique index on them.",
        RequiredFor = "mode: upsert"
    )]
    public IReadOnlyList<string> Key { get; init; } = [];

    [Setting(
        "Whether a table that is not there is created; its columns get the types that `columns` says, "
            + "else those of the source; what comes from a text file is a text."
    )]
    public bool Create { get; init; }
}

public enum LoadMode
{
    Append,
    Replace,
    Truncate,
    Upsert,
}

/// <summary>One column.</summary>
public sealed record LoadColumn
{
    [Setting("The column of the source; the same name when absent.")]
    public string? From { get; init; }

    [Setting(
        "What the value is computed by, for each row: an expression that sees the source's columns as "
            + "`row.name` and the step's `bind`, for example `double(row.litres) * bind.price`. "
            + "Instead of `from`.",
        RowExpression = true
    )]
    public string? Value { get; init; }

    [Setting(
        "What the value is read as; as the source has it when absent. `decimal` is exact, "
            + "with up to 38 digits; `bytes` are base64 in texts."
    )]
    public ColumnType? Type { get; init; }

    [Setting(
        "For a `decimal`, how many digits it may have after the decimal point; any number when absent.",
        Min = 0,
        Max = 38
    )]
    public int? Scale { get; init; }

    [Setting(
        "How a timestamp, date or time is written in the source, for example `dd.MM.yyyy HH:mm`; "
            + "RFC 3339, `2026-11-22` or `05:30:00` when absent."
    )]
    public string? Format { get; init; }

    [Setting(
        "The time zone that a timestamp without one is told in, for example `Europe/Berlin`; "
            + "UTC when absent. Of an hour that is there twice the first is meant; "
            + "one that the clock leaves out is a reject."
    )]
    public string? Zone { get; init; }

    [Setting("Whether an empty value makes the row a reject.")]
    public bool Required { get; init; }

    [Setting("The smallest number that is accepted.")]
    public double? Min { get; init; }

    [Setting("The largest number that is accepted.")]
    public double? Max { get; init; }
}

/// <summary>Rows that do not fit.</summary>
public sealed record LoadReject
{
    [Setting(
        "How many rows may be rejected, in reading or by the database; one more fails the step and the "
            + "target stays as it was.",
        Min = 0
    )]
    public int Limit { get; init; }

    [Setting(
        "Path of a CSV file that gets the rejected rows: source, line, column, value, reason, "
            + "and the fields as they stood."
    )]
    public string? File { get; init; }
}
