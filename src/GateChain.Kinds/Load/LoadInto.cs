using GateChain.Core.Chains.Kinds;
using GateChain.Kinds.Databases;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load;

/// <summary>Where rows go: one of these.</summary>
[OneOf("csv", "jsonl", "parquet", "connection")]
public sealed record LoadInto
{
    [Setting(
        "Path of the CSV file to write, packed when it ends in `.gz` or `.zst`; it is there as a whole or not at "
            + "all.",
        Refers = SettingReference.Path
    )]
    public string? Csv { get; init; }

    [Setting("Path of the file to write with one JSON object in each line.", Refers = SettingReference.Path)]
    public string? Jsonl { get; init; }

    [Setting("Path of the Parquet file to write.", Refers = SettingReference.Path)]
    public string? Parquet { get; init; }

    [Setting(
        "The connection that the file is brought to when it is whole: a server (`sftp`, `ftp`) or a bucket. It "
            + "stays on this machine when absent.",
        Connection = FileServer.Types
    )]
    public string? Server { get; init; }

    [Setting("The connection to write to, with `table`.", Connection = DatabaseTypes.All)]
    public string? Connection { get; init; }

    [Setting("The table to fill.", Refers = SettingReference.Table)]
    public string? Table { get; init; }

    [Setting(
        "For a table: `append` adds rows, `replace` empties the table first, "
            + "`truncate` does so at the end in the database's quick way (in MySQL, "
            + "where that can't be taken back, as `replace` does), `upsert` replaces rows with the same key "
            + "and leaves alone those that are the same already, `insert` adds rows whose key is not there yet and "
            + "leaves all others as they are, `mirror` upserts and deletes or marks the rows that the source does not "
            + "have any more, `history` closes the version of a row that has changed and adds the next one."
    )]
    public LoadMode Mode { get; init; } = LoadMode.Append;

    /// <summary>Whether what was in the table before goes.</summary>
    internal bool IsEmptied => Mode is LoadMode.Replace or LoadMode.Truncate;

    /// <summary>Whether rows are compared with those of the table.</summary>
    internal bool IsByKey => Mode is LoadMode.Upsert or LoadMode.Insert or LoadMode.Mirror or LoadMode.History;

    [Setting(
        "The columns that tell rows apart, for `upsert`, `insert`, `mirror` and `history`; the table needs a primary "
            + "key or unique index on them, for `history` an index.",
        RequiredFor = "mode: upsert insert mirror history"
    )]
    public IReadOnlyList<string> Key { get; init; } = [];

    [Setting(
        "For `history`: what becomes of rows that the source does not have any more. They are left open (`keep`, where "
            + "the source gives only what has changed) or closed (`close`, where it gives all)."
    )]
    public LoadGone Gone { get; init; } = LoadGone.Keep;

    [Setting(
        "For `mirror`: a column of the table that gets the time when a row was gone from the source, and is emptied "
            + "when it is there again; rows that are gone are deleted when absent."
    )]
    public string? GoneColumn { get; init; }

    [Setting(
        "How many rows may be gone from the source at once; one more fails the step and nothing is changed. Any "
            + "number when absent, but then a source without rows fails.",
        Min = 0
    )]
    public int? GoneLimit { get; init; }

    [Setting("For `history`: the columns of the table that say when a version holds.")]
    public LoadHistory History { get; init; } = new();

    [Setting(
        "What happens to columns of the source that neither `columns` nor the table has: `ignore` leaves them out, "
            + "`fail` fails the step, `add` adds them to the table and fills them. The log and the output "
            + "`new_columns` tell them."
    )]
    public LoadNew? New { get; init; }

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
    Insert,
    Mirror,
    History,
}

public enum LoadGone
{
    Keep,
    Close,
}

public enum LoadNew
{
    Ignore,
    Fail,
    Add,
}

/// <summary>The columns in which a table has the span of a version.</summary>
public sealed record LoadHistory
{
    [Setting("The time of the load that brought the version, in UTC.")]
    public string From { get; init; } = "valid_from";

    [Setting("The time of the load that brought the next one; nothing for a version that is open.")]
    public string To { get; init; } = "valid_to";

    [Setting("Whether the version is open; it is left out where the table has no such column.")]
    public string Current { get; init; } = "current";
}
