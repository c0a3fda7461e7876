using System.Text;
using System.Text.Json;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A file with one JSON object in each line. Its columns are those that are asked for, or else those of the first object.</summary>
sealed class JsonLinesSource : FileSource
{
    const int LongestLine = 16 << 20;

    readonly BoundedLines _lines;
    readonly Dictionary<string, int> _columns;
    readonly object?[] _row;
    readonly string? _first;
    bool _firstGiven;
    long _line;

    /// <param name="name">The path as the settings have it.</param>
    /// <param name="path">The full path.</param>
    /// <param name="wanted">The names that are asked for; none for those of the first object.</param>
    public JsonLinesSource(string name, string path, IReadOnlyList<string> wanted) : base(name, path)
    {
        _lines = new(new StreamReader(Stream, Encoding.UTF8, true, 1 << 16), LongestLine);
        _first = NextLine();
        Names = wanted.Count > 0 ? wanted : [.. Parse(_first ?? "{}").RootElement.EnumerateObject().Select(p => p.Name)];
        _columns = Names.Select((n, i) => (n, i)).ToDictionary(c => c.n, c => c.i);
        _row = new object?[Names.Count];
    }

    public override IReadOnlyList<string> Names { get; }
    public override string RowWord => "line";
    public override long LineOf(long row) => _line;

    string? NextLine()
    {
        try
        {
            for (_line++; _lines.Next() is { } line; _line++)
            {
                if (!string.IsNullOrWhiteSpace(line)) { return line; }
            }
            return null;
        }
        catch (InvalidDataException) { throw new StepFailedException("json", $"line {_line} of {What} has more than {LongestLine >> 20} Mi characters"); }
    }

    JsonDocument Parse(string line)
    {
        try
        {
            var document = JsonDocument.Parse(line);
            return document.RootElement.ValueKind == JsonValueKind.Object ? document : throw new StepFailedException("json", $"line {_line} of {What} is not a JSON object");
        }
        catch (JsonException e) { throw new StepFailedException("json", $"line {_line} of {What} is not JSON: {e.Message}"); }
    }

    public override bool Read()
    {
        var line = _firstGiven ? NextLine() : _first;
        _firstGiven = true;
        if (line is null) { return false; }
        Array.Clear(_row);
        using var document = Parse(line);
        foreach (var property in document.RootElement.EnumerateObject())
        {
            if (_columns.TryGetValue(property.Name, out var column)) { _row[column] = ValueOf(property.Value); }
        }
        return true;
    }

    static object? ValueOf(JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.Null => null,
        JsonValueKind.True => true,
        JsonValueKind.False => false,
        JsonValueKind.Number => value.TryGetInt64(out var n) ? n : value.GetDouble(),
        JsonValueKind.String => value.GetString(),
        _ => value.GetRawText(),
    };

    public override object? this[int column] => _row[column];

    public override void Dispose()
    {
        _lines.Dispose();
        base.Dispose();
    }
}
