using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Check;

/// <summary>Settings of <c>kind: check</c>.</summary>
public sealed record CheckSettings
{
    [Setting("The rows that are looked at, said as `from` of a `load`: files, a table or a query.", Required = true)]
    public LoadFrom Of { get; init; } = new();

    [Setting("What has to hold, each under a name of its own.", Required = true)]
    public IReadOnlyDictionary<string, DataCheck> Checks { get; init; } = new Dictionary<string, DataCheck>();

    [Setting("Values that `holds` sees as `bind.name`.", Expression = true)]
    public IReadOnlyDictionary<string, Value> Bind { get; init; } = new Dictionary<string, Value>();

    [Setting(
        "Path of a CSV file that gets the rows that do not pass: source, line, column, value, check and reason, and "
            + "the fields as they stood. One row may stand there for several checks.",
        Refers = SettingReference.Path
    )]
    public string? File { get; init; }

    [Setting("A table that gets them too, made when it is not there.")]
    public FailingRows? Into { get; init; }
}

/// <summary>Where rows go that do not pass.</summary>
public sealed record FailingRows
{
    [Setting("The connection.", Connection = DatabaseTypes.All, Required = true)]
    public string Connection { get; init; } = "";

    [Setting(
        "The table: `work`, `run`, `step`, `check_name`, `source`, `line`, `column_name`, `value`, `reason` and the "
            + "`fields` as a JSON object. Rows of other runs and steps stay; those of an earlier attempt are replaced.",
        Required = true
    )]
    public string Table { get; init; } = "";
}

/// <summary>Something that has to hold: one of these.</summary>
[OneOf("rows", "filled", "unique", "oneOf", "between", "pattern", "refersTo", "fresh", "sum", "holds")]
public sealed record DataCheck
{
    [Setting("How many rows there are.")]
    public RowsCheck? Rows { get; init; }

    [Setting("Columns that are nowhere empty.")]
    public IReadOnlyList<string>? Filled { get; init; }

    [Setting("Columns whose values, together, stand in one row only. Rows in which one of them is empty are left out.")]
    public IReadOnlyList<string>? Unique { get; init; }

    [Setting("A column that has only certain values.")]
    public OneOfCheck? OneOf { get; init; }

    [Setting("A column whose numbers or times are in a range.")]
    public BetweenCheck? Between { get; init; }

    [Setting("A column whose texts look like something.")]
    public PatternCheck? Pattern { get; init; }

    [Setting("A column whose values stand in another table.")]
    public RefersCheck? RefersTo { get; init; }

    [Setting("A column whose latest time is not long ago.")]
    public FreshCheck? Fresh { get; init; }

    [Setting("A column whose sum is that of another source.")]
    public SumCheck? Sum { get; init; }

    [Setting(
        "An expression that is true for each row; it sees the columns as `row.name`, for example "
            + "`row.delivered >= row.ordered`.",
        RowExpression = true
    )]
    public string? Holds { get; init; }

    [Setting("How many rows may fail it.", Min = 0)]
    public long Limit { get; init; }

    [Setting("Whether the step fails by it or only warns.")]
    public Severity Severity { get; init; } = Severity.Fail;
}

public enum Severity
{
    Fail,
    Warn,
}

public sealed record RowsCheck
{
    [Setting("The fewest; 1 when nothing else is said.", Min = 0)]
    public long? Min { get; init; }

    [Setting("The most.", Min = 0)]
    public long? Max { get; init; }

    [Setting(
        "How far the number may be from the usual one, as a share of it: `0.3` for a third more or less. The usual "
            + "one is the median of up to 30 looks that succeeded; it counts from the fifth on."
    )]
    public double? Usual { get; init; }

    [Setting("For `usual`: the name under which the numbers are kept; that of the check when absent.")]
    public string? Keep { get; init; }
}

public sealed record OneOfCheck
{
    [Setting("The column.", Required = true)]
    public string Column { get; init; } = "";

    [Setting("The values. Nothing is no value: `filled` finds that.", Required = true)]
    public IReadOnlyList<string> Values { get; init; } = [];
}

public sealed record BetweenCheck
{
    [Setting("The column.", Required = true)]
    public string Column { get; init; } = "";

    [Setting("The smallest number, or the first time such as `2026-11-01`.")]
    public Value? Min { get; init; }

    [Setting("The largest number, or the last time.")]
    public Value? Max { get; init; }
}

public sealed record PatternCheck
{
    [Setting("The column.", Required = true)]
    public string Column { get; init; } = "";

    [Setting(
        "A regular expression that is found in the text; `^HF-[0-9]{4}$` for all of it. Without backreferences.",
        Required = true
    )]
    public string Matches { get; init; } = "";
}

public sealed record RefersCheck
{
    [Setting("The column.", Required = true)]
    public string Column { get; init; } = "";

    [Setting("The connection of the other table; that of `of` when absent.", Connection = DatabaseTypes.All)]
    public string? Connection { get; init; }

    [Setting("The other table.", Required = true)]
    public string Table { get; init; } = "";

    [Setting("The column of the other table; the same name when absent.")]
    public string? Key { get; init; }
}

public sealed record FreshCheck
{
    [Setting("The column.", Required = true)]
    public string Column { get; init; } = "";

    [Setting("How long ago the latest time may be.", Required = true)]
    public TimeSpan Within { get; init; }
}

public sealed record SumCheck
{
    [Setting("The column.", Required = true)]
    public string Column { get; init; } = "";

    [Setting("The connection of the other source.", Connection = DatabaseTypes.All, Required = true)]
    public string Connection { get; init; } = "";

    [Setting("A query that gives the sum as one number, for example `SELECT sum(litres) FROM tanks`.", Required = true)]
    public string Query { get; init; } = "";

    [Setting("How far they may be apart.")]
    public double Tolerance { get; init; }
}
