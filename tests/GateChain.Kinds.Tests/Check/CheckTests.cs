using System.Text.Json;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Check;

namespace GateChain.Kinds.Tests.Check;

/// <summary>Rows that are, or are not, as they have to be.</summary>
public sealed class CheckTests : IDisposable
{
    readonly Bench _bench = new();

    const string Rows = """
        farm,depot,litres,at,tanker
        HF-01,north,120.5,2026-11-28T05:10:00Z,T1
        HF-02,north,95,2026-11-28T05:40:00Z,T2
        HF-03,south,,2026-11-28T06:05:00Z,T1
        HF-02,south,1900,2026-11-27T04:00:00Z,T9

        """;

    public CheckTests()
    {
        _bench.Write("pickups.csv", Rows);
        _bench.Sql(
            """
            CREATE TABLE farms (code text, name text);
            INSERT INTO farms VALUES ('HF-01', 'Upper Meadow'), ('HF-02', 'Stone Barn'), (NULL, 'nowhere');
            CREATE TABLE tanks (litres numeric);
            INSERT INTO tanks VALUES (1000), (1115.5);
            """
        );
    }

    Task<AttemptResult> RunAsync(string checks, string of = """{"csv": "pickups.csv"}""", string more = "") =>
        _bench.RunAsync(
            new CheckKind(),
            $$"""{"of": {{of}}, "checks": {{checks}}{{more}}}""",
            Guid.NewGuid().ToString("N")
        );

    /// <summary>What comes of one check, on the demo's rows.</summary>
    [Theory]
    [InlineData("""{"rows": {}}""", "passed 0")]
    [InlineData("""{"rows": {"min": 4, "max": 4}}""", "passed 0")]
    [InlineData("""{"rows": {"min": 5}}""", "failed 0 4 rows are fewer than 5")]
    [InlineData("""{"rows": {"max": 3}}""", "failed 0 4 rows are more than 3")]
    [InlineData("""{"filled": ["farm", "at"]}""", "passed 0")]
    [InlineData("""{"filled": ["litres"]}""", "failed 1 1 row does not pass; line 4: litres is empty")]
    [InlineData("""{"filled": ["litres"], "limit": 1}""", "passed 1")]
    [InlineData("""{"unique": ["farm", "depot"]}""", "passed 0")]
    [InlineData("""{"unique": ["farm"]}""", "failed 1 1 row does not pass; line 5: farm HF-02 stood in a row before")]
    [InlineData("""{"oneOf": {"column": "depot", "values": ["north", "south"]}}""", "passed 0")]
    [InlineData(
        """{"oneOf": {"column": "tanker", "values": ["T1", "T2"]}}""",
        "failed 1 1 row does not pass; line 5: tanker “T9” is none of 2 values"
    )]
    [InlineData(
        """{"between": {"column": "litres", "min": 100, "max": 1500}}""",
        "failed 2 2 rows do not pass; line 3: litres 95 is less than 100"
    )]
    [InlineData("""{"between": {"column": "at", "min": "2026-11-27"}}""", "passed 0")]
    [InlineData(
        """{"between": {"column": "at", "min": "2026-11-28", "max": "2026-11-29"}}""",
        "failed 1 1 row does not pass; line 5: at 2026-11-27T04:00:00Z is less than 2026-11-28T00:00:00Z"
    )]
    [InlineData(
        """{"between": {"column": "farm", "max": 3}}""",
        "failed 4 4 rows do not pass; line 2: farm “HF-01” is no number"
    )]
    [InlineData("""{"pattern": {"column": "farm", "matches": "^HF-[0-9]{2}$"}}""", "passed 0")]
    [InlineData(
        """{"pattern": {"column": "tanker", "matches": "^T[1-3]$"}, "limit": 0}""",
        "failed 1 1 row does not pass; line 5: tanker “T9” does not look like ^T[1-3]$"
    )]
    [InlineData(
        """{"refersTo": {"column": "farm", "connection": "db", "table": "farms", "key": "code"}}""",
        "failed 1 1 row does not pass; line 4: farm “HF-03” is not in farms"
    )]
    [InlineData(
        """{"sum": {"column": "litres", "connection": "db", "query": "SELECT sum(litres) FROM tanks"}}""",
        "passed 0"
    )]
    [InlineData(
        """{"sum": {"column": "litres", "connection": "db", "query": "SELECT 2100"}}""",
        "failed 0 litres adds up to 2115.5, and db says 2100"
    )]
    [InlineData(
        """{"sum": {"column": "litres", "connection": "db", "query": "SELECT 2100", "tolerance": 20}}""",
        "passed 0"
    )]
    [InlineData("""{"fresh": {"column": "at", "within": "10000d"}}""", "passed 0")]
    [InlineData("""{"holds": "row.farm.startsWith('HF')"}""", "passed 0")]
    [InlineData(
        """{"holds": "row.litres != null && double(row.litres) < bind.most"}""",
        "failed 2 2 rows do not pass; line 4: row.litres != null && double(row.litres) < bind.most is false"
    )]
    public async Task Each(string check, string comes)
    {
        var result = await RunAsync($$"""{"it": {{check}}}""", more: """, "bind": {"most": 1000.0}""");
        var told = result.Outputs.AsMap.Find("checks")!.Value.AsMap.Find("it")!.Value.AsMap;
        Assert.Equal(comes, string.Join(' ', told.Entries.Select(e => ValueText.ToPlainString(e.Value))).TrimEnd());
        Assert.Equal(comes.StartsWith("failed", StringComparison.Ordinal), result.Error?.Code == "check");
    }

