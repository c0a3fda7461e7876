using System.Globalization;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// How far loads have got in a source, by a column that grows: where this one begins, and the largest value that it
/// meets. Used by one thread.
/// </summary>
sealed class Position
{
    readonly LoadSince _since;
    object? _most;

    Position(LoadSince since, AttemptContext context)
    {
        (_since, Kept) = (since, context.Position(since.Keep));
        Begin = Kept is { } kept && since.Back is { } back ? Earlier(kept, back) : Kept;
    }

    /// <summary>That of a source; null for one that is always read as a whole.</summary>
    /// <exception cref="StepFailedException">It can't go with how the target is written.</exception>
    public static Position? Of(LoadFrom from, LoadInto into, AttemptContext context)
    {
        if (from.Since is not { } since)
            return null;
        if (!since.Once && into is { Connection: not null, IsByKey: false, IsEmptied: false })
        {
            throw new StepFailedException(
                "setting",
                "“from.since” reads the rows at its kept value again, and mode append would add them twice",
                "Use upsert, insert or history with a key; or say once: true where each value stands in one row only."
            );
        }
        if (into.Mode == LoadMode.Mirror || into.Gone == LoadGone.Close)
        {
            throw new StepFailedException(
                "setting",
                "with “from.since” only new rows are read, and all others would count as gone",
                "Use upsert, or history with gone: keep; a mirror is loaded from a whole source."
            );
        }
        var position = new Position(since, context);
        if (position.Begin is { } begin)
        {
            context.Log.Note($"rows since {since.Column} {ValueText.ToPlainString(begin)}, as “{since.Keep}” says");
        }
        return position;
    }

    /// <summary>The name that it is kept under.</summary>
    public string Name => _since.Keep;

    /// <summary>The column.</summary>
    public string Column => _since.Column;

    /// <summary>Where the last load got to; null for the first one.</summary>
    public Value? Kept { get; }

    /// <summary>Where this one begins; null to read all.</summary>
    public Value? Begin { get; }

    /// <summary>Where this one has got to; null when nothing was ever read.</summary>
    public Value? Reached => _most is { } most ? ValueOf(most) : Kept;

    /// <summary>A query for those rows of another one that this load reads.</summary>
    public (string Query, IReadOnlyList<KeyValuePair<string, Value>> Bind) Limit(string query, Dialect dialect)
    {
        if (Begin is not { } begin)
            return (query, []);
        var (column, text) = (dialect.Quote(_since.Column), Literal(begin, dialect));
        var rows = query.TrimEnd().TrimEnd(';');
        return (
            $"SELECT * FROM ({rows}\n) AS gatechain_since WHERE {column} {(_since.Once ? ">" : ">=")} "
                + (text ?? $"${Parameter}")
                + (_since.Once ? "" : $" OR {column} IS NULL"),
            text is null ? [KeyValuePair.Create(Parameter, begin)] : []
        );
    }

    const string Parameter = "gatechain_begin";

    /// <summary>A row was read with this cell in the column.</summary>
    /// <exception cref="StepFailedException">Nobody can say which of two such cells is larger.</exception>
    public void See(object? cell)
    {
        if (cell is null)
            return;
        var value = Comparable(cell);
        if (_most is null || Compare(value, _most) > 0)
            _most = value;
    }

    object Comparable(object cell) =>
        cell switch
        {
            long n => (decimal)n,
            ExactNumber { Decimal: { } exact } => exact,
            DateOnly date => date.ToDateTime(TimeOnly.MinValue, DateTimeKind.Utc),
            DateTime or string or double => cell,
            _ => throw new StepFailedException(
                "since",
                $"the column “{_since.Column}” has {Cells.Text(cell)}, and nobody can tell what is later than that",
                "A column that loads go on from has numbers, dates, timestamps or texts that are in order."
            ),
        };

    int Compare(object a, object b) =>
        (a, b) switch
        {
            (string x, string y) => string.CompareOrdinal(x, y),
            (DateTime x, DateTime y) => x.CompareTo(y),
            (decimal or double, decimal or double) => a is double || b is double
                ? Convert
                    .ToDouble(a, CultureInfo.InvariantCulture)
                    .CompareTo(Convert.ToDouble(b, CultureInfo.InvariantCulture))
                : ((decimal)a).CompareTo((decimal)b),
            _ => throw new StepFailedException(
                "since",
                $"the column “{_since.Column}” has values of several types: {a} and {b}"
            ),
        };

    static Value ValueOf(object most) =>
        most switch
        {
            decimal n when decimal.IsInteger(n) && n is >= long.MinValue and <= long.MaxValue => Value.Int((long)n),
            decimal n => Value.Decimal(Decimal38.Parse(n.ToString(CultureInfo.InvariantCulture))!),
            double n => Value.Double(n),
            DateTime at => Value.Timestamp(new DateTimeOffset(DateTime.SpecifyKind(at, DateTimeKind.Utc))),
            _ => Value.String((string)most),
        };

    // As it is written in a statement, for it to have the column's type; null for a text.
    static string? Literal(Value value, Dialect dialect) =>
        value.Kind switch
        {
            ValueKind.Int or ValueKind.Uint or ValueKind.Double or ValueKind.Decimal => ValueText.ToPlainString(value),
            // For a column of dates, too.
            ValueKind.Timestamp when value.AsDateTimeOffset.UtcDateTime is { TimeOfDay.Ticks: 0 } day =>
                $"'{day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}'",
            ValueKind.Timestamp => dialect.Moment(value.AsDateTimeOffset),
            // A moment that a person has set: the database reads it as its column is.
            ValueKind.String when value.AsString.All(c => char.IsAsciiDigit(c) || "-:. TZ+".Contains(c)) =>
                $"'{value.AsString}'",
            _ => null,
        };

    Value Earlier(Value kept, string back)
    {
        if (TimeText.ParseSetting(back) is { } span)
        {
            switch (kept.Kind)
            {
                case ValueKind.Timestamp:
                    return Value.Timestamp(kept.AsDateTimeOffset - span);
                case ValueKind.String
                    when DateTime.TryParse(
                        kept.AsString,
                        CultureInfo.InvariantCulture,
                        DateTimeStyles.AdjustToUniversal | DateTimeStyles.AssumeUniversal,
                        out var at
                    ):
                    return Value.String(Like(kept.AsString, at - span));
            }
        }
        else if (
            decimal.TryParse(back, NumberStyles.Number, CultureInfo.InvariantCulture, out var less)
            && kept.Kind is ValueKind.Int or ValueKind.Decimal or ValueKind.Double
        )
        {
            return ValueOf(
                Comparable(ExactNumber.Read(ValueText.ToPlainString(kept)) ?? 0L) is decimal n
                    ? n - less
                    : kept.AsDouble - (double)less
            );
        }
        throw new StepFailedException(
            "since",
            $"from {ValueText.ToPlainString(kept)}, which “{Name}” keeps, nobody can look back by “{back}”",
            "A span such as 10m goes with times, a number with numbers."
        );
    }

    // A text compares with texts of its own form only.
    static string Like(string text, DateTime at)
    {
        var form = text.Length switch
        {
            10 => "yyyy-MM-dd",
            16 => "yyyy-MM-dd HH:mm",
            19 or 20 => "yyyy-MM-dd HH:mm:ss",
            _ => "yyyy-MM-dd HH:mm:ss.fffffff",
        };
        var written = at.ToString(form, CultureInfo.InvariantCulture);
        return text.Contains('T', StringComparison.Ordinal)
            ? $"{written.Replace(' ', 'T')}{(text.EndsWith('Z') ? "Z" : "")}"
            : written;
    }
}
