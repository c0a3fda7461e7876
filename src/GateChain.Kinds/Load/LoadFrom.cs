using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;
using GateChain.Kinds.Databases;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load;

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

    [Setting(
        "The connection that files are brought from first: a server (`sftp`, `ftp`) or a bucket. They are on this "
            + "machine when absent.",
        Connection = FileServer.Types
    )]
    public string? Server { get; init; }

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

    [Setting(
        "For a table or query: only those rows are read that are new since the last load that succeeded, by a column "
            + "that grows."
    )]
    public LoadSince? Since { get; init; }
}

/// <summary>Where a load goes on.</summary>
public sealed record LoadSince
{
    [Setting(
        "The column: times of changes, or numbers that count up. Rows in which it is empty are read each time.",
        Required = true
    )]
    public string Column { get; init; } = "";

    [Setting(
        "The name under which the largest value is kept that was read, for the chain and its profile. It is written "
            + "with the success of the step, whatever becomes of the run.",
        Required = true
    )]
    public string Keep { get; init; } = "";

    [Setting(
        "How far before the kept value reading begins: a span such as `10m` for times, a number for numbers; for rows "
            + "that become visible later than others. The kept value itself is always read again."
    )]
    public string? Back { get; init; }

    [Setting(
        "Whether each value stands in one row only and later rows have larger ones, as numbers that count up do. Then "
            + "the kept value is not read again, and `append` may be used."
    )]
    public bool Once { get; init; }
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
