using GateChain.Core.Values;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

/// <summary>
/// Sums of money are exact from a database through expressions and back, where that is asked for; and what was released
/// before means what it meant.
/// </summary>
public sealed class ExactNumbersTests(Servers.Databases databases) : LoadBench(databases)
{
    async Task<Value> ScalarAsync(string sql, string more)
    {
        var result = await Bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(sql)}}, "give": "scalar"{{more}}}""",
            Guid.NewGuid().ToString("N")
        );
        Assert.True(result.Error is null, result.Error?.Message);
        return result.Outputs.AsMap.Find("value")!.Value;
    }

    [Theory]
    [InlineData("postgresql", "SELECT 12345678901234567.89::numeric(20,2)", "12345678901234567.89")]
    [InlineData("postgresql", "SELECT 12::numeric(20,2)", "12.00")]
    [InlineData("mysql", "SELECT CAST(12345678901234567.89 AS DECIMAL(20,2))", "12345678901234567.89")]
    [InlineData("mysql", "SELECT CAST(18446744073709551615 AS UNSIGNED)", "18446744073709551615")]
    [InlineData("duckdb", "SELECT 12345678901234567.89::DECIMAL(20,2)", "12345678901234567.89")]
    [InlineData("duckdb", "SELECT 17014118346046923173168730371::HUGEINT", "17014118346046923173168730371")]
    public async Task ANumberThatNoIntHoldsIsADecimalWhereThatIsAskedFor(string type, string sql, string exact)
    {
        Connect(type);
        var value = await ScalarAsync(sql, """, "numbers": "exact" """);
        Assert.Equal((ValueKind.Decimal, exact), (value.Kind, value.ToString()));
        Assert.NotEqual(ValueKind.Decimal, (await ScalarAsync(sql, "")).Kind);
        // And back: as a parameter it is that number still.
        var bound = await Bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": "SELECT CAST($n AS {{(type == "mysql" ? "DECIMAL(38,2)" : "DECIMAL(38, 2)")}}) AS v", "give": "scalar", "numbers": "exact", "bind": {"n": {"$decimal": "{{exact}}"} } }""",
            Guid.NewGuid().ToString("N")
        );
        Assert.True(bound.Error is null, bound.Error?.Message);
        Assert.Equal(Value.Decimal(Decimal38.Parse(exact)!), bound.Outputs.AsMap.Find("value")!.Value);
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task ComputedColumnsOfMoneyAreExact(string type)
    {
        Connect(type);
        Bench.Write(
            "in.jsonl",
            "{\"net\":0.10,\"tax\":0.20}\n{\"net\":12345678901234567.89,\"tax\":0.01}\n{\"net\":1,\"tax\":0}\n"
        );
        await ExecuteAsync($"CREATE TABLE {Table} (gross {(type == "sqlite" ? "text" : "decimal(20,2)")})");
        const string columns = """, "columns": {"gross": {"value": "row.net + decimal(row.tax)"}}""";
        // As it was before: what JSON gives is a binary number, which does not mix with a decimal.
        Assert.Equal("rejects", (await LoadAsync("""{"jsonl": "in.jsonl"}""", Into(), columns)).Error?.Code);
        await MustAsync("""{"jsonl": "in.jsonl"}""", Into(), columns + """, "numbers": "exact" """);
        Assert.Equal(
            "0.30|1.00|12345678901234567.90",
            string.Join('|', (await RowsAsync()).Order(StringComparer.Ordinal))
        );

        async Task<IEnumerable<string>> RowsAsync()
        {
            await MustAsync(Query($"SELECT gross FROM {Table}"), """{"csv": "out.csv"}""");
            // A text of SQLite has the digits that were computed: 1 + 0 is 1.
            return File.ReadLines(Bench["out.csv"]).Skip(1).Select(l => l == "1" ? "1.00" : l);
        }
    }

    [Fact]
    public async Task TwoColumnsOfOneNameAreNoRow()
    {
        Connect("sqlite");
        var result = await Bench.RunAsync(
            new SqlKind(),
            """{"connection": "target", "query": "SELECT 1 AS id, 2 AS id", "give": "row"}"""
        );
        Assert.Equal(
            ("columns", "the query gives two columns that are named “id”"),
            (result.Error?.Code, result.Error?.Message)
        );
        Assert.Equal(Value.Int(1), await ScalarAsync("SELECT 1 AS id, 2 AS id", ""));
    }
}
