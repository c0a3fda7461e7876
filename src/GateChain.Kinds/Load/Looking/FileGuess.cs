using System.Text;
using System.Text.Json;
using System.Xml;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load.Looking;

/// <summary>What a file is, by its ending and its first 256 KiB.</summary>
sealed record FileGuess(LoadFrom From, IReadOnlyList<string> Found)
{
    const int Sample = 256 << 10;

    public static FileGuess Of(string name, string path, string? form)
    {
        if (!File.Exists(path))
            throw new StepFailedException("no-file", $"the file {name} is not there", $"Looked for {path}.");
        var ending = System.IO.Path.GetExtension(path).ToLowerInvariant();
        if (form is "parquet" or "xlsx" || (form is null && ending is ".parquet" or ".xlsx"))
        {
            return (form ?? ending[1..]) == "parquet"
                ? new(new() { Parquet = name }, ["a Parquet file"])
                : new(new() { Xlsx = name }, ["an Excel workbook; its first sheet is read"]);
        }
        var found = new List<string>();
        var bytes = Read(name, path, found);
        var (encoding, text) = Decode(bytes, found);
        form ??= FormOf(text);
        return form switch
        {
            "jsonl" => new(new() { Jsonl = name }, [.. found, "a JSON object in each line"]),
            "json" => Json(name, bytes, found),
            "xml" => Xml(name, text, found),
            "fixed" => Fixed(name, text, encoding, found),
            "csv" => Csv(name, text, encoding, found),
            _ => throw new StepFailedException(
                "setting",
                $"there is no form “{form}”; there are csv, fixed, jsonl, json, xml, parquet and xlsx"
            ),
        };
    }

    static byte[] Read(string name, string path, List<string> found)
    {
        using var file = File.OpenRead(path);
        var open = new OpenText(name, path, new());
        using var content = open.Unpack(file);
        if (open.Packing != LoadPacking.None)
            found.Add($"packed: {open.Packing.ToString().ToLowerInvariant()}");
        var bytes = new byte[Sample];
        var read = content.ReadAtLeast(bytes, Sample, throwOnEndOfStream: false);
        return bytes[..read];
    }

    static (string? Encoding, string Text) Decode(byte[] bytes, List<string> found)
    {
        if (bytes is [0xFF, 0xFE, ..] or [0xFE, 0xFF, ..])
        {
            found.Add("UTF-16, as its mark says");
            return (null, (bytes[0] == 0xFF ? Encoding.Unicode : Encoding.BigEndianUnicode).GetString(bytes));
        }
        // The last character may have been cut.
        var whole = bytes.Length < Sample ? bytes.Length : Math.Max(0, bytes.Length - 4);
        if (System.Text.Unicode.Utf8.IsValid(bytes.AsSpan(0, whole)) || IsCut(bytes, whole))
        {
            found.Add(bytes is [0xEF, 0xBB, 0xBF, ..] ? "UTF-8 with its mark" : "UTF-8");
            return (null, Encoding.UTF8.GetString(bytes).TrimStart('\uFEFF'));
        }
        found.Add(
            "not UTF-8: read as windows-1252, the usual one of western Europe; say another one if letters are wrong"
        );
        return ("windows-1252", CodePagesEncodingProvider.Instance.GetEncoding(1252)!.GetString(bytes));
    }

    static bool IsCut(byte[] bytes, int whole)
    {
        for (var less = 1; less < 4 && whole - less >= 0; less++)
        {
            if (bytes.Length == Sample && System.Text.Unicode.Utf8.IsValid(bytes.AsSpan(0, whole - less)))
                return true;
        }
        return false;
    }

    static string FormOf(string text)
    {
        var start = text.AsSpan().TrimStart();
        if (start is ['<', ..])
            return "xml";
        if (start is not ['{' or '[', ..])
            return "csv";
        var line = start[..(start.IndexOf('\n') is >= 0 and var end ? end : start.Length)].Trim();
        try
        {
            using var document = JsonDocument.Parse(line.ToString());
            return document.RootElement.ValueKind == JsonValueKind.Object && start.Length > line.Length
                ? "jsonl"
                : "json";
        }
        catch (JsonException)
        {
            return "json";
        }
    }

