using System.Globalization;
using System.Text.RegularExpressions;
using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Looking;

/// <summary>What all texts of a file share.</summary>
/// <param name="Decimal">What stands before decimals.</param>
/// <param name="Thousands">What stands between thousands; null for nothing.</param>
/// <param name="Empty">Texts that mean nothing.</param>
/// <param name="Found">It in sentences.</param>
sealed record TextRules(string Decimal, string? Thousands, IReadOnlyList<string> Empty, IReadOnlyList<string> Found);

/// <summary>What the values of a column can be read as, found by seeing them. Used by one thread.</summary>
sealed partial class TypeGuess
{
    static readonly string[] Nothings = ["NULL", "null", "-", "--", "n/a", "N/A", "NA", "#N/A", "None"];

    static readonly string[] Days =
    [
        "yyyy-MM-dd",
        "dd.MM.yyyy",
        "d.M.yyyy",
        "dd/MM/yyyy",
        "MM/dd/yyyy",
        "yyyyMMdd",
        "dd.MM.yy",
    ];

    static readonly string[] Moments =
    [
        "yyyy-MM-ddTHH:mm:ss",
        "yyyy-MM-dd HH:mm:ss",
        "yyyy-MM-dd HH:mm",
        "dd.MM.yyyy HH:mm:ss",
        "dd.MM.yyyy HH:mm",
        "dd/MM/yyyy HH:mm:ss",
        "dd/MM/yyyy HH:mm",
    ];

    [GeneratedRegex(@"^[+-]?(0|[1-9]\d*)$")]
    private static partial Regex Whole { get; }

    [GeneratedRegex(@"^[+-]?((0|[1-9]\d*)|[1-9]\d{0,2}(,\d{3})+)(\.\d+)?$")]
    private static partial Regex WithPoint { get; }

    [GeneratedRegex(@"^[+-]?((0|[1-9]\d*)|[1-9]\d{0,2}(\.\d{3})+)(,\d+)?$")]
    private static partial Regex WithComma { get; }

    readonly int[] _days = new int[Days.Length],
        _moments = new int[Moments.Length];
    readonly HashSet<string> _nothings = [];
    readonly List<string> _examples = [];
    int _ints,
        _points,
        _commas,
        _bools,
        _uuids,
        _rfcs,
        _zeros;
    bool _pointSeen,
        _commaSeen,
        _pointGroups,
        _commaGroups;
    long _values;

    /// <summary>How many rows had nothing.</summary>
    public long Empty { get; private set; }

    /// <summary>The first values.</summary>
    public IReadOnlyList<string> Examples => _examples;

    /// <summary>Whether a text is more a value than a name: a number or a date.</summary>
    public static bool IsValue(string text) =>
        WithPoint.IsMatch(text) || WithComma.IsMatch(text) || Days.Any(f => IsDay(text, f));

    static bool IsDay(string text, string format) =>
        DateOnly.TryParseExact(text, format, CultureInfo.InvariantCulture, DateTimeStyles.None, out _);

    /// <summary>Takes a value in.</summary>
    public void See(object? cell)
    {
        if (cell is null or "")
        {
            Empty++;
            return;
        }
        var text = Cells.Text(cell).Trim();
        if (Nothings.Contains(text))
        {
            _nothings.Add(text);
            Empty++;
            return;
        }
        _values++;
        if (_examples.Count < 3 && !_examples.Contains(text))
            _examples.Add(Shorten.Text(text, 40));
        _ints += Whole.IsMatch(text) && long.TryParse(text, CultureInfo.InvariantCulture, out _) ? 1 : 0;
        // A number does not begin with a nought that it would lose.
        _zeros += text is ['0', >= '0' and <= '9', ..] ? 1 : 0;
        var (point, comma) = (WithPoint.IsMatch(text), WithComma.IsMatch(text));
        _points += point ? 1 : 0;
        _commas += comma ? 1 : 0;
        _pointSeen |= point && text.Contains('.');
        _commaSeen |= comma && text.Contains(',');
        _pointGroups |= point && text.Contains(',');
        _commaGroups |= comma && text.Contains('.');
        _bools += text.ToLowerInvariant() is "true" or "false" or "yes" or "no" ? 1 : 0;
        _uuids += Guid.TryParseExact(text, "D", out _) ? 1 : 0;
        _rfcs += text.Contains('T') && TimeText.ParseDateOrTimestamp(text) is not null ? 1 : 0;
        for (var i = 0; i < Days.Length; i++)
            _days[i] += IsDay(text, Days[i]) ? 1 : 0;
        for (var i = 0; i < Moments.Length; i++)
            _moments[i] += IsMoment(text, Moments[i]) ? 1 : 0;
    }

