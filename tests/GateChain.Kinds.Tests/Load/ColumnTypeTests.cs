namespace GateChain.Kinds.Tests.Load;

/// <summary>What <c>columns</c> says of a value: it is that exactly, or the row is a reject that says so.</summary>
public sealed class ColumnTypeTests(Servers.Databases databases) : LoadBench(databases)
{
    // A value in the file, and what stands in a CSV file then; null for a reject.
    [Theory]
    [InlineData("decimal", "", "1.10", "1.10")]
    [InlineData("decimal", "", "-0.0000000000000000000000000000000000001", "-0.0000000000000000000000000000000000001")]
    [InlineData("decimal", "", "99999999999999999999999999999999999999", "99999999999999999999999999999999999999")]
    [InlineData("decimal", "", "999999999999999999999999999999999999999", null)]
    [InlineData("decimal", "", "1e3", "1000")]
    [InlineData("decimal", "", "-1.5E-3", "-0.0015")]
    [InlineData("decimal", "", "1e40", null)]
    [InlineData("decimal", "", "1,5", null)]
    [InlineData("decimal", "", "NaN", null)]
    [InlineData("decimal", ", \"scale\": 2", "1.25", "1.25")]
    [InlineData("decimal", ", \"scale\": 2", "1.2500", "1.2500")]
    [InlineData("decimal", ", \"scale\": 2", "1.255", null)]
    [InlineData("decimal", ", \"scale\": 0", "12.0", "12.0")]
    [InlineData("date", "", "2026-02-28", "2026-02-28")]
    [InlineData("date", "", "2026-02-29", null)]
    [InlineData("date", "", "2026-02-28T00:00:00Z", null)]
    [InlineData("date", ", \"format\": \"dd.MM.yyyy\"", "28.02.2026", "2026-02-28")]
    [InlineData("time", "", "05:30", "05:30:00")]
    [InlineData("time", "", "23:59:59.123456", "23:59:59.123456")]
    [InlineData("time", "", "24:00:00", null)]
    [InlineData("time", ", \"format\": \"HHmm\"", "0530", "05:30:00")]
    [InlineData("bytes", "", "AP8=", "AP8=")]
    [InlineData("bytes", "", "AP8", null)]
    [InlineData("uuid", "", "A0EEBC99-9C0B-4EF8-BB6D-6BB9BD380A11", "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11")]
    [InlineData("uuid", "", "a0eebc99", null)]
    [InlineData("json", "", "{\"a\": [1, null]}", "{\"a\": [1, null]}")]
    [InlineData("json", "", "{a: 1}", null)]
    [InlineData("timestamp", "", "2026-03-29T02:30:00", null)]
    [InlineData("timestamp", ", \"zone\": \"Europe/Berlin\"", "2026-03-29T01:30:00", "2026-03-29T00:30:00Z")]
    [InlineData("timestamp", ", \"zone\": \"Europe/Berlin\"", "2026-03-29 02:30", null)]
    [InlineData("timestamp", ", \"zone\": \"Europe/Berlin\"", "2026-10-25T02:30:00", "2026-10-25T00:30:00Z")]
    [InlineData("timestamp", ", \"zone\": \"Europe/Berlin\"", "2026-10-25T02:30:00Z", "2026-10-25T02:30:00Z")]
    [InlineData("timestamp", ", \"zone\": \"Europe/Berlin\"", "2026-07-01", "2026-06-30T22:00:00Z")]
    [InlineData(
        "timestamp",
        ", \"zone\": \"Europe/Berlin\", \"format\": \"dd.MM.yyyy HH:mm\"",
        "01.07.2026 05:30",
        "2026-07-01T03:30:00Z"
    )]
    [InlineData("timestamp", ", \"format\": \"dd.MM.yyyy HH:mm\"", "01.07.2026 05:30", "2026-07-01T05:30:00Z")]
    [InlineData(
        "timestamp",
        ", \"format\": \"yyyy-MM-dd HH:mm zzz\"",
        "2026-07-01 05:30 +02:00",
        "2026-07-01T03:30:00Z"
    )]
    public async Task AValueIsOfItsTypeOrTheRowIsAReject(string type, string more, string value, string? arrives)
    {
        Bench.Write("in.csv", $"id;v\n1;\"{value.Replace("\"", "\"\"", StringComparison.Ordinal)}\"\n2;\n");
        await MustAsync(
            """{"csv": "in.csv"}""",
            """{"csv": "out.csv"}""",
            $$$""", "columns": {"v": {"type": "{{{type}}}"{{{more}}}}}, "reject": {"limit": 1, "file": "bad.csv"}"""
        );
        var lines = File.ReadAllText(Bench["out.csv"]).Split('\n');
        Assert.Equal(
            arrives is null
                ? "v||"
                : "v|"
                    + (
                        arrives.Contains('"') || arrives.Contains(',')
                            ? $"\"{arrives.Replace("\"", "\"\"", StringComparison.Ordinal)}\""
                            : arrives
                    )
                    + "||",
            string.Join('|', lines)
        );
        if (arrives is null)
            Assert.Contains($"in.csv,2,v,", File.ReadAllText(Bench["bad.csv"]), StringComparison.Ordinal);
    }

    // Numbers of a million digits: whoever counts them by dividing never comes to an end.
    [Theory]
    [InlineData("1.ZEROS", "decimal", false)]
    [InlineData("0.ZEROS1", "decimal", false)]
    [InlineData("1ZEROSe-1000000", "decimal", false)]
    [InlineData("1ZEROS", "int", false)]
    [InlineData("1.ZEROS", "int", false)]
    [InlineData("0.ZEROS1", "double", true)]
    public async Task AVeryLongNumberTakesNoTime(string number, string type, bool fits)
    {
        Connect("duckdb");
        number = number.Replace("ZEROS", new string('0', 1_000_000), StringComparison.Ordinal);
        Bench.Write("in.jsonl", $"{{\"n\":{number}}}\n");
        foreach (
            var into in (string[])
                ["""{"csv": "out.csv"}""", """{"parquet": "out.parquet"}""", Into(""", "create": true""")]
        )
        {
            foreach (var scale in type == "decimal" ? (string[])["", ", \"scale\": 4"] : [""])
            {
                var result = await LoadAsync(
                    """{"jsonl": "in.jsonl"}""",
                    into,
                    $$$""", "columns": {"n": {"type": "{{{type}}}"{{{scale}}}}}, "reject": {"limit": 1}"""
                );
                Assert.True(result.Error is null, result.Error?.Message);
                if (!fits)
                    Assert.Equal("1", Count(result, "rejected"));
            }
        }
        await MustAsync("""{"jsonl": "in.jsonl"}""", """{"jsonl": "out.jsonl"}""");
        Assert.Equal($"{{\"n\":{number}}}\n", File.ReadAllText(Bench["out.jsonl"]));
    }

    [Theory]
    [InlineData("100", 0)]
    [InlineData("100e-1", 0)]
    [InlineData("100e-3", 1)]
    [InlineData("1.50", 1)]
    [InlineData("1.5e3", 0)]
    [InlineData("1.2345e2", 2)]
    [InlineData("-0.0010", 3)]
    [InlineData("0e-5", 0)]
    [InlineData("0.000", 0)]
    [InlineData("1e-40", 40)]
    public void DigitsBehindThePointAreCounted(string text, int scale) =>
        Assert.Equal(scale, new GateChain.Kinds.Data.ExactNumber(text).Scale);

    [Fact]
    public async Task AnUnknownZoneIsToldBeforeAnythingIsRead()
    {
        Bench.Write("in.csv", "v\n2026-07-01\n");
        var error = (
            await LoadAsync(
                """{"csv": "in.csv"}""",
                """{"csv": "out.csv"}""",
                """, "columns": {"v": {"type": "timestamp", "zone": "Europe/Larkmoor"}}"""
            )
        ).Error!;
        Assert.Equal(("setting", "column “v”: there is no time zone “Europe/Larkmoor”"), (error.Code, error.Message));
    }

    // Money: exact in the file, in the table that is made for it, and out of it again.
    [Theory]
    [MemberData(nameof(Types))]
    public async Task MoneyIsExactInATableThatIsMadeForIt(string type)
    {
        Connect(type);
        Bench.Write("in.csv", "id,amount\n1,12345678901234567890.12\n2,-0.01\n3,7\n");
        const string columns = """, "columns": {"id": {"type": "int"}, "amount": {"type": "decimal", "scale": 2}}""";
        await MustAsync("""{"csv": "in.csv"}""", Into(""", "create": true"""), columns);
        await MustAsync(Query($"SELECT id, amount FROM {Table} ORDER BY id"), """{"csv": "out.csv"}""");
        // SQLite has no decimals of so many digits: they are texts there, as they came.
        Assert.Equal(
            type == "sqlite"
                ? "id,amount\n1,12345678901234567890.12\n2,-0.01\n3,7\n"
                : "id,amount\n1,12345678901234567890.12\n2,-0.01\n3,7.00\n",
            File.ReadAllText(Bench["out.csv"])
        );
    }
}