    [Fact]
    public async Task WhatIsOldIsToldWithItsAge()
    {
        var result = await RunAsync("""{"it": {"fresh": {"column": "at", "within": "1h"}}}""");
        Assert.Contains("the latest at is 2026-11-28 06:05 UTC, ", result.Error!.Detail, StringComparison.Ordinal);
    }

    // One check that warns and one that fails: all rows stand in one file, under the name of their check.
    [Fact]
    public async Task RowsStandInAFileAndSeverityCounts()
    {
        var result = await RunAsync(
            """{"all weighed": {"filled": ["litres"], "severity": "warn"}, "farms known": {"refersTo": {"column": "farm", "connection": "db", "table": "farms", "key": "code"}}, "some": {"rows": {}}}""",
            more: """, "file": "out/failing.csv" """
        );
        Assert.Equal("1 of 3 checks of pickups.csv failed: farms known", result.Error!.Message);
        Assert.Equal(["all weighed: 1 row does not pass; line 4: litres is empty"], result.Warnings);
        Assert.Equal(
            """
            source,line,column,value,reason,farm,depot,litres,at,tanker
            pickups.csv,4,litres,,all weighed: litres is empty,HF-03,south,,2026-11-28T06:05:00Z,T1
            pickups.csv,4,farm,HF-03,farms known: farm “HF-03” is not in farms,HF-03,south,,2026-11-28T06:05:00Z,T1

            """,
            File.ReadAllText(_bench["out/failing.csv"])
        );
        Assert.Equal("4 1 1", $"{Number(result, "rows")} {Number(result, "failed")} {Number(result, "warned")}");
        // The next look begins with an empty one.
        await RunAsync("""{"some": {"rows": {}}}""", more: """, "file": "out/failing.csv" """);
        Assert.Empty(File.ReadAllLines(_bench["out/failing.csv"]));
    }

    // The rows come from the database that takes them, and an attempt that is made again does not double them.
    [Fact]
    public async Task RowsThatDoNotPassStandInATable()
    {
        const string Settings = """
            {"of": {"connection": "db", "table": "farms"}, "checks": {"coded": {"filled": ["code"]}, "known": {
            "oneOf": {"column": "name", "values": ["Upper Meadow", "nowhere"]}}}, "into": {"connection": "db",
            "table": "failing"}}
            """;
        foreach (var key in (string[])["a", "a", "b"])
        {
            var result = await _bench.RunAsync(new CheckKind(), Settings, key);
            Assert.EndsWith("The rows: table failing of db", result.Error!.Detail, StringComparison.Ordinal);
        }
        Assert.Equal("4", _bench.Ask("SELECT count(*) FROM failing"));
        Assert.Equal("2", _bench.Ask("SELECT count(DISTINCT work) FROM failing"));
        Assert.Equal(
            """known|name|Stone Barn|name “Stone Barn” is none of 2 values|{"code":"HF-02","name":"Stone Barn"}""",
            _bench.Ask(
                "SELECT check_name || '|' || column_name || '|' || value || '|' || reason || '|' || fields "
                    + "FROM failing WHERE line = 2"
            )
        );
        _bench.Sql("CREATE TABLE other (n int)");
        var refused = await _bench.RunAsync(new CheckKind(), Settings.Replace("failing", "other"), "c");
        Assert.Equal("the table “other” has no column “work”", refused.Error?.Message);
    }

