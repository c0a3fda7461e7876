using System.Globalization;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load;

/// <summary>Turns rows of the source into rows of the target, or says why one does not fit.</summary>
sealed class RowReader
{
    readonly RowSource _source;
    readonly (string Target, int Ordinal, LoadColumn Rule, Expression? Computed)[] _columns;
    readonly RowComputer _computer;

    /// <exception cref="StepFailedException">The source lacks a column that is asked for.</exception>
    public RowReader(LoadSettings settings, RowSource source)
    {
        _source = source;
        var names = source.Names.ToList();
        var wanted = Wanted(settings, source);
        _computer = new(source, settings.Bind);
        var missing = wanted.Where(w => w.Value.Value is null).Select(w => w.Value.From ?? w.Key).Where(f => !names.Contains(f)).ToList();
        if (missing.Count > 0)
        {
            var near = Nearest.Find(missing[0], names);
            throw new StepFailedException("header", $"the header of {source.What} lacks {string.Join(", ", missing.Select(m => $"“{m}”"))}{(near is null ? "" : $"; it has “{near}”")}", $"The header reads: {string.Join(", ", names)}");
        }
        _columns = [.. wanted.Select(w => (w.Key, names.IndexOf(w.Value.From ?? w.Key), w.Value, w.Value.Value is { } text ? RowComputer.Read(w.Key, text) : null))];
    }

    public int Count => _columns.Length;

    /// <summary>The target's columns, by name: as the settings say, or all of the source.</summary>
    /// <exception cref="StepFailedException">Two columns of the source have one name, and nobody says which of them is meant.</exception>
    public static IReadOnlyDictionary<string, LoadColumn> Wanted(LoadSettings settings, RowSource source)
    {
        if (settings.Columns.Count > 0) { return settings.Columns; }
        if (source.Names.GroupBy(n => n).FirstOrDefault(g => g.Count() > 1) is { Key: var twice }) { throw new StepFailedException("header", $"{source.What} has the column “{twice}” twice", "Nothing was loaded. Give the columns other names, or list those that are wanted under “columns”."); }
        return source.Names.ToDictionary(h => h, _ => new LoadColumn());
    }

    /// <summary>Fills <paramref name="row"/> from the source's row; gives the reason when it does not fit.</summary>
    public Reject? Read(object?[] row)
    {
        if (_source.Broken is { } broken) { return broken; }
        if (_source.FieldCount > _source.Names.Count && Enumerable.Range(_source.Names.Count, _source.FieldCount - _source.Names.Count).Any(i => _source[i] is not null))
        {
            return new($"the {_source.RowWord} has {_source.FieldCount} fields, and the header {_source.Names.Count}");
        }
        for (var i = 0; i < _columns.Length; i++)
        {
            var (target, ordinal, rule, computed) = _columns[i];
            object? given;
            if (computed is not null)
            {
                (given, var reason) = _computer.Compute(computed);
                if (reason is not null) { return new($"{target} can't be computed: {reason}", target); }
            }
            else if (ordinal >= _source.FieldCount) { return new($"the {_source.RowWord} has only {_source.FieldCount} fields"); }
            else { given = _source[ordinal]; }
            // An empty text is a value of a text, and of nothing else.
            if (given is null || (given is string { Length: 0 } && (rule.Required || rule.Type is not (null or ColumnType.String))))
            {
                if (rule.Required) { return new($"{target} is empty", target, ""); }
                row[i] = null;
                continue;
            }
            if ((rule.Type is { } type ? Convert(given, type, rule.Format) : given) is not { } value) { return Wrong(target, given, $"is not {(rule.Type == ColumnType.Int ? "an" : "a")} {rule.Type?.ToString().ToLowerInvariant()}"); }
            if (rule.Min is not null || rule.Max is not null)
            {
                if (Number(value) is not { } number) { return Wrong(target, given, "is not a number"); }
                if (number < rule.Min) { return Wrong(target, given, string.Create(CultureInfo.InvariantCulture, $"is below {rule.Min}")); }
                if (number > rule.Max) { return Wrong(target, given, string.Create(CultureInfo.InvariantCulture, $"is above {rule.Max}")); }
            }
            row[i] = value;
        }
        return null;
    }

    static Reject Wrong(string column, object given, string what)
    {
        var value = Shorten.Text(Cells.Text(given), 200);
        return new($"{column} {what}: {value}", column, value);
    }

    /// <summary>The source's fields of a row of the target, as texts: what the target refuses is told as it stood, so that it can be mended and loaded again.</summary>
    public string?[] Fields(object?[] row)
    {
        var fields = new string?[_source.Names.Count];
        for (var i = 0; i < _columns.Length; i++)
        {
            var (_, ordinal, rule, _) = _columns[i];
            if (ordinal < 0 || row[i] is not { } value) { continue; }
            fields[ordinal] = value is DateTime time && rule.Format is { } format ? time.ToString(format, CultureInfo.InvariantCulture) : Cells.Text(value);
        }
        return fields;
    }

    static double? Number(object value) => value switch
    {
        long n => n,
        double d => d,
        ExactNumber n => n.Double,
        string s => double.TryParse(s, NumberStyles.Float, CultureInfo.InvariantCulture, out var parsed) ? parsed : null,
        _ => null,
    };

    // Exact, or null: nothing is rounded, cut or replaced by the nearest value there is.
    static object? Convert(object value, ColumnType type, string? format) => type switch
    {
        ColumnType.Int => value switch
        {
            string text => long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n) ? n : null,
            long => value,
            double d => double.IsInteger(d) && d is >= -9223372036854775808.0 and < 9223372036854775808.0 ? (long)d : null,
            ExactNumber n => n.Whole is { } whole && whole >= long.MinValue && whole <= long.MaxValue ? (long)whole : null,
            bool b => b ? 1L : 0L,
            _ => null,
        },
        ColumnType.Double => value switch
        {
            string text => double.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint | NumberStyles.AllowExponent, CultureInfo.InvariantCulture, out var d) ? d : null,
            double => value,
            long n => (double)n,
            ExactNumber n => double.IsFinite(n.Double) ? n.Double : null,
            _ => null,
        },
        ColumnType.Bool => value switch
        {
            bool => value,
            1L => true,
            0L => false,
            string text => text.ToLowerInvariant() switch { "true" or "t" or "yes" or "y" or "1" => true, "false" or "f" or "no" or "n" or "0" => false, _ => null },
            _ => null,
        },
        ColumnType.Timestamp => value switch
        {
            DateTime t => t,
            DateOnly d => d.ToDateTime(TimeOnly.MinValue, DateTimeKind.Utc),
            string text when format is not null => DateTime.TryParseExact(text, format, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var t) ? t : null,
            string text => TimeText.ParseDateOrTimestamp(text) is { } at ? at.AsDateTimeOffset.UtcDateTime : null,
            _ => null,
        },
        _ => Cells.Text(value),
    };
}
