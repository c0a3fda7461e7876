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

/// <summary>Where rows come from: one of these.</summary>
[OneOf("csv", "fixed", "jsonl", "json", "xml", "parquet", "xlsx", "connection")]
public sealed record LoadFrom
{
    [Setting(
        "Path of a CSV file, or a pattern for several that are read one after the other, by name; in UTF-8 with a "
            + "header line unless `text` says otherwise.",
        Refers = SettingReference.Path
    )]
    public string? Csv { get; init; }

    [Setting(
        "Path or pattern of files whose lines have fields at fixed places, which `widths` says.",
        Refers = SettingReference.Path
    )]
    public string? Fixed { get; init; }

    [Setting(
        "For `fixed`: the fields of a line from its first character on, each with how many characters it has.",
        Min = 1,
        Max = 100_000
    )]
    public IReadOnlyDictionary<string, int> Widths { get; init; } = new Dictionary<string, int>();

    [Setting(
        "Path or pattern of files with one JSON object in each line; an object without a name has no value there. "
            + "A column may come from within an object: `from: address.town`.",
        Refers = SettingReference.Path
    )]
    public string? Jsonl { get; init; }

    [Setting(
        "Path or pattern of files with one JSON document that has an array of objects, the rows.",
        Refers = SettingReference.Path
    )]
    public string? Json { get; init; }

    [Setting("For `json`: where the array is, as a JSON Pointer, for example `/data/items`; the document when absent.")]
    public string? At { get; init; }

    [Setting(
        "Path or pattern of XML files; each element that `row` names is a row. Its attributes are the columns "
            + "`@name`, elements with text in it are `name`, or `address/town` further in.",
        Refers = SettingReference.Path
    )]
    public string? Xml { get; init; }

    [Setting("For `xml`: the name of the elements that are rows, without a prefix.")]
    public string? Row { get; init; }

    [Setting("Path of a Parquet file.", Refers = SettingReference.Path)]
    public string? Parquet { get; init; }

    [Setting("Path of an Excel workbook (xlsx) whose sheet begins with a header row.", Refers = SettingReference.Path)]
    public string? Xlsx { get; init; }

    [Setting("The sheet of the workbook; the first one when absent.")]
    public string? Sheet { get; init; }

    [Setting("The character between the fields of a CSV file; detected when absent.")]
    public string? Delimiter { get; init; }

    [Setting("How the text of a file of texts is to be read, where it is not as usual.")]
    public LoadText Text { get; init; } = new();

    [Setting(
        "How a file of texts is packed: `gzip`, `zstd`, `zip` or `none`; by its ending `.gz`, `.zst` or `.zip` when "
            + "absent."
    )]
    public LoadPacking? Packed { get; init; }

    [Setting("The file within a zip archive, or a pattern for it; needed where there are several.")]
    public string? Entry { get; init; }

    [Setting("A further column with the name of the file that a row stood in, under this name.")]
    public string? FileColumn { get; init; }

    [Setting("The connection to read from, with `table` or `query`.", Connection = DatabaseTypes.All)]
    public string? Connection { get; init; }

    [Setting("The table to read.", Refers = SettingReference.Table)]
    public string? Table { get; init; }

    [Setting("A query, or `{file: name}`, whose rows are read.")]
    public TextOrFile? Query { get; init; }

    [Setting("Values for the parameters that the query writes as `$name`.", Expression = true)]
    public IReadOnlyDictionary<string, Value> Bind { get; init; } = new Dictionary<string, Value>();
}

public enum LoadPacking
{
    None,
    Gzip,
    Zstd,
    Zip,
}

/// <summary>How a text is to be read.</summary>
public sealed record LoadText
{
    [Setting(
        "The encoding, by its name in the IANA registry, for example `windows-1252` or `iso-8859-15`; "
            + "UTF-8, or UTF-16 with the mark that says so, when absent. JSON documents are UTF-8, and XML says it "
            + "itself."
    )]
    public string? Encoding { get; init; }

    [Setting("Whether the first line of a CSV file has the names of its columns; else `names` has them.")]
    public bool Header { get; init; } = true;

    [Setting("Names of the columns of a CSV file, in place of those of its header, or for one that has none.")]
    public IReadOnlyList<string> Names { get; init; } = [];

    [Setting("Lines before the header, or the first row, that are left out.", Min = 0, Max = 10_000)]
    public int Skip { get; init; }

    [Setting("Lines at the end that are left out.", Min = 0, Max = 10_000)]
    public int SkipEnd { get; init; }

    [Setting("Lines that begin with this are left out, for example `#`.")]
    public string? Comment { get; init; }

    [Setting("The character that texts of a CSV file stand in; `none` where quotes are characters like any other.")]
    public string Quote { get; init; } = "\"";

    [Setting(
        "The character before a quote that belongs to the text; the quote itself when absent, so that two are one."
    )]
    public string? Escape { get; init; }

    [Setting("The character before the decimals of numbers.")]
    public string Decimal { get; init; } = ".";

    [Setting("The character between thousands, which is passed over in numbers; none when absent.")]
    public string? Thousands { get; init; }

    [Setting("Texts that mean nothing, for example `NULL` or `-`. Nothing between two delimiters always does.")]
    public IReadOnlyList<string> Empty { get; init; } = [];

    [Setting("Whether blanks around a text are taken off; those of `fixed` always are.")]
    public bool Trim { get; init; }
}

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

    [Setting("The connection to write to, with `table`.", Connection = DatabaseTypes.All)]
    public string? Connection { get; init; }

    [Setting("The table to fill.", Refers = SettingReference.Table)]
    public string? Table { get; init; }

    [Setting(
        "For a table: `append` adds rows, `replace` empties the table first, "
            + "`truncate` does so at the end in the database's quick way (in MySQL, "
            + "where that can't be taken back, as `replace` does), `upsert` replaces rows with the same key "
            + "and leaves alone those that are the same already, `insert` adds rows whose key is not there yet and "
            + "leaves all others as they are."
    )]
    public LoadMode Mode { get; init; } = LoadMode.Append;

    /// <summary>Whether rows are compared with those of the table.</summary>
    internal bool IsByKey => Mode is LoadMode.Upsert or LoadMode.Insert;

    [Setting(
        "The columns that tell rows apart, for `upsert` and `insert`; the table needs a primary key or unique index on "
            + "them.",
        RequiredFor = "mode: upsert insert"
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
    Insert,
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
