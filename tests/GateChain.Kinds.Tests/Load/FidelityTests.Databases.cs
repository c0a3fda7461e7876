using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

public sealed partial class FidelityTests
{
    [Theory]
    [InlineData("time", "23:59:59.123456", "23:59:59.123456")]
    [InlineData("time", "24:00:00", "24:00:00")]
    [InlineData("date", "2026-03-04", "2026-03-04")]
    [InlineData("date", "0044-03-15 BC", "0044-03-15 BC")]
    [InlineData("date", "-infinity", "-infinity")]
    [InlineData("timestamptz", "infinity", "infinity")]
    [InlineData("timestamp", "2024-02-29 01:02:03.123456", "2024-02-29T01:02:03.123456Z")]
    [InlineData("timestamptz", "2024-02-29 01:02:03.123456+00", "2024-02-29T01:02:03.123456Z")]
    [InlineData("numeric", "1.10", "1.10")]
    [InlineData("numeric", "NaN", "NaN")]
    [InlineData(
        "numeric",
        "12345678901234567890123456789012345678901234567890.5",
        "12345678901234567890123456789012345678901234567890.5"
    )]
    [InlineData("float8", "NaN", "NaN")]
    [InlineData("float8", "-Infinity", "-Infinity")]
    [InlineData("float8", "1e-310", "1E-310")]
    [InlineData("float4", "0.1", "0.1")]
    [InlineData("interval", "1 year 2 mons 3 days 04:05:06.789", "1 year 2 mons 3 days 04:05:06.789")]
    [InlineData("bytea", "\\x00ff0a", "AP8K")]
    [InlineData("uuid", "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11", "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11")]
    [InlineData("jsonb", "{\"a\": [1, null]}", "\"{\"\"a\"\": [1, null]}\"")]
    [InlineData("int[]", "{1,NULL,3}", "\"[1,null,3]\"")]
    [InlineData("text[]", "{a,\"b,c\",NULL,\"NULL\",\"\"}", "\"[\"\"a\"\",\"\"b,c\"\",null,\"\"NULL\"\",\"\"\"\"]\"")]
    [InlineData("int[]", "{{1,2},{3,4}}", "\"[[1,2],[3,4]]\"")]
    [InlineData("bit(5)", "10110", "10110")]
    [InlineData("inet", "10.0.0.1/8", "10.0.0.1/8")]
    [InlineData("int4range", "[1,5)", "\"[1,5)\"")]
    [InlineData("text", "a\tb\\n\"ö\u2028", "\"a\tb\\n\"\"ö\u2028\"")]
    [InlineData("bool", "true", "true")]
    public async Task EveryTypeOfPostgreSqlComesThroughItselfAndIntoAFile(string type, string value, string inFile)
    {
        Connect("postgresql");
        await ExecuteAsync(
            $"CREATE TABLE {Table} (v {type}); CREATE TABLE {Table}2 (v {type}); "
                + $"INSERT INTO {Table} VALUES ('{value.Replace("'", "''", StringComparison.Ordinal)}'), (NULL)"
        );
        await MustAsync(
            $$"""{"connection": "target", "table": "{{Table}}"}""",
            $$"""{"connection": "target", "table": "{{Table}}2"}"""
        );
        Assert.Equal(
            "0",
            await AskAsync(
                $"SELECT count(*) AS c FROM (SELECT v::text FROM {Table} EXCEPT ALL SELECT v::text FROM {Table}2) d"
            )
        );
        Assert.Equal("1", await AskAsync($"SELECT count(*) AS c FROM {Table}2 WHERE v IS NULL"));
        await MustAsync(Query($"SELECT v FROM {Table} WHERE v IS NOT NULL"), """{"csv": "out.csv"}""");
        Assert.Equal($"v\n{inFile}\n", File.ReadAllText(Bench["out.csv"]));
        await MustAsync(Query($"SELECT v FROM {Table} WHERE v IS NOT NULL"), """{"jsonl": "out.jsonl"}""");
        using var line = System.Text.Json.JsonDocument.Parse(File.ReadAllText(Bench["out.jsonl"]));
        // What a Parquet type has no value for is told, and nothing is put in its place.
        var parquet = await LoadAsync(Query($"SELECT v FROM {Table}"), """{"parquet": "out.parquet"}""");
        Assert.Equal(
            value is "24:00:00" or "0044-03-15 BC" or "infinity" or "-infinity" ? "rejects" : null,
            parquet.Error?.Code
        );
    }

    [Theory]
    [InlineData("tinyint(1)", "7", "7")]
    [InlineData("tinyint", "-128", "-128")]
    [InlineData("bigint unsigned", "18446744073709551615", "18446744073709551615")]
    [InlineData(
        "decimal(65,30)",
        "12345678901234567890123456789012345.123456789012345678901234567890",
        "12345678901234567890123456789012345.123456789012345678901234567890"
    )]
    [InlineData("date", "'2026-03-04'", "2026-03-04")]
    [InlineData("time(6)", "'838:59:58.999999'", "838:59:58.999999")]
    [InlineData("datetime(6)", "'2024-02-29 01:02:03.123456'", "2024-02-29T01:02:03.123456Z")]
    [InlineData("varbinary(9)", "x'00ff0a'", "AP8K")]
    [InlineData("double", "1e-300", "1E-300")]
    [InlineData("varchar(9) CHARACTER SET utf8mb4", "'ö😀'", "ö😀")]
    public async Task EveryTypeOfMariaDbComesThroughItselfAndIntoAFile(string type, string value, string inFile)
    {
        Connect("mysql");
        await ExecuteAsync($"CREATE TABLE {Table} (v {type})");
        await ExecuteAsync($"CREATE TABLE {Table}2 (v {type})");
        await ExecuteAsync($"INSERT INTO {Table} VALUES ({value}), (NULL)");
        await MustAsync(
            $$"""{"connection": "target", "table": "{{Table}}"}""",
            $$"""{"connection": "target", "table": "{{Table}}2"}"""
        );
        Assert.Equal(
            "1 1",
            await AskAsync(
                $"SELECT (SELECT count(*) FROM {Table} a JOIN {Table}2 b ON BINARY a.v = BINARY b.v) AS "
                    + $"same, (SELECT count(*) FROM {Table}2 WHERE v IS NULL) AS absent"
            )
        );
        await MustAsync(Query($"SELECT v FROM {Table} WHERE v IS NOT NULL"), """{"csv": "out.csv"}""");
        Assert.Equal($"v\n{inFile}\n", File.ReadAllText(Bench["out.csv"]));
    }

    [Theory]
    [InlineData("'\\x00\\xff'::BLOB", "AP8=")]
    [InlineData("[1, NULL, 3]", "\"[1,null,3]\"")]
    [InlineData("{'a': 1, 'b': 'x'}", "\"{\"\"a\"\":1,\"\"b\"\":\"\"x\"\"}\"")]
    [InlineData("map {'k': 1.5}", "\"{\"\"k\"\":1.5}\"")]
    [InlineData("12345678901234567890123456789.123456789::DECIMAL(38,9)", "12345678901234567890123456789.123456789")]
    [InlineData("170141183460469231731687303715884105727::HUGEINT", "170141183460469231731687303715884105727")]
    [InlineData("TIME '23:59:59.123456'", "23:59:59.123456")]
    [InlineData("INTERVAL '1 year 2 months 3 days'", "1 year 2 months 3 days")]
    [InlineData("DATE '2026-03-04'", "2026-03-04")]
    [InlineData("1.10::DECIMAL(12,2)", "1.10")]
    [InlineData("uuid 'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11'", "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11")]
    public async Task EveryTypeOfDuckDbIsWhatItHoldsAndNeverTheNameOfAClass(string value, string inFile)
    {
        Connect("duckdb");
        await MustAsync(Query($"SELECT {value} AS v"), """{"csv": "out.csv"}""");
        Assert.Equal($"v\n{inFile}\n", File.ReadAllText(Bench["out.csv"]));
        await MustAsync(Query($"SELECT {value} AS v"), """{"parquet": "out.parquet"}""");
        await MustAsync("""{"parquet": "out.parquet"}""", """{"csv": "back.csv"}""");
        Assert.Equal($"v\n{inFile}\n", File.ReadAllText(Bench["back.csv"]));
        var sql = await Bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize($"SELECT {value.Split("::")[0]} AS v")}}, "give": "row"}"""
        );
        Assert.DoesNotContain("System.", $"{sql.Error?.Message} {sql.Outputs}", StringComparison.Ordinal);
    }
}
