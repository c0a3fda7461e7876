using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

/// <summary>The kind <c>load</c> from anything into anything, on real databases.</summary>
[Collection("stages")]
public sealed class SourceAndTargetTests(Servers.Databases databases) : IDisposable
{
    readonly Bench _bench = new();
    readonly LoadKind _kind = new();
    readonly string _table = "t" + Guid.NewGuid().ToString("N")[..12];

    public static TheoryData<string> Types => ["sqlite", "duckdb", "postgresql", "mysql", "mysql-bulk"];

    public void Dispose() => _bench.Dispose();

    const string Columns =
        """ "columns": {"id": {"type": "int", "required": true}, "farm": {}, "litres": {"type": "double"}, "taken": {"type": "timestamp"}, "cooled": {"type": "bool"}} """;

    Task<AttemptResult> LoadAsync(
        string from,
        string into,
        string more = "",
        string columns = Columns,
        string? work = null
    ) =>
        _bench.RunAsync(
            _kind,
            $$"""{"from": {{from}}, "into": {{into}}, {{columns}}{{more}}}""",
            work ?? Guid.NewGuid().ToString("N")
        );

    static string Csv(int rows) =>
        "id,farm,litres,taken,cooled\n"
        + string.Concat(
            Enumerable
                .Range(1, rows)
                .Select(i =>
                    $"{i},\"Öre, {i}\",{i}.25,2026-11-{i % 28 + 1:00}T05:30:00Z,{(i % 2 == 0 ? "true" : "false")}\n"
                )
        );

    static string Counts(AttemptResult result) =>
        string.Join(
            ' ',
            new[] { "rows_read", "rows_written", "rows_rejected" }.Select(n => result.Outputs.AsMap.Find(n))
        );

