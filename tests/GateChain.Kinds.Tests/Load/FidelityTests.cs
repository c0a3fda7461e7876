using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

/// <summary>Values arrive as they were: each of these was changed, or lost, while the run was green.</summary>
public sealed class FidelityTests(Servers.Databases databases) : LoadBench(databases)
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

    // Types of PostgreSQL, into itself and into files

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

    // Text files

    [Fact]
    public async Task NamesThatTheFirstLineLacksArriveToo()
    {
        Bench.Write("in.jsonl", "{\"id\":50}\n{\"id\":51,\"v\":\"LATE\"}\n");
        await MustAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""");
        Assert.Equal("id,v\n50,\n51,LATE\n", File.ReadAllText(Bench["out.csv"]));
    }

    [Theory]
    [InlineData("id,name,city\n1,Smith, John,Paris\n", "rejects", "line 2: the line has 4 fields, and the header 3")]
    [InlineData("id,name\n1,x,\n2,y,,\n", null, "1,x\n2,y")]
    [InlineData("id,name\n\n1,x\n\r\n2,y\n\n\n", null, "1,x\n2,y")]
    [InlineData("id\n1\n\n\"\"\n2\n", null, "1\n\"\"\n2")]
    [InlineData("id,name\n1,\"a,\"\"\"\"b\"\n2,\"\"\n3,\n", null, "1,\"a,\"\"\"\"b\"\n2,\"\"\n3,")]
    [InlineData("id;name\n\"\";\"\"\n;\"x;\"\"\"\n", null, "\"\",\"\"\n,\"x;\"\"\"")]
    public async Task LinesOfACsvFileAreRowsWholeOrRejects(string text, string? code, string expected)
    {
        Bench.Write("in.csv", text);
        var result = await LoadAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""");
        Assert.Equal(code, result.Error?.Code);
        if (code is not null)
            Assert.Contains(expected, result.Error!.Detail, StringComparison.Ordinal);
        else
            Assert.Equal(expected, string.Join('\n', File.ReadAllLines(Bench["out.csv"]).Skip(1)));
    }

    [Theory]
    [InlineData("", "header", "in.csv is empty")]
    [InlineData("id,id\n1,2\n", "header", "“id” twice")]
    [InlineData("id\nBIG5\n", null, "")]
    [InlineData("id\n1\nBIG20\n", "csv", "line 3 of in.csv has more than 16 Mi characters")]
    [InlineData("id\n1\n\"BIG20\n", "csv", "line 3 of in.csv has more than 16 Mi characters")]
    public async Task NoFileIsAMistakeOfGateChain(string text, string? code, string says)
    {
        Bench.Write(
            "in.csv",
            text.Replace("BIG5", new string('x', 5 << 20), StringComparison.Ordinal)
                .Replace("BIG20", new string('x', 20 << 20), StringComparison.Ordinal)
        );
        var result = await LoadAsync("""{"csv": "in.csv"}""", """{"jsonl": "out.jsonl"}""");
        Assert.Equal(code, result.Error?.Code);
        Assert.Contains(says, result.Error?.Message ?? "", StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("csv", 3)]
    [InlineData("csv", 100_000)]
    [InlineData("jsonl", 100)]
    public async Task ALineThatIsNotUtf8IsARejectAndNothingElseIs(string kind, int line)
    {
        var text = new MemoryStream();
        if (kind == "csv")
            text.Write("id,n\n"u8);
        for (var i = kind == "csv" ? 2 : 1; i < line; i++)
            text.Write(Encoding.UTF8.GetBytes(kind == "csv" ? $"{i},Öre\n" : $"{{\"id\":{i},\"n\":\"Öre\"}}\n"));
        text.Write(
            kind == "csv" ? [.. "1,M"u8, 0xfc, .. "ller\n"u8] : [.. "{\"id\":1,\"n\":\"M"u8, 0xfc, .. "ller\"}\n"u8]
        );
        text.Write(kind == "csv" ? "2,Ärzte \ufffd\n"u8 : "{\"id\":2,\"n\":\"Ärzte\"}\n"u8);
        File.WriteAllBytes(Bench["l1." + kind], text.ToArray());
        var from = $$"""{"{{kind}}": "l1.{{kind}}"}""";
        var error = (await LoadAsync(from, """{"csv": "out.csv"}""")).Error!;
        Assert.Equal("rejects", error.Code);
        Assert.Contains(
            $"First: line {line}: {(kind == "csv" ? "n" : "the line")} is not UTF-8: ",
            error.Detail,
            StringComparison.Ordinal
        );
        Assert.Contains("iconv", error.Detail, StringComparison.Ordinal);
        var result = await MustAsync(from, """{"csv": "out.csv"}""", """, "reject": {"limit": 1, "file": "bad.csv"}""");
        Assert.Equal(
            (kind == "csv" ? line - 1 : line).ToString(System.Globalization.CultureInfo.InvariantCulture),
            Count(result, "written")
        );
        Assert.DoesNotContain("ller", File.ReadAllText(Bench["out.csv"]), StringComparison.Ordinal);
        Assert.EndsWith(
            "\n2,Ärzte" + (kind == "csv" ? " \ufffd\n" : "\n"),
            File.ReadAllText(Bench["out.csv"]),
            StringComparison.Ordinal
        );
        Assert.StartsWith($"l1.{kind},{line},", File.ReadAllLines(Bench["bad.csv"])[1], StringComparison.Ordinal);
    }

    // Signs of UTF-16 that are halves of one, and a file that ends in the middle of a sign.
    [Theory]
    [InlineData(
        new byte[]
        {
            0xff,
            0xfe,
            (byte)'n',
            0,
            (byte)'\n',
            0,
            (byte)'a',
            0,
            (byte)'\n',
            0,
            0x00,
            0xd8,
            (byte)'\n',
            0,
            (byte)'b',
            0,
        },
        "a b"
    )]
    [InlineData(new byte[] { (byte)'n', (byte)'\n', (byte)'a', (byte)'\n', (byte)'b', (byte)'\n', 0xc3 }, "a b")]
    [InlineData(
        new byte[]
        {
            0xef,
            0xbb,
            0xbf,
            (byte)'n',
            (byte)'\n',
            (byte)'a',
            (byte)'\n',
            0xff,
            (byte)'\n',
            (byte)'b',
            (byte)'\n',
        },
        "a b"
    )]
    public async Task WhatIsNoTextIsFoundInAnyEncoding(byte[] file, string expected)
    {
        File.WriteAllBytes(Bench["in.csv"], file);
        Assert.Equal(
            "1",
            Count(
                await MustAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""", """, "reject": {"limit": 1}"""),
                "rejected"
            )
        );
        Assert.Equal("n " + expected, string.Join(' ', File.ReadAllLines(Bench["out.csv"])));
    }

    [Theory]
    [InlineData("id,n\n1,\"a\"b\n2,c\n", "line 2: something stands behind a quote", "2,c")]
    [InlineData("id,n\n1,a\"b\n2,\"c\"\n", null, "1,\"a\"\"b\"|2,c")]
    [InlineData("id,n\n1,\"a\nb\"\n2,c\n", null, "1,\"a|b\"|2,c")]
    [InlineData("id,n\r\n1,\"a\"\r\n2,\"c\" \r\n3,d\r\n", "line 3: something stands", "1,a|3,d")]
    [InlineData("id,n\n1,\"a\n2,c\n", "line 2 of in.csv has a quote that is not closed", null)]
    [InlineData("id,n\n1\n2,c\n3,d,e\n4,f\n", "line 2: the line has only 1 fields", "2,c|4,f")]
    public async Task ACsvLineThatIsBrokenIsARejectAndReadingGoesOn(string text, string? says, string? arrives)
    {
        Bench.Write("in.csv", text);
        var error = (await LoadAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""")).Error;
        if (says is null)
            Assert.Null(error);
        else
            Assert.Contains(says, $"{error?.Message} {error?.Detail}", StringComparison.Ordinal);
        var result = await LoadAsync(
            """{"csv": "in.csv"}""",
            """{"csv": "out.csv"}""",
            """, "reject": {"limit": 2, "file": "bad.csv"}"""
        );
        Assert.Equal(arrives is null, result.Error is not null);
        if (arrives is not null)
            Assert.Equal(arrives, string.Join('|', File.ReadAllLines(Bench["out.csv"]).Skip(1)));
    }

    [Theory]
    [InlineData("{\"id\":1}\n{\"id\":\n{\"id\":3}\n", "line 2: the line is not JSON: ")]
    [InlineData("{\"id\":1}\n[2]\n{\"id\":3}\n", "line 2: the line is not a JSON object")]
    [InlineData("{\"id\":1}\n\n{\"id\":\"\\ud800\"}\n{\"id\":3}\n", "line 3: the line has a text that is no Unicode")]
    [InlineData("{\"id\":1} x\n{\"id\":1}\n{\"id\":3}", "line 1: the line is not JSON: ")]
    public async Task AJsonLineThatIsBrokenIsARejectAndReadingGoesOn(string text, string says)
    {
        Bench.Write("in.jsonl", text);
        Assert.Contains(
            "First: " + says,
            (await LoadAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""")).Error?.Detail,
            StringComparison.Ordinal
        );
        await MustAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""", """, "reject": {"limit": 1}""");
        Assert.Equal("id 1 3", string.Join(' ', File.ReadAllLines(Bench["out.csv"])));
    }

    [Theory]
    [InlineData("csv", "id\n1\n2\n")]
    [InlineData("jsonl", "{\"id\":1}\n{\"id\":2}\n")]
    public async Task AFileThatIsStillWrittenIsNotTakenForAWholeOne(string kind, string text)
    {
        Bench.Write("in." + kind, text);
        Bench.Write("out.csv", "before");
        var settings = ValueJson
            .TryParse(
                $$$"""{"from": {"{{{kind}}}": "in.{{{kind}}}"}, "into": {"csv": "out.csv"}, "columns": {"id": {"value": "row.id"}}, "batch": 100}"""
            )!
            .Value;
        // The file grows once it is open.
        var grown = false;
        var context = Bench.Context() with
        {
            Attachment = _ => null,
            Time = new Told(() =>
            {
                if (!grown)
                {
                    grown = true;
                    File.AppendAllText(Bench["in." + kind], text[text.IndexOf('\n', StringComparison.Ordinal)..]);
                }
            }),
        };
        var error = (await new LoadKind().RunAsync(settings, context, default)).Error!;
        Assert.Equal(
            ("changed", true),
            (error.Code, error.Message.Contains("still being written", StringComparison.Ordinal))
        );
        Assert.Equal("before", File.ReadAllText(Bench["out.csv"]));
    }

    // Tells that the clock is asked for: a load does so when its source is open.
    sealed class Told(Action asked) : TimeProvider
    {
        public override long GetTimestamp()
        {
            asked();
            return base.GetTimestamp();
        }
    }
}
