using System.Text.Json;
using System.Text.RegularExpressions;

namespace GateChain.Kinds.Load.Looking;

/// <summary>Settings as they would stand in a chain's file.</summary>
static partial class LookText
{
    [GeneratedRegex(@"^[A-Za-z_./][A-Za-z0-9_./-]*$")]
    private static partial Regex Plain { get; }

    static readonly JsonSerializerOptions Readable = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    static string Scalar(string text) =>
        Plain.IsMatch(text) && text is not ("null" or "true" or "false" or "yes" or "no" or "on" or "off" or "none")
            ? text
            : JsonSerializer.Serialize(text, Readable);

    /// <summary>Where rows come from.</summary>
    public static string From(LoadFrom from)
    {
        var lines = new List<string>();
        void Add(string key, string? value)
        {
            if (value is not null)
                lines.Add($"{key}: {Scalar(value)}");
        }
        Add("csv", from.Csv);
        Add("fixed", from.Fixed);
        Add("jsonl", from.Jsonl);
        Add("json", from.Json);
        Add("xml", from.Xml);
        Add("parquet", from.Parquet);
        Add("xlsx", from.Xlsx);
        Add("at", from.At);
        Add("row", from.Row);
        Add("delimiter", from.Delimiter);
        if (from.Widths.Count > 0)
            lines.Add($"widths: {{ {string.Join(", ", from.Widths.Select(w => $"{Scalar(w.Key)}: {w.Value}"))} }}");
        var rules = new List<string>();
        if (from.Text.Encoding is { } encoding)
            rules.Add($"encoding: {encoding}");
        if (from.Text.Skip > 0)
            rules.Add($"skip: {from.Text.Skip}");
        if (!from.Text.Header)
            rules.Add("header: false");
        if (from.Text.Decimal != ".")
            rules.Add($"decimal: {Scalar(from.Text.Decimal)}");
        if (from.Text.Thousands is { } thousands)
            rules.Add($"thousands: {Scalar(thousands)}");
        if (from.Text.Empty.Count > 0)
            rules.Add($"empty: [{string.Join(", ", from.Text.Empty.Select(Scalar))}]");
        if (rules.Count > 0)
            lines.Add($"text: {{ {string.Join(", ", rules)} }}");
        return string.Join('\n', lines);
    }

    /// <summary>The columns, each in a line.</summary>
    public static string Columns(IEnumerable<(string Name, LoadColumn Column)> columns) =>
        string.Join(
            '\n',
            columns.Select(c =>
            {
                string[] rules =
                [
                    .. c.Column.Type is { } type ? [$"type: {type.ToString().ToLowerInvariant()}"] : (string[])[],
                    .. c.Column.Format is { } format ? [$"format: {Scalar(format)}"] : (string[])[],
                ];
                return $"{Scalar(c.Name)}: {(rules.Length == 0 ? "{}" : $"{{ {string.Join(", ", rules)} }}")}";
            })
        );
}
