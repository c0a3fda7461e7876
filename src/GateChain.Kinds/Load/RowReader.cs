using System.Globalization;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load;

/// <summary>Turns rows of the source into rows of the target, or says why one does not fit.</summary>
sealed class RowReader
{
    readonly RowSource _source;
    readonly (string Target, int Ordinal, LoadColumn Rule, Expression? Computed, TimeZoneInfo? Zone)[] _columns;
    readonly RowComputer _computer;
    readonly NumberMarks? _marks;

    /// <exception cref="StepFailedException">The source lacks a column that is asked for.</exception>
    public RowReader(LoadSettings settings, RowSource source)
    {
        _source = source;
        var names = source.Names.ToList();
        var wanted = Wanted(settings, source);
        _computer = new(source, settings.Bind, settings.Numbers);
        _marks = NumberMarks.Of(settings.From.Text);
        var missing = wanted
            .Where(w => w.Value.Value is null)
            .Select(w => w.Value.From ?? w.Key)
            .Where(f => !names.Contains(f))
            .ToList();
        if (missing.Count > 0)
        {
            var near = Nearest.Find(missing[0], names);
            throw new StepFailedException(
                "header",
                $"the header of {source.What} has no {string.Join(", ", missing.Select(m => $"“{m}”"))}"
                    + $"{(near is null ? "" : $"; it has “{near}”")}",
                $"The header reads: {string.Join(", ", names)}"
            );
        }
        _columns =
        [
            .. wanted.Select(w =>
                (
                    w.Key,
                    names.IndexOf(w.Value.From ?? w.Key),
                    w.Value,
                    w.Value.Value is { } text ? RowComputer.Read(w.Key, text) : null,
                    ZoneOf(w.Key, w.Value)
                )
            ),
        ];
    }

    static TimeZoneInfo? ZoneOf(string column, LoadColumn rule) =>
        rule.Zone is not { } name ? null
        : TimeZoneInfo.TryFindSystemTimeZoneById(name, out var zone) ? zone
        : throw new StepFailedException(
            "setting",
            $"column “{column}”: there is no time zone “{name}”",
            "Zones are named as in Europe/Berlin."
        );

    public int Count => _columns.Length;

    /// <summary>The target's columns, by name: as the settings say, or all of the source.</summary>
    /// <exception cref="StepFailedException">Two columns of the source have one name, and nobody says which of them is
    /// meant.</exception>
    public static IReadOnlyDictionary<string, LoadColumn> Wanted(LoadSettings settings, RowSource source)
    {
        if (settings.Columns.Count > 0)
            return settings.Columns;
        if (source.Names.GroupBy(n => n).FirstOrDefault(g => g.Count() > 1) is { Key: var twice })
        {
            throw new StepFailedException(
                "header",
                $"{source.What} has the column “{twice}” twice",
                "Nothing was loaded. Give the columns other names, or list those that are wanted under “columns”."
            );
        }
        return source.Names.ToDictionary(h => h, _ => new LoadColumn());
    }

    /// <summary>Fills <paramref name="row"/> from the source's row; gives the reason when it does not fit.</summary>
    public Reject? Read(object?[] row)
    {
        if (_source.Misfit is { } misfit)
            return misfit;

        for (var i = 0; i < _columns.Length; i++)
        {
            var (target, ordinal, rule, computed, zone) = _columns[i];
            object? given;
            if (computed is not null)
            {
                (given, var reason) = _computer.Compute(computed);
                if (reason is not null)
                    return new($"{target} can't be computed: {reason}", target);
            }
            else if (ordinal >= _source.FieldCount)
            {
                return new($"the {_source.RowWord} has only {_source.FieldCount} fields");
            }
            else
            {
                try
                {
                    given = _source[ordinal];
                }
                // What the source's own driver can't give.
                catch (Exception e) when (e is FormatException or OverflowException or InvalidCastException)
                {
                    return new($"{target} can't be read: {e.Message}", target);
                }
            }
            // An empty text is a value of a text, and of nothing else.
            if (
                given is null
                || (given is string { Length: 0 } && (rule.Required || rule.Type is not (null or ColumnType.String)))
            )
            {
                if (rule.Required)
                    return new($"{target} is empty", target, "");
                row[i] = null;
                continue;
            }
            if (Convert(given, rule, zone) is not { } value)
            {
                return Wrong(
                    target,
                    given,
                    $"is not {Article.Of(rule.Type!.Value.ToString().ToLowerInvariant())}"
                        + $"{(rule.Scale is { } scale ? $" with {scale} digits after the decimal point" : "")}"
                        + $"{(rule.Zone is { } named ? $" of {named}" : "")}"
                );
            }
            if (rule.Min is not null || rule.Max is not null)
            {
                if (Number(value) is not { } number)
                    return Wrong(target, given, "is not a number");
                if (number < rule.Min)
                    return Wrong(target, given, string.Create(CultureInfo.InvariantCulture, $"is below {rule.Min}"));
                if (number > rule.Max)
                    return Wrong(target, given, string.Create(CultureInfo.InvariantCulture, $"is above {rule.Max}"));
            }
            row[i] = value;
        }
        return null;
    }

    static bool IsNumber(ColumnType? type) => type is ColumnType.Int or ColumnType.Double or ColumnType.Decimal;

    object? Convert(object given, LoadColumn rule, TimeZoneInfo? zone)
    {
        if (rule.Type is not { } type)
            return given;
        if (_marks is not null && IsNumber(type) && given is string text)
            return _marks.Plain(text) is { } plain ? ColumnConversion.Convert(plain, type, rule, zone) : null;
        if (ColumnConversion.Convert(given, type, rule, zone) is { } value)
            return value;
        foreach (var format in rule.Formats)
        {
            if (ColumnConversion.Convert(given, type, rule with { Format = format }, zone) is { } other)
                return other;
        }
        return null;
    }

    static Reject Wrong(string column, object given, string what)
    {
        var value = Shorten.Text(Cells.Text(given), 200);
        return new($"{column} {what}: {value}", column, value);
    }

    /// <summary>
    /// The source's fields of a row of the target, as texts: what the target refuses is told as it stood, so that it
    /// can be fixed and loaded again.
    /// </summary>
    public string?[] Fields(object?[] row)
    {
        var fields = new string?[_source.Names.Count];
        for (var i = 0; i < _columns.Length; i++)
        {
            var (_, ordinal, rule, _, zone) = _columns[i];
            if (ordinal < 0 || row[i] is not { } value)
                continue;
            var local = value is DateTime at && zone is not null ? TimeZoneInfo.ConvertTime(at, zone) : value;
            fields[ordinal] =
                local is DateTime or DateOnly or TimeOnly && rule.Format is { } format
                    ? ((IFormattable)local).ToString(format, CultureInfo.InvariantCulture)
                : local is DateTime time && zone is not null
                    ? time.ToString("yyyy-MM-ddTHH:mm:ss.FFFFFF", CultureInfo.InvariantCulture)
                : _marks is not null && IsNumber(rule.Type) ? _marks.Written(Cells.Text(value))
                : Cells.Text(value);
        }
        return fields;
    }

    static double? Number(object value) =>
        value switch
        {
            long n => n,
            double d => d,
            ExactNumber n => n.Double,
            string s => double.TryParse(s, NumberStyles.Float, CultureInfo.InvariantCulture, out var parsed)
                ? parsed
                : null,
            _ => null,
        };
}
