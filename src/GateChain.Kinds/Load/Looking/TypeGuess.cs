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

    static readonly string[] Days = ["yyyy-MM-dd", "dd.MM.yyyy", "d.M.yyyy", "dd/MM/yyyy", "MM/dd/yyyy", "yyyyMMdd", "dd.MM.yy"];

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

    readonly List<string> _days = [.. Days],
        _moments = [.. Moments];
    readonly HashSet<string> _nothings = [];
    readonly List<string> _examples = [];
    bool _int = true,
        _point = true,
        _comma = true,
        _bool = true,
        _uuid = true,
        _rfc = true,
        _pointSeen,
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
        _int = _int && Whole.IsMatch(text) && long.TryParse(text, CultureInfo.InvariantCulture, out _);
        _point = _point && WithPoint.IsMatch(text);
        _comma = _comma && WithComma.IsMatch(text);
        _pointSeen |= text.Contains('.');
        _commaSeen |= text.Contains(',');
        _pointGroups |= _point && text.Contains(',');
        _commaGroups |= _comma && text.Contains('.');
        _bool = _bool && text.ToLowerInvariant() is "true" or "false" or "yes" or "no";
        _uuid = _uuid && Guid.TryParseExact(text, "D", out _);
        _rfc = _rfc && text.Contains('T') && TimeText.ParseDateOrTimestamp(text) is not null;
        _days.RemoveAll(f => !IsDay(text, f));
        _moments.RemoveAll(f =>
            !DateTime.TryParseExact(text, f, CultureInfo.InvariantCulture, DateTimeStyles.None, out _)
        );
    }

    bool IsComma => _values > 0 && _comma && _commaSeen && !_int;

    bool IsPoint => _values > 0 && _point && _pointSeen && !_int;

    bool HasType => _values > 0 && (_int || _point || _comma || _uuid || _rfc || _days.Count + _moments.Count > 0);

    /// <summary>What the columns of a file say together.</summary>
    public static TextRules Rules(IReadOnlyList<TypeGuess> columns)
    {
        var found = new List<string>();
        // Where only one way of writing fits some column.
        var comma = columns.Any(c => c.IsComma && !c._point) || (columns.Any(c => c.IsComma) && !columns.Any(c => c.IsPoint));
        if (comma && columns.Any(c => c.IsPoint && !c._comma))
            found.Add("numbers with decimal points and with decimal commas: the latter are left as texts");
        else if (comma)
            found.Add("decimal commas");
        comma = comma && !columns.Any(c => c.IsPoint && !c._comma);
        var thousands = columns.Any(c => comma ? c._comma && c._commaGroups : c._point && c._pointGroups && !c.IsComma);
        var nothings = columns.Where(c => c.HasType || c._values == 0).SelectMany(c => c._nothings).Distinct().ToList();
        if (nothings.Count > 0)
            found.Add($"texts that mean nothing: {string.Join(", ", nothings.Select(n => $"“{n}”"))}");
        return new(comma ? "," : ".", !thousands ? null : comma ? "." : ",", nothings, found);
    }

    /// <summary>The column as settings say it.</summary>
    public LoadColumn Column(TextRules rules)
    {
        var type =
            _values == 0 ? (ColumnType?)null
            : _days.Count > 0 && !(_int && _days is ["yyyyMMdd"]) ? ColumnType.Date
            : _int ? ColumnType.Int
            : (rules.Decimal == "," ? _comma : _point) ? ColumnType.Decimal
            : _rfc || _moments.Count > 0 ? ColumnType.Timestamp
            : _uuid ? ColumnType.Uuid
            : _bool ? ColumnType.Bool
            : null;
        var format = type switch
        {
            ColumnType.Date => _days[0] == "yyyy-MM-dd" ? null : _days[0],
            ColumnType.Timestamp when !_rfc => _moments[0],
            _ => null,
        };
        return new() { Type = type, Format = format };
    }
}
