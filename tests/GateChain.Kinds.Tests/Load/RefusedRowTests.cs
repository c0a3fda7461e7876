using GateChain.Kinds.Load;

namespace GateChain.Kinds.Tests.Load;

/// <summary>
/// Rows that the database refuses are rejects like any other: the rest arrives, and each is named with its line.
/// </summary>
public sealed class RefusedRowTests(Servers.Databases databases) : LoadBench(databases)
{
    const int Rows = 1_200;

    public static TheoryData<string, string, string> Ways
    {
        get
        {
            var ways = new TheoryData<string, string, string>();
            foreach (var type in Types)
            {
                foreach (var mode in (string[])["append", "replace", "truncate", "upsert", "insert"])
                    ways.Add(type, mode, "anew");
                ways.Add(type, "append", "batch");
            }
            return ways;
        }
    }

    // Some do not fit in reading, some are refused for their length, for being nothing, for a key that is there twice,
    // at any place.
    [Theory]
    [MemberData(nameof(Ways))]
    public async Task JustTheRowsThatAreRefusedAreRejects(string type, string mode, string restart)
    {
        Connect(type);
        var random = new Random(type.Length * 1_000 + mode.Length * 10 + restart.Length);
        await ExecuteAsync($"CREATE TABLE {Table} (id int PRIMARY KEY, v varchar(5) NOT NULL CHECK (length(v) <= 5))");
        await ExecuteAsync($"INSERT INTO {Table} VALUES (5000, 'old')");
        var bad = Enumerable
            .Range(0, 12)
            .Select(_ => random.Next(1, Rows + 1))
            .Concat([1, 2, Rows])
            .Distinct()
            .ToDictionary(id => id, id => random.Next(mode is "upsert" or "insert" ? 3 : 4));
        var lines = Enumerable
            .Range(1, Rows)
            .Select(id =>
                !bad.TryGetValue(id, out var kind)
                    ? $"{id},v{id % 900}"
                    : kind switch
                    {
                        0 => $"{id},too long {id}",
                        1 => $"{id},",
                        2 => $"x{id},v",
                        _ => $"{(id == Rows || bad.ContainsKey(id + 1) ? 600 : id + 1)},v",
                    }
            )
            .ToList();
        // What takes the place of a good row with the same key is the bad one of the two where it comes later, and else
        // the other.
        var expected = Expect(lines);
        Bench.Write("in.csv", "id,v\n" + string.Concat(lines.Select(l => l + "\n")));
        var into = Into($""", "mode": "{mode}", "key": ["id"]""");
        var settings =
            $$$"""{"from": {"csv": "in.csv"}, "into": {{{into}}}, "columns": {"id": {"type": "int"}, "v": {}}, "batch": 100, "restart": "{{{restart}}}", "reject": {"file": "bad.csv", "limit": LIMIT}}""";
        var before = await AskAsync($"SELECT count(*) AS c, max(v) AS v FROM {Table}");

        var failed = await Bench.RunAsync(
            new LoadKind(),
            settings.Replace("LIMIT", $"{expected.Bad.Count - 1}", StringComparison.Ordinal),
            "w1" + Table
        );
        Assert.Equal("rejects", failed.Error?.Code);
        Assert.Equal(before, await AskAsync($"SELECT count(*) AS c, max(v) AS v FROM {Table}"));

        var result = await Bench.RunAsync(
            new LoadKind(),
            settings.Replace("LIMIT", $"{expected.Bad.Count}", StringComparison.Ordinal),
            "w2" + Table
        );
        Assert.True(result.Error is null, $"{result.Error?.Message}\n{result.Error?.Detail}");
        Assert.Equal(
            $"{Rows} {Rows - expected.Bad.Count} {expected.Bad.Count}",
            $"{Count(result, "read")} {Count(result, "written")} {Count(result, "rejected")}"
        );
        Assert.Equal(
            string.Join('|', expected.Good),
            await AskAsync($"SELECT id, v FROM {Table} WHERE id <> 5000 ORDER BY id")
        );
        Assert.Equal(
            mode is "append" or "upsert" or "insert" ? "1" : "0",
            await AskAsync($"SELECT count(*) AS c FROM {Table} WHERE id = 5000")
        );
        var rejects = File.ReadAllLines(Bench["bad.csv"]);
        Assert.Equal("source,line,column,value,reason,id,v", rejects[0]);
        Assert.Equal(
            expected.Bad.Order(),
            rejects
                .Skip(1)
                .Select(r => int.Parse(r.Split(',')[1], System.Globalization.CultureInfo.InvariantCulture))
                .Order()
        );
        // What is fixed in that file can be loaded from it.
        Assert.All(rejects.Skip(1), r =>
            Assert.EndsWith(
                lines[int.Parse(r.Split(',')[1], System.Globalization.CultureInfo.InvariantCulture) - 2].TrimEnd(','),
                r.TrimEnd(','),
                StringComparison.Ordinal
            )
        );
    }