    // The first array that begins with an object.
    static FileGuess Json(string name, byte[] bytes, List<string> found)
    {
        var start = bytes.AsSpan().StartsWith("\uFEFF"u8) ? bytes.AsSpan(3) : bytes;
        var reader = new Utf8JsonReader(start, isFinalBlock: false, default);
        var way = new Stack<string>();
        var property = "";
        var before = JsonTokenType.None;
        try
        {
            while (reader.Read())
            {
                if (reader.TokenType == JsonTokenType.StartObject && before == JsonTokenType.StartArray)
                {
                    var at = string.Concat(way.Reverse().Where(w => w.Length > 0).Select(w => "/" + w));
                    found.Add(
                        at.Length > 0 ? $"a JSON document whose rows are at {at}" : "a JSON document that is an array"
                    );
                    return new(new() { Json = name, At = at.Length > 0 ? at : null }, found);
                }
                if (reader.TokenType is JsonTokenType.StartObject or JsonTokenType.StartArray)
                {
                    way.Push(property);
                    property = "";
                }
                else if (reader.TokenType is JsonTokenType.EndObject or JsonTokenType.EndArray)
                {
                    way.Pop();
                }
                else if (reader.TokenType == JsonTokenType.PropertyName)
                {
                    property = reader.GetString()!.Replace("~", "~0").Replace("/", "~1");
                }
                before = reader.TokenType;
            }
        }
        catch (JsonException e)
        {
            throw new StepFailedException("json", $"{name} can't be read: {e.Message}");
        }
        found.Add("a JSON document");
        return new(new() { Json = name }, found);
    }

    // The element that comes most often as near to the top as can be.
    static FileGuess Xml(string name, string text, List<string> found)
    {
        var counts = new Dictionary<(int Depth, string Name), int>();
        try
        {
            using var reader = XmlReader.Create(
                new StringReader(text),
                new() { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null }
            );
            while (reader.Read())
            {
                if (reader.NodeType != XmlNodeType.Element)
                    continue;
                var key = (reader.Depth, reader.LocalName);
                counts[key] = counts.GetValueOrDefault(key) + 1;
            }
        }
        // The sample ends somewhere.
        catch (XmlException) { }
        var row = counts
            .Where(c => c.Key.Depth > 0)
            .OrderBy(c => c.Value > 1 ? 0 : 1)
            .ThenBy(c => c.Key.Depth)
            .ThenByDescending(c => c.Value)
            .Select(c => c.Key.Name)
            .FirstOrDefault()
            ?? counts.Keys.Select(k => k.Name).FirstOrDefault()
            ?? throw new StepFailedException("xml", $"{name} has no elements");
        found.Add($"XML whose rows are elements “{row}”");
        return new(new() { Xml = name, Row = row }, found);
    }

    static FileGuess Csv(string name, string text, string? encoding, List<string> found)
    {
        var lines = text.Split('\n').Select(l => l.TrimEnd('\r')).Where(l => l.Length > 0).Take(100).ToList();
        var (delimiter, fields) = Delimiters.Common(lines, '"');
        if (fields == 1 && lines.Count > 1 && Widths(lines) is { Count: > 1 and < 100 })
            return Fixed(name, text, encoding, found);
        // A title, or when it was made, stands before the rows of many reports.
        var all = text.Split('\n').Select(l => l.TrimEnd('\r')).Take(100).ToList();
        var skip = Math.Max(0, all.FindIndex(l => l.Length > 0 && Delimiters.Count(l, delimiter, '"') + 1 == fields));
        if (skip > 0)
            found.Add($"{skip} line{(skip == 1 ? "" : "s")} before the rows that {(skip == 1 ? "is" : "are")} none");
        List<string> first = lines.Count > 0 ? [.. all[skip].Split(delimiter).Select(f => f.Trim().Trim('"'))] : [];
        var header = first.All(f => f.Length > 0 && !TypeGuess.IsValue(f)) && first.Distinct().Count() == first.Count;
        found.Add(
            $"CSV with {(delimiter == '\t' ? "tabs" : $"“{delimiter}”")} between fields, "
                + (
                    header
                        ? "its first line is a header"
                        : "no header line that is one: columns are numbered, give them names"
                )
        );
        return new(
            new()
            {
                Csv = name,
                Delimiter = delimiter == '\t' ? "tab" : delimiter.ToString(),
                Text = new()
                {
                    Encoding = encoding,
                    Header = header,
                    Skip = skip,
                },
            },
            found
        );
    }

    static FileGuess Fixed(string name, string text, string? encoding, List<string> found)
    {
        var lines = text.Split('\n').Select(l => l.TrimEnd('\r')).Where(l => l.Length > 0).Take(1000).ToList();
        var widths = Widths(lines);
        found.Add($"lines with {widths.Count} fields at fixed places, by the blanks between them: check their widths");
        return new(
            new()
            {
                Fixed = name,
                Widths = widths.Index().ToDictionary(w => $"column{w.Index + 1}", w => w.Item),
                Text = new() { Encoding = encoding },
            },
            found
        );
    }

    // A field begins where all lines are blank before and one is not.
    static List<int> Widths(List<string> lines)
    {
        var length = lines.Count == 0 ? 0 : lines.Max(l => l.Length);
        var starts = new List<int> { 0 };
        bool IsBlank(int at) => lines.TrueForAll(l => at >= l.Length || l[at] == ' ');
        for (var at = 1; at < length; at++)
        {
            if (IsBlank(at - 1) && !IsBlank(at))
                starts.Add(at);
        }
        return [.. starts.Select((s, i) => (i + 1 < starts.Count ? starts[i + 1] : Math.Max(length, s + 1)) - s)];
    }
}
