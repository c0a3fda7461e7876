using System.Text;
using System.Text.Json;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// A file with one JSON object in each line. Its columns are those that are asked for, or else all that there are.
/// </summary>
sealed class JsonLinesSource : FileSource
{
    const int LongestLine = 16 << 20;

    readonly BoundedLines _lines;
    readonly MarkedText _marks;
    readonly Dictionary<string, int> _columns;
    readonly object?[] _row;
    readonly string? _first;
    Reject? _broken;
    bool _firstGiven;
    long _line;

    /// <param name="name">The path as the settings have it.</param>
    /// <param name="path">The full path.</param>
    /// <param name="wanted">The names that are asked for; none for all that there are.</param>
    public JsonLinesSource(string name, string path, IReadOnlyList<string> wanted)
        : base(name, path)
    {
        (var text, _marks) = MarkedText.Open(Stream);
        _lines = new(text, LongestLine);
        _first = NextLine();
        Names = wanted.Count > 0 ? wanted : AllNames(path);
        _columns = Names.Select((n, i) => (n, i)).ToDictionary(c => c.n, c => c.i);
        _row = new object?[Names.Count];
    }

    // Nobody has said which names there are, and a later line may have others than the first: all of them are gone
    // through once.
    static List<string> AllNames(string path)
    {
        var names = new OrderedDictionary<string, bool>();
        using var lines = new BoundedLines(new StreamReader(path, Encoding.UTF8, true), LongestLine);
        try
        {
            while (lines.Next() is { } line)
                AddNames(line, names);
        }
        // It is told with its line when it is read.
        catch (InvalidDataException) { }
        return [.. names.Keys];
    }

    static void AddNames(string line, OrderedDictionary<string, bool> names)
    {
        try
        {
            var json = new Utf8JsonReader(Encoding.UTF8.GetBytes(line));
            while (json.Read())
            {
                if (json.TokenType == JsonTokenType.PropertyName && json.CurrentDepth == 1)
                    names.TryAdd(json.GetString()!, true);
            }
        }
        // What is no JSON is a reject when it is read.
        catch (Exception e) when (e is JsonException or InvalidOperationException) { }
    }

    public override IReadOnlyList<string> Names { get; }
    public override Reject? Broken => _broken;
    public override string? Hint => _marks.Hint;
    public override string RowWord => "line";

    public override long LineOf(long row) => _line;

    string? NextLine()
    {
        try
        {
            for (_line++; _lines.Next() is { } line; _line++)
            {
                if (!string.IsNullOrWhiteSpace(line))
                    return line;
            }
            return null;
        }
        catch (InvalidDataException)
        {
            throw new StepFailedException(
                "json",
                $"line {_line} of {What} has more than {LongestLine >> 20} Mi characters"
            );
        }
    }

    public override bool Read()
    {
        var line = _firstGiven ? NextLine() : _first;
        _firstGiven = true;
        if (line is null)
            return false;
        Array.Clear(_row);
        _broken = Take(line) is { } reason ? new(reason, null, Shorten.Text(_marks.Shown(line), 200)) : null;
        return true;
    }

    // Why it can't be taken; null when it was.
    string? Take(string line)
    {
        if (_marks.In(line))
            return $"the line is not UTF-8: {Shorten.Text(_marks.Shown(line), 100)}";
        try
        {
            using var document = JsonDocument.Parse(line);
            if (document.RootElement.ValueKind != JsonValueKind.Object)
                return "the line is not a JSON object";
            foreach (var property in document.RootElement.EnumerateObject())
            {
                if (_columns.TryGetValue(property.Name, out var column))
                    _row[column] = ValueOf(property.Value);
            }
            return null;
        }
        catch (JsonException e)
        {
            return $"the line is not JSON: {e.Message}";
        }
        // Half of a sign, written with an escape.
        catch (InvalidOperationException)
        {
            return "the line has a text that is no Unicode";
        }
    }

    // A number keeps all of its digits, however many there are.
    static object? ValueOf(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.Null => null,
            JsonValueKind.True => true,
            JsonValueKind.False => false,
            JsonValueKind.Number => ExactNumber.Read(value.GetRawText()),
            JsonValueKind.String => value.GetString(),
            _ => new JsonText(value.GetRawText()),
        };

    public override object? this[int column] => _row[column];

    public override void Dispose()
    {
        _lines.Dispose();
        base.Dispose();
    }
}