    // The table's rules, said once more in the plainest way: row by row.
    static (List<string> Good, List<int> Bad) Expect(List<string> lines)
    {
        var good = new SortedDictionary<int, string>();
        var bad = new List<int>();
        for (var i = 0; i < lines.Count; i++)
        {
            var (id, v) = lines[i].Split(',') is [var first, var second] ? (first, second) : ("", "");
            if (int.TryParse(id, out var key) && v.Length is > 0 and <= 5 && good.TryAdd(key, v))
                continue;
            bad.Add(i + 2);
        }
        return ([.. good.Select(g => $"{g.Key} {g.Value}")], bad);
    }

    [Theory]
    [InlineData("postgresql", "v varchar(3)", "abcd", "v: value too long for type character varying(3)")]
    [InlineData("postgresql", "v numeric(4,2)", "1234.5", "numeric field overflow")]
    [InlineData("postgresql", "v smallint", "70000", "v: value \"70000\" is out of range for type smallint")]
    [InlineData(
        "postgresql",
        "v text NOT NULL",
        "",
        "v: a rule of the database was broken: null value in column \"v\""
    )]
    [InlineData("postgresql", "v text UNIQUE", "1", "Key (v)=(1) already exists")]
    [InlineData("postgresql", "v text", "a\0b", "invalid byte sequence for encoding")]
    [InlineData("mysql", "v varchar(3)", "abcd", "v: Data too long for column 'v'")]
    [InlineData("mysql", "v decimal(4,2)", "1234.5", "v: Out of range value for column 'v'")]
    [InlineData("mysql", "v smallint", "x", "v: Incorrect integer value: 'x'")]
    [InlineData("mysql", "v date", "2026-13-01", "v: Incorrect date value: '2026-13-01'")]
    [InlineData("mysql", "v text NOT NULL", "", "v: a rule of the database was broken: Column 'v' cannot be null")]
    [InlineData("sqlite", "v text NOT NULL", "", "v: a rule of the database was broken: NOT NULL constraint failed")]
    [InlineData("sqlite", "v text UNIQUE", "1", "v: a rule of the database was broken: UNIQUE constraint failed")]
    [InlineData("duckdb", "v smallint", "70000", "70000")]
    [InlineData("duckdb", "v date", "yesterday", "yesterday")]
    public async Task ItSaysWhichValueAndWhy(string type, string column, string value, string says)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int, {column})");
        var unique = column.Contains("UNIQUE", StringComparison.Ordinal);
        string Fits(int i) =>
            column.Contains("date", StringComparison.Ordinal) ? "2026-11-22" : $"{(unique ? i : i % 9)}";
        Bench.Write(
            "in.csv",
            "id,v\n" + string.Concat(Enumerable.Range(1, 600).Select(i => $"{i},{(i == 402 ? value : Fits(i))}\n"))
        );
        var failed = (await LoadAsync("""{"csv": "in.csv"}""", Into(), """, "batch": 1000""")).Error!;
        Assert.Equal(
            ("rejects", "at least 1 of 600 lines was rejected; the limit is 0"),
            (failed.Code, failed.Message)
        );
        Assert.Contains("First: line 403: ", failed.Detail, StringComparison.Ordinal);
        Assert.Contains(says, failed.Detail, StringComparison.Ordinal);
        Assert.Equal("0", await AskAsync($"SELECT count(*) AS c FROM {Table}"));
        Assert.Null(
            (await LoadAsync("""{"csv": "in.csv"}""", Into(), """, "batch": 1000, "reject": {"limit": 1}""")).Error
        );
        Assert.Equal("599", await AskAsync($"SELECT count(*) AS c FROM {Table}"));
        // Nobody continues with what was gathered.
        Assert.Equal(
            "0",
            await AskAsync(
                "SELECT count(*) AS c FROM "
                    + (type == "sqlite" ? "sqlite_master WHERE name" : "information_schema.tables WHERE table_name")
                    + " LIKE 'gatechain_stage%'"
            )
        );
    }

    // A server may be set to cut what is too long, and to tell of it in a warning that nobody reads.
    [Fact]
    public async Task AServerThatWouldCutValuesIsToldNotTo()
    {
        Connect("mysql");
        await ExecuteAsync($"CREATE TABLE {Table} (v varchar(3))");
        Assert.Equal("", await AskAsync("SELECT @@sql_mode AS m"));
        Bench.Write("in.csv", "v\nabcd\n");
        Assert.Equal("rejects", (await LoadAsync("""{"csv": "in.csv"}""", Into())).Error?.Code);
    }

    // The server's own way takes what fits just so, and gives way to the rows' where it does not: both have the same
    // end.
    [Theory]
    [InlineData("append", "", "the server's own way for many rows was taken")]
    [InlineData("upsert", "", "the server's own way for many rows was taken")]
    [InlineData("append", "3,1.234", "was taken for 1 of 2 batches; the first that it was not for: of 100 rows")]
    public async Task TheServersOwnWayIsToldAndSafe(string mode, string last, string says)
    {
        Connect("mysql-bulk");
        await ExecuteAsync(
            $"CREATE TABLE {Table} (id int PRIMARY KEY, v decimal(6,2), t varchar(40) CHARACTER SET utf8mb4)"
        );
        Bench.Write(
            "in.csv",
            "id,v,t\n"
                + string.Concat(
                    Enumerable.Range(1, 150).Select(i => $"{i + 1_000},{i}.25,\"a\tb\\\\ {i}\r\nö'\"\"\"\n")
                )
                + (last.Length > 0 ? last + ",\"\"\n" : "")
        );
        await MustAsync("""{"csv": "in.csv"}""", Into($""", "mode": "{mode}", "key": ["id"]"""), """, "batch": 100""");
        Assert.Contains(Bench.Log, l =>
            l.Contains(says.Replace("100", "51", StringComparison.Ordinal), StringComparison.Ordinal)
        );
        Assert.Equal(
            $"{(last.Length > 0 ? 151 : 150)} 150",
            await AskAsync(
                "SELECT count(*) AS c, count(CASE WHEN t = concat('a\\tb\\\\\\\\ ', id - 1000, "
                    + $"'\\r\\nö''\"') THEN 1 END) AS d FROM {Table}"
            )
        );
        if (last.Length > 0)
            Assert.Equal("1.23", await AskAsync($"SELECT v FROM {Table} WHERE id = 3"));
    }

    [Fact]
    public async Task ATableThatIsCreatedTakesAnyText()
    {
        Connect("mysql");
        Bench.Write("in.csv", "id,v\n1,Öre \U0001f42e \u0416\n");
        await MustAsync("""{"csv": "in.csv"}""", Into(""", "create": true"""));
        Assert.Equal("1 Öre \U0001f42e \u0416", await AskAsync($"SELECT * FROM {Table}"));
    }

    [Fact]
    public async Task WhatIsNoTableWithTransactionsGathersInAStage()
    {
        Connect("postgresql");
        await ExecuteAsync($"CREATE TABLE {Table} (id int); CREATE VIEW w{Table} AS SELECT id FROM {Table}");
        Bench.Write("in.csv", "id\n1\n");
        await MustAsync("""{"csv": "in.csv"}""", Into());
        Assert.Contains(Bench.Log, l =>
            l.EndsWith($"rows go straight into {Table}, in one transaction", StringComparison.Ordinal)
        );
        await MustAsync("""{"csv": "in.csv"}""", Into().Replace(Table, "w" + Table, StringComparison.Ordinal));
        Assert.Contains(Bench.Log, l =>
            l.EndsWith("it is a view, or has rules or row security", StringComparison.Ordinal)
        );
        Assert.Equal("2", await AskAsync($"SELECT count(*) AS c FROM {Table}"));
    }
}
