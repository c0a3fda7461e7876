using System.Data.Common;
using System.Globalization;

namespace GateChain.Kinds.Data;

/// <summary>
/// Reads values of DuckDB, and so of Parquet files. What its driver has no exact type for is asked for as a text.
/// </summary>
static class DuckDbText
{
    // Told apart by the names that their columns get.
    const string AsNumber = "\u0001number",
        AsJson = "\u0001json",
        AsTime = "\u0001time",
        AsText = "\u0001text";

    /// <summary>The query with the columns that need it as texts.</summary>
    /// <param name="columns">What it gives: names and types.</param>
    /// <param name="query">The query.</param>
    public static string Readable(IReadOnlyList<(string Name, string Type)> columns, string query)
    {
        if (columns.All(c => Form(c.Type) is null))
            return query;
        // By place: two columns may have one name.
        var names = string.Join(", ", columns.Select((_, i) => $"c{i}"));
        return $"SELECT {string.Join(", ", columns.Select((c, i) => Select(c, $"c{i}")))} FROM ("
            + $"{query.TrimEnd().TrimEnd(';')}) AS q({names})";
    }

    static string Select((string Name, string Type) column, string source) =>
        Form(column.Type) switch
        {
            null => $"{source} AS {Quote(column.Name)}",
            AsJson => $"to_json({source})::VARCHAR AS {Quote(column.Name + AsJson)}",
            var form => $"{source}::VARCHAR AS {Quote(column.Name + form)}",
        };

    static string? Form(string type) =>
        type.EndsWith(']')
        || type.StartsWith("STRUCT", StringComparison.Ordinal)
        || type.StartsWith("MAP", StringComparison.Ordinal)
        || type.StartsWith("UNION", StringComparison.Ordinal)
        || type == "JSON"
            ? AsJson
        : type.StartsWith("DECIMAL", StringComparison.Ordinal) || type is "HUGEINT" or "UHUGEINT" ? AsNumber + type
        : type == "TIME" ? AsTime
        : type is "INTERVAL" or "BIT" or "TIMETZ" or "TIME WITH TIME ZONE" or "TIMESTAMP_NS" ? AsText
        : null;

    static string Quote(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    /// <summary>The name of a column as its query has it.</summary>
    public static string NameOf(string name) =>
        name.IndexOf('\u0001', StringComparison.Ordinal) is >= 0 and var at ? name[..at] : name;

    /// <summary>What the values of a column are; null when the driver's own word tells.</summary>
    public static CellType? TypeOf(string name) =>
        name.IndexOf(AsNumber, StringComparison.Ordinal) is >= 0 and var at
            ? CellType.Of(name[(at + AsNumber.Length)..])
        : name.EndsWith(AsJson, StringComparison.Ordinal) ? new(CellKind.Json)
        : name.EndsWith(AsTime, StringComparison.Ordinal) ? new(CellKind.Time)
        : name.EndsWith(AsText, StringComparison.Ordinal) ? new(CellKind.Text)
        : null;

    /// <summary>Reads columns of the row at hand.</summary>
    public static Func<int, object?> Cell(DbDataReader reader)
    {
        CellType?[] types = [.. Enumerable.Range(0, reader.FieldCount).Select(i => TypeOf(reader.GetName(i)))];
        return column =>
            reader.IsDBNull(column)
                ? null
                : types[column]?.Kind switch
                {
                    CellKind.Decimal => ExactNumber.Read(reader.GetString(column)),
                    CellKind.Json => new JsonText(reader.GetString(column)),
                    CellKind.Time => TimeOnly.TryParseExact(
                        reader.GetString(column),
                        "HH:mm:ss.FFFFFF",
                        CultureInfo.InvariantCulture,
                        DateTimeStyles.None,
                        out var time
                    )
                        ? time
                        : reader.GetString(column),
                    CellKind.Text => reader.GetString(column),
                    _ => Cells.Of(reader.GetValue(column)),
                };
    }
}
