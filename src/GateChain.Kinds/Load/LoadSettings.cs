using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load;

/// <summary>Settings of <c>kind: load</c>.</summary>
public sealed record LoadSettings
{
    [Setting(
        "Where rows come from: one of `csv`, `fixed`, `jsonl`, `json`, `xml`, `parquet`, `xlsx`, or `connection` with "
            + "`table` or `query`.",
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

    [Setting("Further ways in which a timestamp, date or time may be written, tried in their order.")]
    public IReadOnlyList<string> Formats { get; init; } = [];

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
