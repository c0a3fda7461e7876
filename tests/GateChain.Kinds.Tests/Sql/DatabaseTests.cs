using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Sql;
using GateChain.Kinds.Tests.Servers;

namespace GateChain.Kinds.Tests.Sql;

/// <summary>The kind <c>sql</c> on real databases.</summary>
public sealed class DatabaseTests(Servers.Databases databases) : IDisposable
{
    readonly Bench _bench = new();
    readonly SqlKind _kind = new();
    readonly string _table = "t" + Guid.NewGuid().ToString("N")[..12];

    public static TheoryData<string> Types => ["sqlite", "duckdb", "postgresql", "mysql"];

    public void Dispose() => _bench.Dispose();

    Task<AttemptResult> SqlAsync(
        string query,
        string more = "",
        string work = "w/1",
        CancellationToken cancel = default
    ) =>
        _bench.RunAsync(
            _kind,
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(query)}}{{more}}}""",
            work,
            cancel
        );

    async Task<Value> ScalarAsync(string query) =>
        (await SqlAsync(query, """, "give": "scalar" """)).Outputs.AsMap.Find("value")!.Value;

    [Theory]
    [MemberData(nameof(Types))]
    public async Task AListBehindInIsItsValues(string type)
    {
        databases.Connect(_bench, type);
        await SqlAsync(
            $"CREATE TABLE {_table} (id BIGINT, name VARCHAR(40)); INSERT INTO {_table} VALUES (1, "
                + "'north'), (2, 'so''uth'), (3, 'west'), (4, NULL)"
        );
        async Task<string> IdsAsync(string condition, string bind)
        {
            var result = await SqlAsync(
                $"SELECT id FROM {_table} WHERE {condition} ORDER BY id",
                $$""", "give": "rows", "bind": {{bind}}"""
            );
            return result.Error is { } error
                ? $"{error.Code}: {error.Message}"
                : string.Join(' ', result.Outputs.AsMap.Find("rows")!.Value.AsList.Select(r => r.AsMap.Find("id")));
        }
        Assert.Equal("1 3", await IdsAsync("id IN ($ids)", """{"ids": [3, 1]}"""));
        Assert.Equal("2 3", await IdsAsync("name in ( $names ) -- IN ($names)", """{"names": ["so'uth", "west"]}"""));
        Assert.Equal(
            "2",
            await IdsAsync(
                "id IN ($ids) AND name NOT IN ($names) AND id IN ($ids)",
                """{"ids": [1, 2, 4], "names": ["north"]}"""
            )
        );
        Assert.Equal("", await IdsAsync("id IN ($ids)", """{"ids": []}"""));
        Assert.StartsWith(
            "setting: the list “ids” is empty, and NOT IN of nothing can't be said",
            await IdsAsync("id NOT IN ($ids)", """{"ids": []}"""),
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "setting: the list “ids” holds a list, and IN takes single values",
            await IdsAsync("id IN ($ids)", """{"ids": [[1]]}"""),
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "setting: the list “ids” has 1,001 values",
            await IdsAsync("id IN ($ids)", $$"""{"ids": [{{string.Join(",", Enumerable.Range(0, 1_001))}}]}"""),
            StringComparison.Ordinal
        );
        // Anywhere else it is JSON, and a text is a text.
        var text = await SqlAsync(
            $"SELECT {(type == "mysql" ? "concat($l, ' IN ($l)')" : "CAST($l AS VARCHAR) || ' IN ($l)'")} AS v",
            """, "give": "scalar", "bind": {"l": [1, 2]}"""
        );
        Assert.Equal(
            "[1,2] IN ($l)",
            text.Error?.Message ?? ValueText.ToPlainString(text.Outputs.AsMap.Find("value")!.Value)
        );
    }

    [Fact]
    public async Task AListBehindAnyIsAnArrayOfPostgreSql()
    {
        databases.Connect(_bench, "postgresql");
        async Task<string> AskAsync(string query, string bind)
        {
            var result = await SqlAsync(query, $$""", "give": "scalar", "bind": {{bind}}""");
            return result.Error?.Message ?? ValueText.ToPlainString(result.Outputs.AsMap.Find("value")!.Value);
        }
        Assert.Equal(
            "2",
            await AskAsync(
                "SELECT count(*) FROM (VALUES (1), (2), (3)) v(g) WHERE g = any($l)",
                """{"l": [1, 3, null]}"""
            )
        );
        Assert.Equal(
            "1",
            await AskAsync(
                "SELECT count(*) FROM (VALUES ('a,{b'), ('c')) v(g) WHERE g = ANY ( $l::text[])",
                """{"l": ["a,{b", "x\\\"y"]}"""
            )
        );
        Assert.Equal("true", await AskAsync("SELECT 5 <> ALL($l::int[])", """{"l": []}"""));
        Assert.Equal("2", await AskAsync("SELECT jsonb_array_length($l::jsonb)", """{"l": [1, 2]}"""));
    }

    [Theory]
    [InlineData("larkmoor.TABLE", "mysql")]
    [InlineData("public.TABLE", "postgresql")]
    public async Task ANameWithAPointIsWrittenInQuotes(string name, string type)
    {
        databases.Connect(_bench, type);
        var (quote, table) = (type == "mysql" ? "`" : "\"", $"{_table}.2026");
        await SqlAsync($"CREATE TABLE {quote}{table}{quote} (id BIGINT)");
        _bench.Write("in.csv", "id\n1\n");
        var into = System.Text.Json.JsonSerializer.Serialize(
            name.Replace("TABLE", $"\"{table}\"", StringComparison.Ordinal)
        );
        var load = await _bench.RunAsync(
            new GateChain.Kinds.Load.LoadKind(),
            $$"""{"from": {"csv": "in.csv"}, "into": {"connection": "target", "table": {{into}}}, "columns": {"id": {"type": "int"} } }"""
        );
        Assert.True(load.Error is null, load.Error?.Message);
        Assert.Equal(1, (await ScalarAsync($"SELECT count(*) FROM {quote}{table}{quote}")).AsInt);
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task StatementsRunInOneTransactionAndGiveTypedRows(string type)
    {
        databases.Connect(_bench, type);
        Assert.Null(
            (
                await SqlAsync(
                    $"CREATE TABLE {_table} (id BIGINT PRIMARY KEY, name VARCHAR(40), price DOUBLE PRECISION)"
                )
            ).Error
        );
        var filled = await SqlAsync(
            $"INSERT INTO {_table} (id, name, price) VALUES ($id, $name, 1.5); INSERT INTO {_table} (id, "
                + "name, price) VALUES ($id + 1, 'costs $name', NULL) -- $id\n",
            """, "bind": {"id": 7, "name": "O'Leary; --"}"""
        );
        Assert.Null(filled.Error);
        var rows = await SqlAsync($"SELECT id, name, price FROM {_table} ORDER BY id", """, "give": "rows" """);
        Assert.Equal(
            """[{"id":7,"name":"O'Leary; --","price":1.5},{"id":8,"name":"costs $name","price":null}]""",
            ValueJson.ToText(rows.Outputs.AsMap.Find("rows")!.Value)
        );
        // The second statement breaks a rule: the first one counts for nothing.
        var broken = await SqlAsync($"DELETE FROM {_table} WHERE id = 7; INSERT INTO {_table} (id) VALUES (8)");
        Assert.Equal("constraint", broken.Error?.Code);
        Assert.Equal(2, (await ScalarAsync($"SELECT count(*) FROM {_table}")).AsInt);
    }

    // What no transaction may hold.
    [Theory]
    [InlineData("postgresql", "VACUUM")]
    [InlineData("sqlite", "VACUUM")]
    [InlineData("postgresql", "CREATE INDEX CONCURRENTLY i$ ON $ (id)")]
    public async Task AStatementRunsWithoutATransactionWhenItIsAlone(string type, string statement)
    {
        databases.Connect(_bench, type);
        await SqlAsync($"CREATE TABLE {_table} (id BIGINT)");
        statement = statement.Replace("$", _table);
        Assert.NotNull((await SqlAsync(statement)).Error);
        Assert.Null((await SqlAsync(statement, """, "alone": true""")).Error);
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task WorkThatIsMarkedIsDoneOnce(string type)
    {
        databases.Connect(_bench, type);
        await SqlAsync($"CREATE TABLE {_table} (id BIGINT)");
        var work = Guid.NewGuid().ToString("N");
        for (var i = 0; i < 3; i++)
        {
            var done = await SqlAsync(
                $"INSERT INTO {_table} (id) VALUES (1); SELECT count(*) FROM {_table}",
                """, "once": true, "give": "scalar" """,
                work
            );
            Assert.Null(done.Error);
            Assert.Equal(1, done.Outputs.AsMap.Find("value")!.Value.AsInt);
        }
        Assert.Equal(1, (await ScalarAsync($"SELECT count(*) FROM {_table}")).AsInt);
    }

    [Theory]
    [InlineData("sqlite", "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT count(*) FROM n")]
    [InlineData("duckdb", "SELECT count(*) FROM range(100000000000) a, range(1000) b")]
    [InlineData("postgresql", "SELECT pg_sleep(600)")]
    [InlineData("mysql", "SELECT sleep(600)")]
    public async Task StoppingReachesTheServer(string type, string query)
    {
        databases.Connect(_bench, type);
        using var stop = new CancellationTokenSource(400);
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var result = await SqlAsync(query, """, "give": "scalar" """, cancel: stop.Token);
        Assert.Equal("stopped", result.Error?.Code);
        Assert.True(clock.Elapsed < TimeSpan.FromMinutes(5), $"it took {clock.Elapsed}");
        if (type == "postgresql")
        {
            Assert.Equal(
                0,
                (
                    await ScalarAsync(
                        "SELECT count(*) FROM pg_stat_activity WHERE query LIKE '%pg_sleep%' AND state = "
                            + "'active' AND pid <> pg_backend_pid()"
                    )
                ).AsInt
            );
        }
    }

    [Theory]
    [InlineData(
        "postgresql",
        "SELECT true, 5::int, 12.5::numeric, date '2026-11-22', timestamptz '2026-11-22 06:30+00', "
            + "interval '90 seconds', ARRAY[1, 2], 'ü'::text",
        "true 5 12.5 2026-11-22T00:00:00Z 2026-11-22T06:30:00Z 90s [1, 2] ü"
    )]
    [InlineData(
        "mysql",
        "SELECT true + 0, 5, 12.5, date '2026-11-22', timestamp '2026-11-22 06:30:00', 'ü'",
        "1 5 12.5 2026-11-22T00:00:00Z 2026-11-22T06:30:00Z ü"
    )]
    [InlineData(
        "duckdb",
        "SELECT true, 5::int, 12.5::decimal(5,1), date '2026-11-22', timestamp '2026-11-22 06:30:00', 5::hugeint, 'ü'",
        "true 5 12.5 2026-11-22T00:00:00Z 2026-11-22T06:30:00Z 5 ü"
    )]
    public async Task ColumnsKeepTheirTypes(string type, string query, string expected)
    {
        databases.Connect(_bench, type);
        var row = (
            await SqlAsync(query.Replace("SELECT ", "SELECT ", StringComparison.Ordinal), """, "give": "row" """)
        ).Outputs;
        // Columns without names of their own may fall together, so they are asked for one by one where needed.
        var session = Session.Open("target", _bench.Context(), default);
        using (session)
        using (var command = session.Command(null, query))
        using (var reader = command.ExecuteReader())
        {
            Assert.True(reader.Read());
            Assert.Equal(
                expected,
                string.Join(
                    ' ',
                    Enumerable
                        .Range(0, reader.FieldCount)
                        .Select(i => ValueText.ToPlainString(Dialect.FromColumn(reader.GetValue(i))))
                )
            );
        }
        Assert.Equal(ValueKind.Map, row.AsMap.Find("row")!.Value.Kind);
    }

    [Theory]
    [InlineData("postgresql", "login", "refuses the user or the password")]
    [InlineData("mysql", "login", "refuses the user or the password")]
    public async Task AWrongPasswordIsTold(string type, string code, string words)
    {
        databases.Connect(_bench, type);
        _bench.Secrets["loader"] = "another one";
        var refused = await SqlAsync("SELECT 1");
        Assert.Equal(code, refused.Error?.Code);
        Assert.Contains(words, refused.Error!.Message);
        Assert.DoesNotContain("another one", refused.Error.ToString());
        _bench.Secrets.Clear();
        var missing = (await SqlAsync("SELECT 1")).Error!;
        Assert.Equal(
            (
                "no-secret",
                "there is no secret “loader”, which connection “target” needs",
                "Set it: gatechain secret set loader"
            ),
            (missing.Code, missing.Message, missing.Detail)
        );
    }

    [Theory]
    [InlineData("postgresql")]
    [InlineData("mysql")]
    [InlineData("sqlserver")]
    public async Task AServerThatIsNotThereIsTold(string type)
    {
        _bench.Connect(
            "target",
            type,
            ("host", "127.0.0.1"),
            ("port", ServerProcess.FreePort()),
            ("database", "larkmoor"),
            ("user", "loader"),
            ("password", "x"),
            ("connectTimeout", "3s")
        );
        var error = (await SqlAsync("SELECT 1")).Error!;
        Assert.Equal("unreachable", error.Code);
        Assert.StartsWith("the server of “target” can't be reached: ", error.Message);
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task AMissingTableIsTold(string type)
    {
        databases.Connect(_bench, type);
        var error = (await SqlAsync($"SELECT * FROM {_table}")).Error!;
        Assert.Contains(error.Code, new[] { "no-table", "sql" });
        Assert.Contains(_table, error.Message);
    }

    [Fact]
    public async Task NoticesOfTheServerAreInTheLog()
    {
        databases.Connect(_bench, "postgresql");
        Assert.Null(
            (
                await SqlAsync(
                    "DO $body$ BEGIN RAISE NOTICE 'the dairy says %', 'moo'; END $body$",
                    """, "bind": {"body": 1}"""
                )
            ).Error
        );
        Assert.Contains("note notice: the dairy says moo", _bench.Log);
    }

    [Theory]
    [InlineData(
        "SELECT $a, '$a', \"$a\", -- $a\n/* $a */ $tag$ $a $tag$ $ab a$a $1",
        "SELECT @a, '$a', \"$a\", -- $a\n/* $a */ $tag$ $a $tag$ $ab a$a $1"
    )]
    [InlineData("'it''s $a' || $a", "'it''s $a' || @a")]
    [InlineData("'never closed $a", "'never closed $a")]
    [InlineData("$a", "@a")]
    [InlineData("$", "$")]
    [InlineData("`$a` = $a;$a", "`$a` = @a;@a")]
    public void ParametersAreFoundWhereTheyAreParameters(string sql, string expected) =>
        Assert.Equal(expected, SqlText.WithMarkers(sql, new HashSet<string> { "a" }, "@"));

    [Theory]
    [InlineData("localhost", null, Tls.Prefer)]
    [InlineData("127.0.0.1", null, Tls.Prefer)]
    [InlineData("::1", null, Tls.Prefer)]
    [InlineData("/run/postgresql", null, Tls.Prefer)]
    [InlineData("db.larkmoor.example", null, Tls.Require)]
    [InlineData("10.1.2.3", null, Tls.Require)]
    [InlineData("localhost.larkmoor.example", null, Tls.Require)]
    [InlineData("db.larkmoor.example", Tls.Off, Tls.Off)]
    [InlineData("db.larkmoor.example", Tls.Prefer, Tls.Prefer)]
    [InlineData("localhost", Tls.Verify, Tls.Verify)]
    public void ServersElsewhereAreNotSpokenToInTheClearUnlessSomebodySaysSo(string host, Tls? said, Tls holds) =>
        Assert.Equal(holds, new ServerSettings { Host = host, Tls = said }.TlsRule);
}
