using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Sql;

/// <summary>Settings of <c>kind: sql</c>.</summary>
public sealed record SqlSettings
{
    [Setting("The name of the connection.", Required = true, Connection = DatabaseTypes.All)]
    public string Connection { get; init; } = "";

    [Setting("One or more statements, or `{file: name}`; they run in one transaction.", Required = true)]
    public TextOrFile Query { get; init; } = new("", null);

    [Setting(
        "Values for the parameters that the query writes as `$name`. A list behind `IN ($name)` is its "
            + "values, behind `= ANY ($name)` of PostgreSQL an array, and JSON anywhere else.",
        Expression = true
    )]
    public IReadOnlyDictionary<string, Value> Bind { get; init; } = new Dictionary<string, Value>();

    [Setting(
        "What the last statement that gives rows becomes: `scalar` (first column of the first row), "
            + "`row` (a map), `rows` (a list of maps) or `none`."
    )]
    public SqlGive Give { get; init; } = SqlGive.None;

    [Setting(
        "What numbers become that no int holds: `near` makes doubles of them, "
            + "`exact` decimals with all of their digits (of a driver's 28, mostly), "
            + "so that sums of money are exact."
    )]
    public NumberRule Numbers { get; init; } = NumberRule.Near;

    [Setting(
        "Whether the statement runs without a transaction, as some have to: `VACUUM`, `CREATE INDEX CONCURRENTLY`, "
            + "`CREATE DATABASE`. One statement; what it has done when it fails stays done."
    )]
    public bool Alone { get; init; }

    [Setting("The most rows that `rows` may give; more is a failure. 1 to 1,000,000.", Min = 1, Max = 1_000_000)]
    public int MaxRows { get; init; } = 10_000;

    [Setting(
        "Whether the work is marked in the same database, so that a crash between its commit and the "
            + "journal does not repeat it."
    )]
    public bool Once { get; init; }
}

public enum SqlGive
{
    None,
    Scalar,
    Row,
    Rows,
}
