using System.Globalization;
using System.Text;
using System.Text.Json;
using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

/// <summary>
/// Every type, with values at its edges, from every source into every target, as a table that is made for it. What
/// arrives is asked of the target's own client and compared with what was there; the outcome is the table of
/// <c>docs/kinds/types.md</c>.
/// </summary>
public sealed partial class TypeMatrixTests(Servers.Databases databases) : LoadBench(databases)
{
    static readonly string[] Sources = ["sqlite", "postgresql", "mysql", "duckdb", "csv", "jsonl", "parquet", "xlsx"];
    static readonly string[] Targets = ["sqlite", "postgresql", "mysql", "duckdb", "csv", "jsonl", "parquet"];

    /// <summary>
    /// A type, its values in the form that files have them, and its name in the databases that have it.
    /// </summary>
    sealed record Sort(
        string Name,
        string Column,
        string[] Values,
        string? Sqlite,
        string? PostgreSql,
        string? MySql,
        string? DuckDb,
        string? FileType = null
    )
    {
        public string? In(string database) =>
            database switch
            {
                "sqlite" => Sqlite,
                "postgresql" => PostgreSql,
                "mysql" => MySql,
                "duckdb" or "parquet" => DuckDb,
                _ => null,
            };
    }

    static readonly Sort[] Sorts =
    [
        new(
            "text",
            "c_text",
            ["", " x ", "NULL", "a\tb\\n\"ö\U0001f42e", "x\ny"],
            "text",
            "text",
            "text CHARACTER SET utf8mb4",
            "varchar"
        ),
        new(
            "int, to 64 bits",
            "c_int",
            ["0", "-9223372036854775808", "9223372036854775807"],
            "integer",
            "bigint",
            "bigint",
            "bigint",
            "int"
        ),
        new(
            "int beyond",
            "c_big",
            ["18446744073709551615", "9223372036854775808"],
            null,
            "numeric(20,0)",
            "bigint unsigned",
            "ubigint",
            "decimal"
        ),
        new(
            "decimal",
            "c_dec",
            ["1.10", "-0.01", "99999999999999999999.999999"],
            null,
            "numeric(26,6)",
            "decimal(26,6)",
            "decimal(26,6)",
            "decimal"
        ),
        new(
            "decimal, of 38 digits",
            "c_dec38",
            ["0.00000000000000000000000000000000000001", "-1234567890123456789012345678.0123456789"],
            null,
            "numeric",
            "decimal(65,38)",
            null,
            "decimal"
        ),
        new(
            "double",
            "c_double",
            ["0.1", "1E-300", "1.7976931348623157E+308", "-0.5"],
            "real",
            "double precision",
            "double",
            "double",
            "double"
        ),
        new(
            "double that is no number",
            "c_nan",
            ["NaN", "Infinity", "-Infinity"],
            null,
            "double precision",
            null,
            "double"
        ),
        new("bool", "c_bool", ["true", "false"], null, "boolean", null, "boolean", "bool"),
        new("date", "c_date", ["2024-02-29", "1000-01-01", "9999-12-31"], null, "date", "date", "date", "date"),
        new("time", "c_time", ["00:00:00", "23:59:59.123456"], null, "time", "time(6)", "time", "time"),
        new(
            "timestamp",
            "c_ts",
            ["2024-02-29T01:02:03.123456Z", "1970-01-01T00:00:00Z"],
            null,
            "timestamp",
            "datetime(6)",
            "timestamp",
            "timestamp"
        ),
        new("timestamp with zone", "c_tz", ["2024-02-29T01:02:03.123456Z"], null, "timestamptz", null, "timestamptz"),
        new("interval", "c_interval", ["1 year 2 mons 3 days 04:05:06.789"], null, "interval", null, null),
        new("bytes", "c_bytes", ["AP8K", ""], "blob", "bytea", "varbinary(20)", "blob", "bytes"),
        new("uuid", "c_uuid", ["a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11"], null, "uuid", null, "uuid", "uuid"),
        new("JSON", "c_json", ["{\"a\":[1,null,\"x\"]}"], null, "jsonb", null, "json", "json"),
        new("list", "c_list", ["[1,null,3]"], null, "int[]", null, "integer[]"),
    ];

