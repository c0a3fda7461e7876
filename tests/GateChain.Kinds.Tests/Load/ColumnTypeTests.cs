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
    [InlineData("decimal", "", "1e3", "1e3")]
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
    [InlineData("timestamp", ", \"zone\": \"Europe/Berlin\", \"format\": \"dd.MM.yyyy HH:mm\"", "01.07.2026 05:30", "2026-07-01T03:30:00Z")]
    [InlineData("timestamp", ", \"format\": \"dd.MM.yyyy HH:mm\"", "01.07.2026 05:30", "2026-07-01T05:30:00Z")]
    [InlineData("timestamp", ", \"format\": \"yyyy-MM-dd HH:mm zzz\"", "2026-07-01 05:30 +02:00", "2026-07-01T03:30:00Z")]
    public async Task AValueIsOfItsTypeOrTheRowIsAReject(string type, string more, string value, string? arrives)
    {
        Bench.Write("in.csv", $"id;v\n1;\"{value.Replace("\"", "\"\"", StringComparison.Ordinal)}\"\n2;\n");
        await MustAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""", $$$""", "columns": {"v": {"type": "{{{type}}}"{{{more}}}}}, "reject": {"limit": 1, "file": "bad.csv"}""");
        var lines = File.ReadAllText(Bench["out.csv"]).Split('\n');
        Assert.Equal(arrives is null ? "v||" : $"v|{(arrives.Contains('"') || arrives.Contains(',') ? $"\"{arrives.Replace("\"", "\"\"", StringComparison.Ordinal)}\"" : arrives)}||", string.Join('|', lines));
        if (arrives is null) { Assert.Contains($"in.csv,2,v,", File.ReadAllText(Bench["bad.csv"]), StringComparison.Ordinal); }
    }

    [Fact]
    public async Task AnUnknownZoneIsToldBeforeAnythingIsRead()
    {
        Bench.Write("in.csv", "v\n2026-07-01\n");
        var error = (await LoadAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""", """, "columns": {"v": {"type": "timestamp", "zone": "Europe/Larkmoor"}}""")).Error!;
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
        Assert.Equal(type == "sqlite" ? "id,amount\n1,12345678901234567890.12\n2,-0.01\n3,7\n" : "id,amount\n1,12345678901234567890.12\n2,-0.01\n3,7.00\n", File.ReadAllText(Bench["out.csv"]));
    }
}