    static bool IsMoment(string text, string format) =>
        DateTime.TryParseExact(text, format, CultureInfo.InvariantCulture, DateTimeStyles.None, out _);

    // One in fifty may be wrong: it is a reject then, and no reason to call all the others texts.
    bool Is(int count) => _values > 0 && count >= _values - (_values / 50);

    bool IsInt => Is(_ints) && _zeros == 0;

    bool IsComma => Is(_commas) && _commaSeen && !IsInt;

    bool IsPoint => Is(_points) && _pointSeen && !IsInt;

    static string? Best(int[] counts, string[] formats, Func<int, bool> fits)
    {
        var most = counts.Max();
        return fits(most) ? formats[Array.IndexOf(counts, most)] : null;
    }

    string? Day => Best(_days, Days, Is) is { } format && !(format == "yyyyMMdd" && IsInt) ? format : null;

    string? Moment => Best(_moments, Moments, Is);

    bool HasType =>
        IsInt || Is(_points) || Is(_commas) || Is(_uuids) || Is(_rfcs) || Day is not null || Moment is not null;

    /// <summary>What the columns of a file say together.</summary>
    public static TextRules Rules(IReadOnlyList<TypeGuess> columns)
    {
        var found = new List<string>();
        // Where only one way of writing fits some column.
        var comma =
            columns.Any(c => c.IsComma && !c.Is(c._points))
            || (columns.Any(c => c.IsComma) && !columns.Any(c => c.IsPoint));
        if (comma && columns.Any(c => c.IsPoint && !c.Is(c._commas)))
            found.Add("numbers with decimal points and with decimal commas: the latter are left as texts");
        else if (comma)
            found.Add("decimal commas");
        comma = comma && !columns.Any(c => c.IsPoint && !c.Is(c._commas));
        var thousands = columns.Any(c =>
            comma ? c.Is(c._commas) && c._commaGroups : c.Is(c._points) && c._pointGroups && !c.IsComma
        );
        var nothings = columns.Where(c => c.HasType || c._values == 0).SelectMany(c => c._nothings).Distinct().ToList();
        if (nothings.Count > 0)
            found.Add($"texts that mean nothing: {string.Join(", ", nothings.Select(n => $"“{n}”"))}");
        return new(
            comma ? "," : ".",
            !thousands ? null
                : comma ? "."
                : ",",
            nothings,
            found
        );
    }

    /// <summary>The column as settings say it.</summary>
    public LoadColumn Column(TextRules rules)
    {
        var type =
            Day is not null ? ColumnType.Date
            : IsInt ? ColumnType.Int
            : _zeros == 0 && Is(rules.Decimal == "," ? _commas : _points) ? ColumnType.Decimal
            : Is(_rfcs) || Moment is not null ? ColumnType.Timestamp
            : Is(_uuids) ? ColumnType.Uuid
            : Is(_bools) ? ColumnType.Bool
            : (ColumnType?)null;
        var format = type switch
        {
            ColumnType.Date => Day == Days[0] ? null : Day,
            ColumnType.Timestamp when !Is(_rfcs) => Moment,
            _ => null,
        };
        return new() { Type = type, Format = format };
    }
}