    async Task<string> AskAsync(string query)
    {
        var result = await _bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(query)}}, "give": "row"}"""
        );
        Assert.Null(result.Error);
        return string.Join(
            ' ',
            result.Outputs.AsMap.Find("row")!.Value.AsMap.Entries.Select(e => ValueText.ToPlainString(e.Value))
        );
    }

    static string Stages(string type) =>
        $"{(type == "sqlite" ? "sqlite_master WHERE name" : "information_schema.tables WHERE table_name")}"
        + " LIKE 'gatechain_stage%'";

    string Into(string more = "") => $$"""{"connection": "target", "table": "{{_table}}"{{more}}}""";

    [Theory]
    [MemberData(nameof(Types))]
    public async Task ATableIsCreatedFilledAndUpserted(string type)
    {
        databases.Connect(_bench, type);
        _bench.Write("in.csv", Csv(2_500));
        var into = Into(""", "create": true, "mode": "upsert", "key": ["id"]""");
        var first = await LoadAsync("""{"csv": "in.csv"}""", into, """, "batch": 1000""");
        Assert.Null(first.Error);
        Assert.Equal("2500 2500 0", Counts(first));
        _bench.Write("in.csv", "id,farm,litres,taken,cooled\n2,new,2,2026-11-22,true\n2501,,,,\n");
        Assert.Equal("2 2 0", Counts(await LoadAsync("""{"csv": "in.csv"}""", into)));
        // What stands there just so is left alone, absent values included.
        var again = await LoadAsync("""{"csv": "in.csv"}""", into);
        Assert.Equal("2 0 0", Counts(again));
        Assert.Equal(Value.Int(2), again.Outputs.AsMap.Find("rows_unchanged"));
        // Of rows with the same key the last one counts.
        _bench.Write(
            "twice.csv",
            "id,farm,litres,taken,cooled\n3,first,3,2026-11-22,true\n4,x,4,2026-11-22,true\n"
                + "3,second,33,2026-11-22,true\n"
        );
        Assert.Null((await LoadAsync("""{"csv": "twice.csv"}""", into)).Error);
        Assert.Equal("second 33", await AskAsync($"SELECT farm, litres FROM {_table} WHERE id = 3"));
        Assert.Equal("2501 2500", await AskAsync($"SELECT count(*) AS c, count(farm) AS f FROM {_table}"));
        Assert.Equal("new 2", await AskAsync($"SELECT farm, litres FROM {_table} WHERE id = 2"));
        Assert.Equal("Öre, 7 7.25", await AskAsync($"SELECT farm, litres FROM {_table} WHERE id = 7"));
        Assert.Equal("0", await AskAsync($"SELECT count(*) AS c FROM {Stages(type)}"));
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task ATableIsEmptiedInTheQuickWay(string type)
    {
        databases.Connect(_bench, type);
        _bench.Write("in.csv", Csv(300));
        var into = Into(""", "create": true, "mode": "truncate" """);
        for (var i = 0; i < 2; i++)
            Assert.Equal("300 300 0", Counts(await LoadAsync("""{"csv": "in.csv"}""", into, """, "batch": 100""")));
        Assert.Equal("300", await AskAsync($"SELECT count(*) AS c FROM {_table}"));
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task RowsComeBackOutOfATableAsTheyWere(string type)
    {
        databases.Connect(_bench, type);
        _bench.Write("in.csv", Csv(1_200));
        Assert.Null((await LoadAsync("""{"csv": "in.csv"}""", Into(""", "create": true"""))).Error);
        Assert.Null(
            (
                await LoadAsync(
                    $$$"""{"connection": "target", "query": "SELECT * FROM {{{_table}}} WHERE id > $least ORDER BY id", "bind": {"least": 0}}""",
                    """{"csv": "out.csv"}"""
                )
            ).Error
        );
        Assert.Equal(Csv(1_200), File.ReadAllText(_bench["out.csv"]));
    }

    [Theory]
    [InlineData("jsonl")]
    [InlineData("parquet")]
    public async Task FilesAreWrittenAndReadAgain(string form)
    {
        _bench.Write("in.csv", Csv(30_000));
        var out1 = await LoadAsync("""{"csv": "in.csv"}""", $$"""{"{{form}}": "deep/out.{{form}}"}""");
        Assert.Null(out1.Error);
        Assert.Equal(
            "30000 30000 0",
            Counts(await LoadAsync($$"""{"{{form}}": "deep/out.{{form}}"}""", """{"csv": "back.csv"}"""))
        );
        Assert.Equal(Csv(30_000), File.ReadAllText(_bench["back.csv"]));
        Assert.Equal([$"out.{form}"], Directory.GetFiles(_bench["deep"]).Select(Path.GetFileName));
    }

    [Fact]
    public async Task JsonLinesMayLackNamesAndBlankLinesAreNoRows()
    {
        _bench.Write(
            "in.jsonl",
            "{\"id\": 1, \"litres\": 2.5, \"nested\": {\"a\": [1]}}\n\n{\"farm\": \"x\\ny\", \"id\": \"3\"}\n"
        );
        Assert.Null(
            (
                await LoadAsync(
                    """{"jsonl": "in.jsonl"}""",
                    """{"csv": "out.csv"}""",
                    columns: """ "columns": {"id": {"type": "int"}, "farm": {}, "nested": {}} """
                )
            ).Error
        );
        Assert.Equal("id,farm,nested\n1,,\"{\"\"a\"\": [1]}\"\n3,\"x\ny\",\n", File.ReadAllText(_bench["out.csv"]));
        _bench.Write("in.jsonl", "{\"id\": 1}\n[2]\n");
        Assert.Contains(
            "First: line 2: the line is not a JSON object",
            (await LoadAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""")).Error?.Detail,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task AWorkbookIsReadBySheet()
    {
        Workbook.Write(
            _bench["in.xlsx"],
            (
                "Notes",
                [
                    ["nothing here"],
                ]
            ),
            (
                "Samples",
                [
                    ["id", "farm", "litres"],
                    ["1", "Öre", "2.5"],
                    ["2", "", "x"],
                ]
            )
        );
        var result = await LoadAsync(
            """{"xlsx": "in.xlsx", "sheet": "Samples"}""",
            """{"csv": "out.csv"}""",
            """, "reject": {"limit": 1, "file": "bad.csv"}""",
            """ "columns": {"id": {"type": "int"}, "farm": {}, "litres": {"type": "double"}} """
        );
        Assert.Null(result.Error);
        Assert.Equal("2 1 1", Counts(result));
        Assert.Equal("id,farm,litres\n1,Öre,2.5\n", File.ReadAllText(_bench["out.csv"]));
        Assert.Contains("in.xlsx,3,litres,x,litres is not a double: x", File.ReadAllText(_bench["bad.csv"]));
        Assert.Equal(
            ("xlsx", "It has: Notes, Samples"),
            await LoadAsync("""{"xlsx": "in.xlsx", "sheet": "Sample"}""", """{"csv": "o.csv"}""") is { Error: { } e }
                ? (e.Code, e.Detail)
                : default
        );
        _bench.Write("no.xlsx", "not a workbook");
        Assert.Equal("xlsx", (await LoadAsync("""{"xlsx": "no.xlsx"}""", """{"csv": "o.csv"}""")).Error?.Code);
    }

    [Theory]
    [InlineData(
        """{"csv": "a", "jsonl": "b"}""",
        """{"csv": "c"}""",
        "“from” needs one of csv, fixed, jsonl, json, xml, parquet, xlsx or connection, and has several"
    )]
    [InlineData("""{"csv": "in.csv"}""", "{}", "“into” needs one of csv, jsonl, parquet or connection, and has none")]
    [InlineData(
        """{"connection": "target"}""",
        """{"csv": "c"}""",
        "“from” with a connection needs either “table” or “query”"
    )]
    [InlineData("""{"parquet": "in.csv"}""", """{"csv": "c"}""", "in.csv can't be read as Parquet")]
    [InlineData(
        """{"csv": "in.csv"}""",
        """{"connection": "target", "table": "nowhere"}""",
        "there is no table “nowhere” in “target”"
    )]
    [InlineData("""{"connection": "target", "table": "nowhere"}""", """{"csv": "c"}""", "nowhere")]
    public async Task WhatCanNotBeDoneIsTold(string from, string into, string words)
    {
        databases.Connect(_bench, "sqlite");
        _bench.Write("in.csv", Csv(1));
        Assert.Contains(words, (await LoadAsync(from, into)).Error!.Message);
    }

    [Fact]
    public async Task TimestampsAreReadInTheFormThatIsSaid()
    {
        _bench.Write("in.csv", "day\n22.11.2026 05:30\n2026-11-22\n");
        var result = await LoadAsync(
            """{"csv": "in.csv"}""",
            """{"csv": "out.csv"}""",
            """, "reject": {"limit": 1}""",
            """ "columns": {"day": {"type": "timestamp", "format": "dd.MM.yyyy HH:mm"}} """
        );
        Assert.Equal("2 1 1", Counts(result));
        Assert.Equal("day\n2026-11-22T05:30:00Z\n", File.ReadAllText(_bench["out.csv"]));
    }

    // What an earlier attempt has committed before the service ended is not read again, and nothing is doubled.
    [Theory]
    [MemberData(nameof(Types))]
    public Task ALoadThatWasCutOffGoesOn(string type) => ContinueAsync(type, null, "note continuing after line 301");

    // Somebody may have tidied up, or a server have lost what it had said was written.
    [Theory]
    [MemberData(nameof(Types))]
    public Task ALoadWhoseStageIsNotWholeAnyMoreBeginsAnew(string type) =>
        ContinueAsync(
            type,
            "DELETE FROM STAGE WHERE id = 7",
            "note the rows of the earlier attempt are not in the stage any more; the load starts over"
        );

    [Theory]
    [MemberData(nameof(Types))]
    public Task ALoadWhoseStageIsGoneBeginsAnew(string type) =>
        ContinueAsync(
            type,
            "DROP TABLE STAGE",
            "note the rows of the earlier attempt are not in the stage any more; the load starts over"
        );

    // What goes straight into the table is all there or not at all, whatever an attempt of another way has left.
    [Theory]
    [InlineData("postgresql", "append")]
    [InlineData("postgresql", "replace")]
    [InlineData("mysql", "append")]
    [InlineData("mysql", "replace")]
    public async Task ALoadThatGoesStraightBeginsAnew(string type, string mode)
    {
        databases.Connect(_bench, type);
        _bench.Write("in.csv", Csv(1_000));
        await LoadAsync("""{"csv": "in.csv"}""", Into(""", "create": true"""));
        var before = mode == "append" ? 1_000 : 0;
        var into = Into($""", "mode": "{mode}" """);
        var settings =
            $$"""{"from": {"csv": "in.csv"}, "into": {{into}}, {{Columns}}, "batch": 100, "restart": "HOW"}""";
        foreach (var how in (string[])["batch", "anew"])
        {
            using var stop = new CancellationTokenSource();
            var batches = 0;
            var context = _bench.Context("straight-" + _table) with
            {
                Progress = new Bench.Told(_ =>
                {
                    if (++batches == 3)
                        stop.Cancel();
                }),
            };
            Assert.Equal(
                "stopped",
                (
                    await _kind.RunAsync(
                        ValueJson.TryParse(settings.Replace("HOW", how, StringComparison.Ordinal))!.Value,
                        context,
                        stop.Token
                    )
                )
                    .Error
                    ?.Code
            );
            Assert.Equal("1000", await AskAsync($"SELECT count(*) AS c FROM {_table}"));
            Assert.Equal(how == "batch" ? "1" : "0", await AskAsync($"SELECT count(*) AS c FROM {Stages(type)}"));
        }
        var again = await _bench.RunAsync(
            _kind,
            settings.Replace("HOW", "anew", StringComparison.Ordinal),
            "straight-" + _table
        );
        Assert.Equal("1000 1000 0", Counts(again));
        Assert.DoesNotContain(_bench.Log, l => l.StartsWith("note continuing after", StringComparison.Ordinal));
        Assert.Equal($"{before + 1_000}", await AskAsync($"SELECT count(*) AS c FROM {_table}"));
        // Once more after it was done: it is told that it is.
        Assert.Equal(
            "1000 1000 0",
            Counts(
                await _bench.RunAsync(
                    _kind,
                    settings.Replace("HOW", "anew", StringComparison.Ordinal),
                    "straight-" + _table
                )
            )
        );
        Assert.Equal($"{before + 1_000}", await AskAsync($"SELECT count(*) AS c FROM {_table}"));
    }

    async Task ContinueAsync(string type, string? meanwhile, string said)
    {
        databases.Connect(_bench, type);
        _bench.Write("in.csv", Csv(1_000));
        var into = Into(""", "create": true, "key": ["id"]""");
        // A row that the last batch stumbles over: what was committed before stays in the stage.
        var lines = File.ReadAllLines(_bench["in.csv"]);
        using var stop = new CancellationTokenSource();
        var settings =
            $$"""{"from": {"csv": "in.csv"}, "into": {{into}}, {{Columns}}, "batch": 100, "restart": "batch"}""";
        var batches = 0;
        var context = _bench.Context("cut-" + _table) with
        {
            Progress = new Bench.Told(_ =>
            {
                if (++batches == 3)
                    stop.Cancel();
            }),
        };
        Assert.Equal(
            "stopped",
            (await _kind.RunAsync(ValueJson.TryParse(settings)!.Value, context, stop.Token)).Error?.Code
        );
        Assert.Equal("0", await AskAsync($"SELECT count(*) AS c FROM {_table}"));
        if (meanwhile is not null)
        {
            var stage = await AskAsync($"SELECT {(type == "sqlite" ? "name" : "table_name")} AS s FROM {Stages(type)}");
            Assert.Null(
                (
                    await _bench.RunAsync(
                        new SqlKind(),
                        $$"""{"connection": "target", "query": "{{meanwhile.Replace("STAGE", stage, StringComparison.Ordinal)}}"}"""
                    )
                ).Error
            );
        }
        var again = await _bench.RunAsync(_kind, settings, "cut-" + _table);
        Assert.Null(again.Error);
        Assert.Contains(_bench.Log, l => l.StartsWith(said, StringComparison.Ordinal));
        Assert.Equal(
            $"{lines.Length - 1} {lines.Length - 1}",
            await AskAsync($"SELECT count(*) AS c, count(DISTINCT id) AS d FROM {_table}")
        );
        // Once more after it was done: it is told that it is.
        Assert.Equal(Counts(again), Counts(await _bench.RunAsync(_kind, settings, "cut-" + _table)));
        Assert.Equal("1000", await AskAsync($"SELECT count(*) AS c FROM {_table}"));
    }
}
