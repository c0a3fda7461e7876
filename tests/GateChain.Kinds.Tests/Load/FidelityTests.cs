using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

/// <summary>Values arrive as they were: each of these was changed, or lost, while the run was green.</summary>
public sealed partial class FidelityTests(Servers.Databases databases) : LoadBench(databases)
{
    // Numbers

    [Theory]
    [InlineData("9007199254740993")]
    [InlineData("1234567890123456.78")]
    [InlineData("12345678901234567890")]
    [InlineData("1234567890123456789")]
    [InlineData("-9223372036854775808")]
    [InlineData("0.1000000000000000000000000000000000001")]
    [InlineData("1.10")]
    [InlineData("-0.0")]
    [InlineData("1e400")]
    public async Task ANumberOfJsonKeepsAllOfItsDigits(string number)
    {
        Bench.Write("in.jsonl", $$"""{"id":1,"n":{{number}}}""");
        await MustAsync("""{"jsonl": "in.jsonl"}""", """{"jsonl": "out.jsonl"}""");
        await MustAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""");
        Assert.Equal($$"""{"id":1,"n":{{number}}}""" + "\n", File.ReadAllText(Bench["out.jsonl"]));
        Assert.Equal($"id,n\n1,{number}\n", File.ReadAllText(Bench["out.csv"]));
    }

    [Theory]
    [InlineData("postgresql", "numeric", "1234567890123456.78", "n::text")]
    [InlineData("postgresql", "numeric", "12345678901234567890123456789012345678.123456789", "n::text")]
    [InlineData("postgresql", "bigint", "9007199254740993", "n::text")]
    [InlineData("mysql", "decimal(30,4)", "1234567890123456.7800", "cast(n as char)")]
    [InlineData("mysql", "bigint", "9007199254740993", "cast(n as char)")]
    [InlineData("mysql", "bigint unsigned", "18446744073709551615", "cast(n as char)")]
    [InlineData("duckdb", "decimal(30,4)", "1234567890123456.7800", "n::varchar")]
    [InlineData("duckdb", "hugeint", "12345678901234567890", "n::varchar")]
    [InlineData("sqlite", "numeric", "9007199254740993", "cast(n as text)")]
    public async Task ANumberOfJsonReachesTheTableWhole(string type, string column, string number, string asText)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (n {column})");
        Bench.Write("in.jsonl", $$"""{"n":{{number}}}""");
        await MustAsync("""{"jsonl": "in.jsonl"}""", Into());
        Assert.Equal(number, await AskAsync($"SELECT {asText} AS t FROM {Table}"));
        // And from there back into a file.
        await MustAsync($$"""{"connection": "target", "table": "{{Table}}"}""", """{"jsonl": "back.jsonl"}""");
        Assert.Equal($$"""{"n":{{number}}}""" + "\n", File.ReadAllText(Bench["back.jsonl"]));
    }

    [Theory]
    [InlineData("12345678901234567890", "int", false)]
    [InlineData("1e300", "int", false)]
    [InlineData("-1e19", "int", false)]
    [InlineData("9223372036854775807", "int", true)]
    [InlineData("9223372036854775808", "int", false)]
    [InlineData("1e3", "int", true)]
    [InlineData("1.0", "int", true)]
    [InlineData("1.5", "int", false)]
    [InlineData("\"1e3\"", "double", true)]
    [InlineData("\"1E-5\"", "double", true)]
    [InlineData("\"1e+10\"", "double", true)]
    [InlineData("1e400", "double", false)]
    [InlineData("\"True\"", "bool", true)]
    [InlineData("\"FALSE\"", "bool", true)]
    [InlineData("\"t\"", "bool", true)]
    [InlineData("\"yes\"", "bool", true)]
    [InlineData("1", "bool", true)]
    [InlineData("2", "bool", false)]
    [InlineData("\"maybe\"", "bool", false)]
    public async Task AValueIsOfItsTypeExactlyOrARejectAndNeverTheNearestThereIs(string value, string type, bool fits)
    {
        Bench.Write("in.jsonl", $$"""{"n":{{value}}}""");
        var result = await LoadAsync(
            """{"jsonl": "in.jsonl"}""",
            """{"csv": "out.csv"}""",
            $", \"columns\": {{\"n\": {{\"type\": \"{type}\"}}}}"
        );
        Assert.Equal(fits ? null : "rejects", result.Error?.Code);
        if (!fits)
        {
            Assert.Contains(
                $"n is not a{(type == "int" ? "n" : "")} {type}: {value.Trim('"')}",
                result.Error!.Detail,
                StringComparison.Ordinal
            );
        }
    }

    // Nothing and empty texts

    [Theory]
    [MemberData(nameof(Types))]
    public async Task AnEmptyTextIsNotNothingAndNothingIsNotAnEmptyText(string type)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int, v varchar(20))");
        const string Expected = "1 |2 NULL|3 x";
        Bench.Write("in.csv", "id,v\n1,\"\"\n2,\n3,x\n");
        await MustAsync("""{"csv": "in.csv"}""", Into());
        Assert.Equal(Expected, await AskAsync($"SELECT id, v FROM {Table} ORDER BY id"));
        // Through every file and another table, and back.
        foreach (
            var (kind, target) in ((string, string)[])
                [
                    ("csv", """{"csv": "f.csv"}"""),
                    ("jsonl", """{"jsonl": "f.jsonl"}"""),
                    ("parquet", """{"parquet": "f.parquet"}"""),
                ]
        )
        {
            await MustAsync(Query($"SELECT id, v FROM {Table} ORDER BY id"), target);
            await ExecuteAsync($"DELETE FROM {Table}");
            await MustAsync(target, Into());
            Assert.True(Expected == await AskAsync($"SELECT id, v FROM {Table} ORDER BY id"), kind);
        }
        await ExecuteAsync($"CREATE TABLE {Table}2 (id int, v varchar(20))");
        await MustAsync(
            Query($"SELECT id, v FROM {Table}"),
            Into().Replace(Table, Table + "2", StringComparison.Ordinal)
        );
        Assert.Equal(Expected, await AskAsync($"SELECT id, v FROM {Table}2 ORDER BY id"));
    }

    // Keys

    [Theory]
    [MemberData(nameof(Types))]
    public async Task AKeyThatStandsTwiceGetsTheLastRowAtEveryLoad(string type)
    {
        Connect(type);
        Bench.Write("k.csv", "id,v\n1,a\n2,b\n2,c\n3,d\n");
        for (var load = 0; load < 3; load++)
        {
            var result = await MustAsync(
                """{"csv": "k.csv"}""",
                Into(""", "create": true, "mode": "upsert", "key": ["id"]"""),
                """, "columns": {"id": {"type": "int"}, "v": {}}"""
            );
            Assert.Equal("1 a|2 c|3 d", await AskAsync($"SELECT id, v FROM {Table} ORDER BY id"));
            Assert.Equal(
                load == 0 ? "4 3 0" : "4 0 3",
                $"{Count(result, "read")} {Count(result, "written")} {Count(result, "unchanged")}"
            );
        }
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task AnInsertAddsWhatIsNewAndLeavesTheRest(string type)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int primary key, v varchar(20))");
        await ExecuteAsync($"INSERT INTO {Table} VALUES (1, 'kept'), (9, 'other')");
        Bench.Write("in.csv", "id,v\n1,changed\n2,b\n3,c\n3,d\n");
        for (var load = 0; load < 2; load++)
        {
            var result = await MustAsync(
                """{"csv": "in.csv"}""",
                Into(""", "mode": "insert", "key": ["id"]"""),
                """, "columns": {"id": {"type": "int"}, "v": {}}"""
            );
            Assert.Equal("1 kept|2 b|3 d|9 other", await AskAsync($"SELECT id, v FROM {Table} ORDER BY id"));
            Assert.Equal(
                load == 0 ? "4 2 1" : "4 0 3",
                $"{Count(result, "read")} {Count(result, "written")} {Count(result, "unchanged")}"
            );
        }
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task AChangeOfCaseAccentsOrSpacesIsAChange(string type)
    {
        Connect(type);
        await ExecuteAsync(
            $"CREATE TABLE {Table} (id int primary key, v varchar(20){(type == "sqlite" ? " COLLATE NOCASE" : "")})"
        );
        await ExecuteAsync($"INSERT INTO {Table} VALUES (1, 'muller'), (2, 'a'), (3, 'x')");
        Bench.Write("in.csv", "id,v\n1,Müller\n2,A\n3,\"x \"\n");
        var result = await MustAsync(
            """{"csv": "in.csv"}""",
            Into(""", "mode": "upsert", "key": ["id"]"""),
            """, "columns": {"id": {"type": "int"}, "v": {}}"""
        );
        Assert.Equal(("3", "0"), (Count(result, "written"), Count(result, "unchanged")));
        Assert.Equal("1 Müller|2 A|3 x ", await AskAsync($"SELECT id, v FROM {Table} ORDER BY id"));
    }

    [Theory]
    [InlineData("mysql")]
    [InlineData("postgresql")]
    public async Task UpsertsAtOnceIntoOneTableAllGoThrough(string type)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int primary key, v varchar(20))");
        await ExecuteAsync($"CREATE INDEX i{Table} ON {Table} (v)");
        for (var f = 0; f < 4; f++)
        {
            // By turns up and down: each locks what the other wants next.
            var ids = Enumerable.Range(1, 2_000);
            Bench.Write(
                $"in{f}.csv",
                "id,v\n" + string.Concat((f % 2 == 0 ? ids : ids.Reverse()).Select(i => $"{i},{f}-{i}\n"))
            );
        }
        var loads = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(f => LoadAsync($$"""{"csv": "in{{f}}.csv"}""", Into(""", "mode": "upsert", "key": ["id"]""")))
        );
        Assert.All(loads, l => Assert.True(l.Error is null, l.Error?.Message));
        Assert.Equal("2000", await AskAsync($"SELECT count(*) AS c FROM {Table}"));
    }

    [Theory]
    [InlineData(
        "postgresql",
        "SELECT 1.10::numeric(12,2) AS n, date '2024-02-29' AS d, time '01:02:03.5' AS t, "
            + "timestamp '2024-02-29 01:02:03.123456' AS ts, timestamptz '2024-02-29 01:02:03+00' AS tz, "
            + "5::bigint AS i, true AS b, 0.5::float8 AS f, '\\x00ff'::bytea AS y, "
            + "'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11'::uuid AS u, '{1,NULL}'::int[] AS l",
        "SELECT string_agg(data_type, ', ' ORDER BY ordinal_position) AS t FROM "
            + "information_schema.columns WHERE table_name = 'TABLE'",
        "numeric, date, time without time zone, timestamp without time zone, timestamp with time zone, "
            + "bigint, boolean, double precision, bytea, uuid, ARRAY"
    )]
    [InlineData(
        "mysql",
        "SELECT cast(1.10 as decimal(12,2)) AS n, date '2024-02-29' AS d, "
            + "cast('01:02:03.5' as time(6)) AS t, cast('2024-02-29 01:02:03.123456' as datetime(6)) AS ts, "
            + "cast(5 as signed) AS i, 0.5e0 AS f, 'x' AS s",
        "SELECT group_concat(data_type ORDER BY ordinal_position SEPARATOR ', "
            + "') AS t FROM information_schema.columns WHERE table_name = 'TABLE'",
        "decimal, date, time, datetime, bigint, double, text"
    )]
    [InlineData(
        "duckdb",
        "SELECT 1.10::DECIMAL(12,2) AS n, DATE '2024-02-29' AS d, TIME '01:02:03.5' AS t, "
            + "TIMESTAMP '2024-02-29 01:02:03.123456' AS ts, 5::BIGINT AS i, true AS b, 0.5::DOUBLE AS f, "
            + "'\\x00\\xff'::BLOB AS y, [1, NULL] AS l",
        "SELECT string_agg(data_type, ', ' ORDER BY ordinal_position) AS t FROM "
            + "information_schema.columns WHERE table_name = 'TABLE'",
        "DECIMAL(12,2), DATE, TIME, TIMESTAMP, BIGINT, BOOLEAN, DOUBLE, BLOB, VARCHAR"
    )]
    public async Task ATableThatIsCreatedHasTheTypesOfItsSource(string type, string query, string ask, string types)
    {
        Connect(type);
        await MustAsync(Query(query), Into(""", "create": true"""));
        Assert.Equal(types, await AskAsync(ask.Replace("TABLE", Table, StringComparison.Ordinal)));
        // Out of it again, all values are what they were.
        await MustAsync(Query(query), """{"csv": "from.csv"}""");
        await MustAsync($$"""{"connection": "target", "table": "{{Table}}"}""", """{"csv": "back.csv"}""");
        Assert.Equal(
            File.ReadAllText(Bench["from.csv"]).Replace("[1,null]", "LIST", StringComparison.Ordinal),
            File.ReadAllText(Bench["back.csv"])
                .Replace("[1,null]", "LIST", StringComparison.Ordinal)
                .Replace("{1,NULL}", "[1,null]", StringComparison.Ordinal)
                .Replace("\"[1,null]\"", "\"LIST\"", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task AParquetFileHasTheTypesOfItsSource()
    {
        Connect("postgresql");
        Connect("duckdb", "duck");
        await MustAsync(
            Query(
                "SELECT 1.10::numeric(12,2) AS n, date '2024-02-29' AS d, timestamp '2024-02-29 "
                    + "01:02:03.123456' AS ts, 5::bigint AS i, true AS b, 0.5::float8 AS f, 'x'::text AS t, "
                    + "'\\x00ff'::bytea AS y"
            ),
            """{"parquet": "w.parquet"}"""
        );
        var described = await Bench.RunAsync(
            new SqlKind(),
            """{"connection": "duck", "query": "SELECT string_agg(column_type, ' ') AS t FROM (DESCRIBE SELECT * FROM read_parquet('FILE'))", "give": "scalar"}""".Replace(
                "FILE",
                Bench["w.parquet"],
                StringComparison.Ordinal
            )
        );
        Assert.Equal(
            "DECIMAL(12,2) DATE TIMESTAMP BIGINT BOOLEAN DOUBLE VARCHAR BLOB",
            ValueText.ToPlainString(described.Outputs.AsMap.Find("value") ?? Value.String(described.Error!.Message))
        );
        await MustAsync("""{"parquet": "w.parquet"}""", """{"csv": "w.csv"}""");
        Assert.Equal(
            "n,d,ts,i,b,f,t,y\n1.10,2024-02-29,2024-02-29T01:02:03.123456Z,5,true,0.5,x,AP8=\n",
            File.ReadAllText(Bench["w.csv"])
        );
    }
}