    static string[] OfSource(Sort sort, string source) =>
        source switch
        {
            // A workbook has binary numbers and texts; an empty cell is nothing there.
            "xlsx" => [.. sort.Values.Where(v => v.Length > 0 && v != "x\ny")],
            // A field of a CSV file that is empty is nothing for every type but text.
            "csv" when sort.Name == "bytes" => [.. sort.Values.Where(v => v.Length > 0)],
            "jsonl" when sort.Name == "bytes" => [.. sort.Values.Where(v => v.Length > 0)],
            _ => sort.Values,
        };

    static bool Has(string source, Sort sort) =>
        source switch
        {
            "csv" or "jsonl" or "xlsx" => sort.FileType is not null || sort.Name == "text",
            _ => sort.In(source) is not null,
        };

    [Fact]
    public async Task TheTableOfTypesIsWhatHappens()
    {
        var outcomes = new Dictionary<(string Sort, string Source), Dictionary<string, string>>();
        foreach (var source in Sources)
        {
            var sorts = Sorts.Where(s => Has(source, s)).ToArray();
            var rows = sorts.SelectMany(s => OfSource(s, source).Select(v => (Sort: s, Value: v))).ToArray();
            var from = await SourceAsync(source, sorts, rows);
            foreach (var target in Targets)
            {
                var name = $"{Table}_{source}_{target}";
                var columns = source is "csv" or "jsonl" or "xlsx"
                    ? $", \"columns\": {{\"nth\": {{\"type\": \"int\"}}, "
                        + string.Join(
                            ", ",
                            sorts.Select(s =>
                                $"\"{s.Column}\": {{{(s.FileType is null ? "" : $"\"type\": \"{s.FileType}\"")}}}"
                            )
                        )
                        + $"}}"
                    : "";
                Connect(target is "csv" or "jsonl" or "parquet" ? "duckdb" : target, "into");
                var into = target is "csv" or "jsonl" or "parquet"
                    ? $$"""{"{{target}}": "{{name}}.{{target}}"}"""
                    : $$"""{"connection": "into", "table": "{{name}}", "create": true}""";
                var result = await LoadAsync(
                    from,
                    into,
                    columns + $$""", "reject": {"limit": 100, "file": "{{name}}.bad"}"""
                );
                Assert.True(
                    result.Error is null,
                    $"{source} → {target}: {result.Error?.Message}\n{result.Error?.Detail}"
                );
                var arrived = await ReadAsync(target, name, sorts);
                var rejected = File.Exists(Bench[name + ".bad"])
                    ? File.ReadAllLines(Bench[name + ".bad"])
                        .Skip(1)
                        .Select(l =>
                            int.Parse(l.Split(',')[1], CultureInfo.InvariantCulture)
                            - (source is "csv" or "xlsx" ? 1 : 0)
                        )
                        .ToHashSet()
                    : [];
                foreach (var sort in sorts)
                {
                    var seen = Enumerable
                        .Range(0, rows.Length)
                        .Where(i => rows[i].Sort == sort)
                        .Select(i =>
                            Outcome(
                                sort,
                                rows[i].Value,
                                rejected.Contains(i + 1) ? null : arrived.GetValueOrDefault(i + 1)?[sort.Column],
                                rejected.Contains(i + 1),
                                arrived.GetValueOrDefault(i + 1),
                                sort.Column
                            )
                        )
                        .Distinct()
                        .ToList();
                    var key = (sort.Name, source);
                    outcomes.TryAdd(key, []);
                    outcomes[key][target] = seen.All(o => o.StartsWith("reject", StringComparison.Ordinal))
                        ? "reject"
                        : string.Join("; ", seen.OrderBy(o => o != "exact"));
                }
            }
        }
        var wrong = outcomes
            .SelectMany(o =>
                o.Value.Where(v =>
                        v.Value.Contains("changed", StringComparison.Ordinal)
                        || v.Value.Contains("lost", StringComparison.Ordinal)
                    )
                    .Select(v => $"{o.Key} to {v.Key}: {v.Value}")
            )
            .ToList();
        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
        MadeDocs.Hold("docs/kinds/types.md", Made(outcomes));
    }

    // What an expression can hold of them is a value, and what it can't is told with the column; nothing is a mistake
    // of the kind.
    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgresql")]
    [InlineData("mysql")]
    [InlineData("duckdb")]
    public async Task EveryTypeIsAValueOfAQueryOrToldWithItsColumn(string database)
    {
        var sorts = Sorts.Where(s => Has(database, s)).ToArray();
        await TableAsync(database, $"{Table}_q", sorts, [.. sorts.SelectMany(s => s.Values.Select(v => (s, v)))]);
        foreach (var sort in sorts)
        {
            foreach (var numbers in (string[])["near", "exact"])
            {
                var result = await Bench.RunAsync(
                    new SqlKind(),
                    $$"""{"connection": "made", "query": "SELECT {{sort.Column}} FROM {{Table}}_q ORDER BY nth", "give": "rows", "numbers": "{{numbers}}"}"""
                );
                if (result.Error is { } error)
                {
                    Assert.True(
                        error.Code == "type"
                            && error.Message.Contains(sort.Column, StringComparison.Ordinal)
                            && sort.Name is "interval" or "list" or "decimal, of 38 digits",
                        $"{sort.Name}: {error.Message}"
                    );
                }
                else
                {
                    Assert.DoesNotContain("System.", ValueJson.ToText(result.Outputs), StringComparison.Ordinal);
                }
            }
        }
    }

    static string Made(Dictionary<(string Sort, string Source), Dictionary<string, string>> outcomes)
    {
        var text = new StringBuilder(
            "| type | from | "
                + string.Join(" | ", Targets.Select(Title))
                + " |\n| --- | --- |"
                + string.Concat(Targets.Select(_ => " --- |"))
                + "\n"
        );
        foreach (var sort in Sorts)
        {
            // Sources that fare alike share a line.
            foreach (
                var alike in Sources
                    .Where(s => outcomes.ContainsKey((sort.Name, s)))
                    .GroupBy(s => string.Join(" | ", Targets.Select(t => outcomes[(sort.Name, s)][t])))
            )
            {
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"| {sort.Name} | {string.Join(", ", alike.Select(Title))} | {alike.Key} |\n"
                );
            }
        }
        return text.ToString().TrimEnd('\n');
    }

    static string Title(string place) =>
        place switch
        {
            "sqlite" => "SQLite",
            "postgresql" => "PostgreSQL",
            "mysql" => "MariaDB",
            "duckdb" => "DuckDB",
            "csv" => "CSV",
            "jsonl" => "JSON Lines",
            "parquet" => "Parquet",
            _ => "Excel",
        };

    // Of a value: as it was, refused in a reject, or something that must never be.
    static string Outcome(
        Sort sort,
        string value,
        string? found,
        bool rejected,
        Dictionary<string, string?>? row,
        string column
    )
    {
        if (rejected)
            return $"reject: {Short(value)}";
        if (row is null)
            return $"lost: {Short(value)}";
        // In no other column is anything.
        if (row.Any(c => c.Key != column && c.Key != "nth" && c.Value is not null))
            return $"changed: {Short(value)} stands elsewhere too";
        return found is not null && Plain(sort, found) == Plain(sort, value)
            ? "exact"
            : $"changed: {Short(value)} to {Short(found ?? "nothing")}";
    }

    static string Short(string text) => text.Length > 24 ? text[..24] + "…" : text;
}
