using System.Text;
using System.Text.Json;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// A file with one JSON object in each line. Its columns are those that are asked for, or else all that there are.
/// </summary>
sealed class JsonLinesSource : FileSource
{
    readonly BoundedLines _lines;
    readonly MarkedText _marks;
    readonly JsonRow _row;
    Reject? _broken;
    long _line;

    /// <param name="open">The file.</param>
    /// <param name="wanted">The names that are asked for; none for all that there are.</param>
    public JsonLinesSource(OpenText open, IReadOnlyList<string> wanted)
        : base(open.Name, open.Path)
    {
        try
        {
            (var text, _marks) = open.Decode(open.Unpack(Stream));
            _lines = new(text, BoundedLines.Most);
            Names = wanted.Count > 0 ? wanted : AllNames(open);
        }
        catch
        {
            Stream.Dispose();
            throw;
        }
        _line = open.From.Text.Skip;
        _row = new(Names);
    }

    // Nobody has said which names there are, and a later line may have others than the first: all of them are gone
    // through once.
    static List<string> AllNames(OpenText open)
    {
        var names = new OrderedDictionary<string, bool>();
        using var file = File.OpenRead(open.Path);
        using var lines = new BoundedLines(open.Decode(open.Unpack(file)).Text, BoundedLines.Most);
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
            while (_lines.Next() is { } line)
            {
                _line++;
                if (!string.IsNullOrWhiteSpace(line))
                    return line;
            }
            return null;
        }
        catch (InvalidDataException e)
        {
            throw new StepFailedException("json", $"line {_line + 1} of {What} can't be read: {e.Message}");
        }
    }

    public override bool Read()
    {
        if (NextLine() is not { } line)
            return false;
        _row.Clear();
        _broken = Take(line) is { } reason ? new(reason, null, Shorten.Text(_marks.Shown(line), 200)) : null;
        return true;
    }

    // Why it can't be taken; null when it was.
    string? Take(string line)
    {
        if (_marks.In(line))
            return $"the line is not {_marks.Name}: {Shorten.Text(_marks.Shown(line), 100)}";
        try
        {
            using var document = JsonDocument.Parse(line);
            return _row.Take(document.RootElement, "line");
        }
        catch (JsonException e)
        {
            return $"the line is not JSON: {e.Message}";
        }
    }

    public override object? this[int column] => _row[column];

    public override void Dispose()
    {
        _lines.Dispose();
        base.Dispose();
    }
}