    static long Number(AttemptResult result, string name) => result.Outputs.AsMap.Find(name)!.Value.AsInt;

    // Numbers of rows by their own history: four looks first, then one that is far off.
    [Fact]
    public async Task TheUsualNumberOfRowsIsThatOfTheLooksBefore()
    {
        const string Check = """{"as usual": {"rows": {"usual": 0.3}}}""";
        foreach (var rows in (int[])[10, 11, 9, 10, 12])
        {
            var result = await CountAsync(rows);
            Assert.Null(result.Error);
            _bench.Positions["as usual"] = result.Positions!["as usual"];
        }
        var few = await CountAsync(6);
        Assert.Equal(
            "as usual: 6 rows are fewer than usual: 10 in the middle of 5 looks, and 30 % off are allowed",
            few.Error!.Detail
        );
        Assert.Null((await CountAsync(13)).Error);
        Assert.Equal("10 11 9 10 12 13", (await CountAsync(13)).Positions!["as usual"].AsString);

        Task<AttemptResult> CountAsync(int rows)
        {
            _bench.Write("n.csv", "n\n" + string.Concat(Enumerable.Range(1, rows).Select(n => $"{n}\n")));
            return RunAsync(Check, """{"csv": "n.csv"}""");
        }
    }

    [Theory]
    [InlineData(
        """{"it": {"filled": ["size"]}}""",
        "columns: pickups.csv has no column “size”, which check “it” looks at"
    )]
    [InlineData("""{"it": {"between": {"column": "litres"}}}""", "setting: check “it” needs min or max")]
    [InlineData(
        """{"it": {"between": {"column": "litres", "min": 1, "max": "2026-01-01"}}}""",
        "setting: check “it” needs min or max"
    )]
    [InlineData("""{"it": {"pattern": {"column": "farm", "matches": "("}}}""", "setting: the pattern of check “it”:")]
    [InlineData("""{"it": {"limit": 3}}""", "setting: check “it” does not say what has to hold")]
    [InlineData(
        """{"it": {"refersTo": {"column": "farm", "connection": "db", "table": "farm"}}}""",
        "sql: no such table: farm"
    )]
    [InlineData(
        """{"it": {"refersTo": {"column": "farm", "table": "farms"}}}""",
        "setting: check “it” needs the connection"
    )]
    [InlineData("{}", "setting: “checks” has none")]
    public async Task WhatCannotBeLookedAtIsTold(string checks, string says)
    {
        var result = await RunAsync(checks);
        Assert.StartsWith(says, $"{result.Error?.Code}: {result.Error?.Message}", StringComparison.Ordinal);
    }

    [Fact]
    public async Task TextsAndTypesAreTheSameNumbers()
    {
        _bench.Write("west.csv", "litres;paid\n1.200,5;x\n");
        var checks = """{"it": {"sum": {"column": "litres", "connection": "db", "query": "SELECT 1200.5"}}}""";
        var text = """{"csv": "west.csv", "text": {"decimal": ",", "thousands": "."}}""";
        Assert.Null((await RunAsync(checks, text)).Error);
        var table = """{"connection": "db", "query": "SELECT 1200.5 AS litres"}""";
        Assert.Null((await RunAsync(checks, table)).Error);
    }

    [Fact]
    public async Task ALineThatCannotBeReadIsNoRow()
    {
        _bench.Write("bad.csv", "a,b\n1,2\n3\n");
        var result = await RunAsync("""{"it": {"rows": {}}}""", """{"csv": "bad.csv"}""");
        Assert.StartsWith("line 3 can't be read: ", result.Error?.Message, StringComparison.Ordinal);
        Assert.Equal("", JsonSerializer.Serialize(result.Positions) is "null" ? "" : "kept");
    }

    public void Dispose() => _bench.Dispose();
}
