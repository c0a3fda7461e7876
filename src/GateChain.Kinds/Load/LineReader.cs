using System.Globalization;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using Sylvan.Data.Csv;

namespace GateChain.Kinds.Load;

/// <summary>A column of the table and the field of the file it comes from.</summary>
sealed record LineColumn(string Target, int Ordinal, LoadColumn Rule);

/// <summary>Turns lines into rows, or says why a line does not fit.</summary>
static class LineReader
{
    /// <summary>Matches settings, header and table; null and the failure when they do not go together.</summary>
    public static (IReadOnlyList<LineColumn>? Columns, AttemptResult? Failure) Columns(LoadSettings settings, CsvDataReader reader, HashSet<string> table)
    {
        if (table.Count == 0) { return (null, AttemptResult.Fail("no-table", $"there is no table “{settings.Into.Table}” in “{settings.Into.Connection}”", "Create it, for example with a sql step before this one.")); }
        var header = Enumerable.Range(0, reader.FieldCount).Select(reader.GetName).ToList();
        var wanted = settings.Columns.Count > 0 ? settings.Columns : header.ToDictionary(h => h, _ => new LoadColumn());
        var missing = wanted.Select(w => w.Value.From ?? w.Key).Where(f => !header.Contains(f)).ToList();
        if (missing.Count > 0)
        {
            var near = Nearest.Find(missing[0], header);
            return (null, AttemptResult.Fail("header", $"the header of {settings.From.Csv} lacks {string.Join(", ", missing.Select(m => $"“{m}”"))}{(near is null ? "" : $"; it has “{near}”")}",
                $"The header reads: {string.Join(", ", header)}"));
        }
        var unknown = wanted.Keys.Where(k => !table.Contains(k)).ToList();
        if (unknown.Count > 0)
        {
            return (null, AttemptResult.Fail("columns", $"the table “{settings.Into.Table}” has no column {string.Join(", ", unknown.Select(u => $"“{u}”"))}", $"Its columns: {string.Join(", ", table)}"));
        }
        return ([.. wanted.Select(w => new LineColumn(w.Key, header.IndexOf(w.Value.From ?? w.Key), w.Value))], null);
    }

    /// <summary>Fills <paramref name="values"/> from the reader's line; gives the reason when the line does not fit.</summary>
    public static string? Read(CsvDataReader reader, IReadOnlyList<LineColumn> columns, object[] values)
    {
        for (var i = 0; i < columns.Count; i++)
        {
            var column = columns[i];
            if (column.Ordinal >= reader.RowFieldCount) { return $"the line has only {reader.RowFieldCount} fields"; }
            var text = reader.GetString(column.Ordinal);
            if (text.Length == 0)
            {
                if (column.Rule.Required) { return $"{column.Target} is empty"; }
                values[i] = DBNull.Value;
                continue;
            }
            if (Convert(text, column.Rule) is not { } value) { return $"{column.Target} is not a {column.Rule.Type.Word()}: {text}"; }
            if (value is long or double && System.Convert.ToDouble(value, CultureInfo.InvariantCulture) is var number)
            {
                if (number < column.Rule.Min) { return $"{column.Target} is below {column.Rule.Min}: {text}"; }
                if (number > column.Rule.Max) { return $"{column.Target} is above {column.Rule.Max}: {text}"; }
            }
            values[i] = value;
        }
        return null;
    }

    static object? Convert(string text, LoadColumn rule) => rule.Type switch
    {
        ColumnType.Int => long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n) ? n : null,
        ColumnType.Double => double.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var d) ? d : null,
        ColumnType.Bool => text switch { "true" or "1" => 1L, "false" or "0" => 0L, _ => null },
        ColumnType.Timestamp => TimeText.ParseDateOrTimestamp(text) is { } at ? ValueText.ToPlainString(at) : null,
        _ => text,
    };
}
