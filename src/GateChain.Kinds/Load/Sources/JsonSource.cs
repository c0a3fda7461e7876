using System.Text.Json;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// A JSON document with an array of objects, which are the rows. It is read in pieces: only one row is in memory.
/// </summary>
/// <remarks>Source: RFC 8259, and RFC 6901 for where the array is.</remarks>
sealed class JsonSource : FileSource
{
    const int MostOfARow = 16 << 20;

    readonly Stream _content;
    readonly string[] _way;
    readonly JsonRow _row;
    byte[] _bytes = new byte[1 << 16];
    int _begin,
        _end;
    bool _ended;
    JsonReaderState _state = new(new() { AllowTrailingCommas = false });
    Reject? _broken;

    /// <param name="open">The file.</param>
    /// <param name="wanted">The names that are asked for; none for all that there are.</param>
    /// <exception cref="StepFailedException">There is no array at that place.</exception>
    public JsonSource(OpenText open, IReadOnlyList<string> wanted)
        : base(open.Name, open.Path)
    {
        _way = Way(open.From.At);
        try
        {
            _content = open.Unpack(Stream);
            SkipMark();
            GoToArray();
            Names = wanted.Count > 0 ? wanted : AllNames(open);
        }
        catch (Exception e) when (e is JsonException or InvalidDataException)
        {
            Stream.Dispose();
            throw Wrong(e);
        }
        catch
        {
            Stream.Dispose();
            throw;
        }
        _row = new(Names);
    }

    JsonSource(OpenText open)
        : this(open, ["-"]) { }

    static string[] Way(string? pointer) =>
        pointer is null or "" ? []
        : pointer.StartsWith('/') ? [.. pointer[1..].Split('/').Select(p => p.Replace("~1", "/").Replace("~0", "~"))]
        : throw new StepFailedException(
            "setting",
            $"“at” is a JSON Pointer and begins with “/”, unlike “{pointer}”",
            "For example: at: /data/items"
        );

    // Nobody has said which names there are: all of them are gone through once.
    static List<string> AllNames(OpenText open)
    {
        using var first = new JsonSource(open);
        var names = new OrderedDictionary<string, bool>();
        while (first.Next() is { } document)
        {
            using (document)
            {
                if (document.RootElement.ValueKind != JsonValueKind.Object)
                    continue;
                foreach (var property in document.RootElement.EnumerateObject())
                    names.TryAdd(property.Name, true);
            }
        }
        return [.. names.Keys];
    }

    public override IReadOnlyList<string> Names { get; }
    public override Reject? Broken => _broken;

    // The mark of UTF-8 is no JSON.
    void SkipMark()
    {
        Fill();
        if (_bytes.AsSpan(_begin, _end - _begin).StartsWith("\uFEFF"u8))
            _begin += 3;
    }

    // More of the file behind what is not read yet; false when there is no more.
    bool Fill()
    {
        if (_ended)
            return false;
        if (_begin > 0)
        {
            Buffer.BlockCopy(_bytes, _begin, _bytes, 0, _end - _begin);
            (_begin, _end) = (0, _end - _begin);
        }
        if (_end == _bytes.Length)
        {
            if (_bytes.Length >= MostOfARow)
                throw new InvalidDataException($"a row has more than {MostOfARow >> 20} MiB");
            Array.Resize(ref _bytes, _bytes.Length * 2);
        }
        var read = _content.Read(_bytes, _end, _bytes.Length - _end);
        _ended = read == 0;
        _end += read;
        return true;
    }

    void GoToArray()
    {
        foreach (var (i, name) in _way.Index())
        {
            if (Token() is not JsonTokenType.StartObject)
                throw NoArray(i);
            while (true)
            {
                var found = PropertyName();
                if (found is null)
                    throw NoArray(i + 1);
                if (found == name)
                    break;
                SkipValue();
            }
        }
        if (Token() is not JsonTokenType.StartArray)
            throw NoArray(_way.Length);
    }

    StepFailedException NoArray(int depth)
    {
        var place = depth == 0 ? "the document" : "/" + string.Join('/', _way.Take(depth));
        return new(
            "json",
            $"{place} of {What} is not {(depth < _way.Length ? "an object" : "there, or no array of rows")}",
            "Say with “at” where the array is, for example at: /data/items"
        );
    }

    JsonTokenType Token()
    {
        while (true)
        {
            var reader = new Utf8JsonReader(_bytes.AsSpan(_begin, _end - _begin), _ended, _state);
            if (reader.Read())
            {
                Took(reader);
                return reader.TokenType;
            }
            if (!Fill())
                return JsonTokenType.None;
        }
    }

    // Null at the end of the object.
    string? PropertyName()
    {
        while (true)
        {
            var reader = new Utf8JsonReader(_bytes.AsSpan(_begin, _end - _begin), _ended, _state);
            if (reader.Read())
            {
                var name = reader.TokenType == JsonTokenType.PropertyName ? reader.GetString() : null;
                Took(reader);
                return name;
            }
            if (!Fill())
                return null;
        }
    }

    void SkipValue()
    {
        for (var depth = 0; ; )
        {
            depth += Token() switch
            {
                JsonTokenType.StartArray or JsonTokenType.StartObject => 1,
                JsonTokenType.EndArray or JsonTokenType.EndObject => -1,
                JsonTokenType.None => throw new InvalidDataException("it ends in the middle of a value"),
                _ => 0,
            };
            if (depth == 0)
                return;
        }
    }

    void Took(Utf8JsonReader reader)
    {
        _state = reader.CurrentState;
        _begin += (int)reader.BytesConsumed;
    }

    JsonDocument? Next()
    {
        while (true)
        {
            var reader = new Utf8JsonReader(_bytes.AsSpan(_begin, _end - _begin), _ended, _state);
            if (reader.Read())
            {
                if (reader.TokenType == JsonTokenType.EndArray)
                {
                    Took(reader);
                    return null;
                }
                if (JsonDocument.TryParseValue(ref reader, out var row))
                {
                    Took(reader);
                    return row;
                }
            }
            if (!Fill())
                throw new InvalidDataException("it ends in the middle of its rows");
        }
    }

    public override bool Read()
    {
        try
        {
            if (Next() is not { } document)
                return false;
            using (document)
            {
                _row.Clear();
                _broken = _row.Take(document.RootElement, "row") is { } reason
                    ? new(reason, null, Shorten.Text(document.RootElement.GetRawText(), 200))
                    : null;
            }
            return true;
        }
        catch (Exception e) when (e is JsonException or InvalidDataException)
        {
            throw Wrong(e);
        }
    }

    StepFailedException Wrong(Exception e) =>
        new("json", $"{What} can't be read: {e.Message}", "Nothing was loaded. One mistake spoils the whole document.");

    public override object? this[int column] => _row[column];

    public override void Dispose()
    {
        _content?.Dispose();
        base.Dispose();
    }
}
