using System.Globalization;
using System.Text;
using System.Text.Json;
using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

public sealed partial class TypeMatrixTests
{
    // One form of a value, whatever a client writes it in.
    static string Plain(Sort sort, string text)
    {
        switch (sort.Column)
        {
            case "c_dec" or "c_dec38" or "c_big":
                if (ExactNumber.Read(text) is not { } number)
                    return text;
                var digits = number is long n ? n.ToString(CultureInfo.InvariantCulture) : ((ExactNumber)number).Text;
                if (digits.Contains('E', StringComparison.OrdinalIgnoreCase))
                {
                    digits = decimal.Parse(digits, NumberStyles.Float, CultureInfo.InvariantCulture)
                        .ToString(CultureInfo.InvariantCulture);
                }
                return digits.Contains('.', StringComparison.Ordinal) ? digits.TrimEnd('0').TrimEnd('.') : digits;
            case "c_double":
                return double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var d)
                    ? Cells.Double(d)
                    : text;
            case "c_nan":
                return text.ToLowerInvariant()
                    .Replace("-nan", "nan", StringComparison.Ordinal)
                    .Replace("infinity", "inf", StringComparison.Ordinal);
            case "c_bool":
                return text switch
                {
                    "1" or "t" => "true",
                    "0" or "f" => "false",
                    _ => text,
                };
            case "c_ts" or "c_tz":
                var plain = text.Replace('T', ' ').TrimEnd('Z');
                plain = plain.EndsWith("+00", StringComparison.Ordinal) ? plain[..^3] : plain;
                return plain.Contains('.', StringComparison.Ordinal) ? plain.TrimEnd('0').TrimEnd('.') : plain;
            case "c_time":
                return text.Contains('.', StringComparison.Ordinal) ? text.TrimEnd('0').TrimEnd('.') : text;
            case "c_list":
                return text.Replace(" ", "", StringComparison.Ordinal)
                    .Replace('{', '[')
                    .Replace('}', ']')
                    .ToLowerInvariant();
            case "c_json":
                return text.Replace(" ", "", StringComparison.Ordinal);
            default:
                return text;
        }
    }

    static string Literal(string database, Sort sort, string value) =>
        (sort.Name, database) switch
        {
            ("bytes", "postgresql") => $"'\\x{Convert.ToHexString(Convert.FromBase64String(value))}'::bytea",
            ("bytes", "duckdb") => $"from_hex('{Convert.ToHexString(Convert.FromBase64String(value))}')",
            ("bytes", _) => $"x'{Convert.ToHexString(Convert.FromBase64String(value))}'",
            ("timestamp", "mysql") => $"'{value.Replace('T', ' ').TrimEnd('Z')}'",
            ("list", "postgresql") => "'{1,NULL,3}'",
            ("list", _) => "[1, NULL, 3]",
            ("text", "mysql") => $"'{value.Replace("\\", "\\\\", StringComparison.Ordinal)}'",
            _ => $"'{value}'",
        };

    // The rows in a source: each has a value in the column of its type, and nothing in the others.
    async Task<string> SourceAsync(string source, Sort[] sorts, (Sort Sort, string Value)[] rows)
    {
        switch (source)
        {
            case "csv":
                static string Field(string? v) =>
                    v is null ? "" : $"\"{v.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
                Bench.Write(
                    "in.csv",
                    $"nth,{string.Join(',', sorts.Select(s => s.Column))}\n"
                        + string.Concat(
                            rows.Select(
                                (r, i) =>
                                    $"{i + 1},"
                                    + $"{string.Join(',', sorts.Select(s => Field(s == r.Sort ? r.Value : null)))}"
                                    + "\n"
                            )
                        )
                );
                return """{"csv": "in.csv"}""";
            case "jsonl":
                static string Json(Sort s, string v) =>
                    s.Column is "c_int" or "c_big" or "c_dec" or "c_dec38" or "c_double" or "c_bool" or "c_json"
                        ? v
                        : JsonSerializer.Serialize(v);
                Bench.Write(
                    "in.jsonl",
                    string.Concat(
                        rows.Select((r, i) => $"{{\"nth\":{i + 1},\"{r.Sort.Column}\":{Json(r.Sort, r.Value)}}}\n")
                    )
                );
                return """{"jsonl": "in.jsonl"}""";
            case "xlsx":
                Workbook.Write(
                    Bench["in.xlsx"],
                    (
                        "Sheet1",
                        [
                            ["nth", .. sorts.Select(s => s.Column)],
                            .. rows.Select(
                                (r, i) => (string[])[$"{i + 1}", .. sorts.Select(s => s == r.Sort ? r.Value : "")]
                            ),
                        ]
                    )
                );
                return """{"xlsx": "in.xlsx"}""";
            case "parquet":
                await TableAsync("duckdb", "made", sorts, rows);
                await RunAsync("made", $"COPY made TO '{Bench["in.parquet"]}' (FORMAT parquet)");
                return """{"parquet": "in.parquet"}""";
            default:
                await TableAsync(source, $"{Table}_{source}", sorts, rows);
                return $$"""{"connection": "made", "query": "SELECT * FROM {{Table}}_{{source}} ORDER BY nth"}""";
        }
    }

    async Task TableAsync(string database, string name, Sort[] sorts, (Sort Sort, string Value)[] rows)
    {
        Connect(database, "made");
        await RunAsync(
            "made",
            $"CREATE TABLE {name} (nth integer, {string.Join(", ", sorts.Select(s => $"{s.Column} {s.In(database)}"))})"
        );
        for (var i = 0; i < rows.Length; i++)
        {
            await RunAsync(
                "made",
                $"INSERT INTO {name} (nth, {rows[i].Sort.Column}) VALUES ({i + 1}, "
                    + $"{Literal(database, rows[i].Sort, rows[i].Value)})"
            );
        }
    }

    async Task RunAsync(string connection, string sql)
    {
        var result = await Bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "{{connection}}", "query": {{JsonSerializer.Serialize(sql)}}}""",
            Guid.NewGuid().ToString("N")
        );
        Assert.True(result.Error is null, $"{sql}: {result.Error?.Message}");
    }

    // What is in a target, by the number of the row: each column as a text that the target itself makes of it.
    async Task<Dictionary<int, Dictionary<string, string?>>> ReadAsync(string target, string name, Sort[] sorts)
    {
        if (target == "csv")
            return Lines(File.ReadAllText(Bench[name + ".csv"]));
        if (target == "jsonl")
        {
            return File.ReadLines(Bench[name + ".jsonl"])
                .Select(JsonLine)
                .ToDictionary(r => int.Parse(r["nth"]!, CultureInfo.InvariantCulture));
        }
        string Text(Sort s) =>
            (target, s.Name) switch
            {
                ("sqlite", "bytes") =>
                    $"CASE WHEN typeof({s.Column}) = 'blob' THEN hex({s.Column}) ELSE {s.Column} END",
                ("mysql", "bytes") => $"to_base64({s.Column})",
                ("duckdb" or "parquet", "bytes") => $"to_base64({s.Column})",
                ("postgresql", "bytes") => $"encode({s.Column}, 'base64')",
                ("postgresql", _) => $"{s.Column}::text",
                ("duckdb" or "parquet", "timestamp with zone") =>
                    $"strftime({s.Column}::timestamptz AT TIME ZONE 'UTC', '%Y-%m-%d %H:%M:%S.%f')",
                ("duckdb" or "parquet", _) => $"{s.Column}::varchar",
                ("mysql", "text") => s.Column,
                ("mysql", _) => $"CAST({s.Column} AS CHAR)",
                ("sqlite", "double") => $"CASE WHEN {s.Column} IS NOT NULL THEN printf('%!.17g', {s.Column}) END",
                _ => $"CAST({s.Column} AS text)",
            };
        var table = target == "parquet" ? $"read_parquet('{Bench[name + ".parquet"]}')" : name;
        var query =
            $"SELECT nth, {string.Join(", ", sorts.Select(s => $"{Text(s)} AS {s.Column}"))} FROM {table} ORDER BY nth";
        var result = await Bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "into", "query": {{JsonSerializer.Serialize(query)}}, "give": "rows"}"""
        );
        Assert.True(result.Error is null, $"{query}: {result.Error?.Message}");
        return result
            .Outputs.AsMap.Find("rows")!
            .Value.AsList.Select(r =>
                r.AsMap.Entries.ToDictionary(
                    e => e.Key.AsString,
                    e => e.Value.IsNull ? null : Hex(target, e.Key.AsString, ValueText.ToPlainString(e.Value))
                )
            )
            .ToDictionary(r => int.Parse(r["nth"]!, CultureInfo.InvariantCulture));
    }

    static string Hex(string target, string column, string text) =>
        target == "sqlite" && column == "c_bytes" && text.All(char.IsAsciiHexDigit)
            ? Convert.ToBase64String(Convert.FromHexString(text))
            : text;

    static Dictionary<string, string?> JsonLine(string line)
    {
        using var json = JsonDocument.Parse(line);
        return json
            .RootElement.EnumerateObject()
            .ToDictionary(
                p => p.Name,
                p =>
                    p.Value.ValueKind switch
                    {
                        JsonValueKind.Null => null,
                        JsonValueKind.String => p.Value.GetString(),
                        _ => p.Value.GetRawText(),
                    }
            );
    }

    // RFC 4180, read by the plainest reader there is: nothing without quotes is nothing.
    static Dictionary<int, Dictionary<string, string?>> Lines(string text)
    {
        var records = new List<List<string?>> { new() };
        for (var at = 0; at < text.Length; )
        {
            string? field = null;
            if (text[at] == '"')
            {
                var value = new StringBuilder();
                for (at++; text[at] != '"' || (at + 1 < text.Length && text[at + 1] == '"'); at++)
                {
                    if (text[at] == '"')
                        at++;
                    value.Append(text[at]);
                }
                at++;
                field = value.ToString();
            }
            else
            {
                var end = text.IndexOfAny([',', '\n'], at);
                field = end == at ? null : text[at..end];
                at = end;
            }
            records[^1].Add(field);
            if (text[at++] == '\n')
                records.Add([]);
        }
        var names = records[0];
        return records
            .Skip(1)
            .Where(r => r.Count > 0)
            .Select(r => r.Select((v, i) => (Name: names[i]!, v)).ToDictionary(c => c.Name, c => c.v))
            .ToDictionary(r => int.Parse(r["nth"]!, CultureInfo.InvariantCulture));
    }
}
