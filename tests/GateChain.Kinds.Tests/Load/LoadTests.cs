using System.Text;
using GateChain.Core.Running;
using GateChain.Kinds.Load;

namespace GateChain.Kinds.Tests.Load;

public sealed class LoadTests : IDisposable
{
    readonly Bench _bench = new();
    readonly LoadKind _kind = new();

    public LoadTests() => _bench.Sql("CREATE TABLE pickups (id TEXT PRIMARY KEY, litres REAL, at TEXT)");

    public void Dispose() => _bench.Dispose();

    static string Settings(int limit = 0, string mode = "append", int batch = 10_000, string file = "in.csv") =>
        $$$"""
            {"from": {"csv": "{{{file}}}"}, "into": {"connection": "db", "table": "pickups", "mode": "{{{mode}}}", "key": ["id"]}, "batch": {{{batch}}},
             "columns": {"id": {"required": true}, "litres": {"type": "double", "min": 0, "from": "amount"}, "at": {"type": "timestamp"}},
             "reject": {"limit": {{{limit}}}, "file": "rejects.csv"}}
            """;

    static string Csv(int from, int to, Func<int, string>? line = null)
    {
        var text = new StringBuilder("id,amount,at\n");
        for (var i = from; i <= to; i++)
            text.Append(line?.Invoke(i) ?? $"p{i},{i}.5,2026-11-22").Append('\n');
        return text.ToString();
    }

    static string Counts(AttemptResult result) =>
        string.Join(
            ' ',
            new[] { "rows_read", "rows_written", "rows_rejected" }.Select(n => result.Outputs.AsMap.Find(n))
        );

    [Fact]
    public async Task ColumnsAreComputedFromTheRowAndWhatIsBound()
    {
        _bench.Write("in.csv", "id,amount\np1,10\np2,many\np3,2.5\n");
        const string settings = """
            {"from": {"csv": "in.csv"}, "into": {"connection": "db", "table": "pickups"}, "bind": {"factor": 1.5, "day": "2026-11-22"}, "reject": {"limit": 1, "file": "rejects.csv"},
             "columns": {"id": {"value": "row.id.upperAscii() + '-' + string(size(row))"}, "litres": {"value": "double(row.amount) * bind.factor", "max": 100}, "at": {"value": "bind.day", "type": "timestamp"}}}
            """;
        var result = await _bench.RunAsync(_kind, settings);
        Assert.Null(result.Error);
        Assert.Equal("3 2 1", Counts(result));
        Assert.Equal(
            "P1-2|15.0|2026-11-22T00:00:00Z",
            _bench.Ask("SELECT id || '|' || litres || '|' || at FROM pickups WHERE id = 'P1-2'")
        );
        Assert.Contains("in.csv,3,litres,,\"litres can't be computed: ", File.ReadAllText(_bench["rejects.csv"]));
        _bench.Write("in.jsonl", "{\"a\": 2, \"b\": 3, \"c\": 1}\n");
        Assert.Null(
            (
                await _bench.RunAsync(
                    _kind,
                    """{"from": {"jsonl": "in.jsonl"}, "into": {"csv": "out.csv"}, "columns": {"sum": {"value": "row.a + row.b"}}}""",
                    work: "w/2"
                )
            ).Error
        );
        Assert.Equal("sum\n5\n", File.ReadAllText(_bench["out.csv"]));
        Assert.Contains(
            "the value of column “x”: ",
            (
                await _bench.RunAsync(
                    _kind,
                    """{"from": {"csv": "in.csv"}, "into": {"csv": "out.csv"}, "columns": {"x": {"value": "row."}}}""",
                    work: "w/3"
                )
            )
                .Error!
                .Message
        );
    }

    [Fact]
    public async Task ItTellsHowFarItHasGot()
    {
        _bench.Write("in.csv", Csv(1, 1000));
        await _bench.RunAsync(_kind, Settings(batch: 100));
        Assert.Equal(10, _bench.Progress.Count);
        Assert.Equal(Enumerable.Range(1, 10).Select(n => n * 100L), _bench.Progress.Select(p => p.Rows));
        Assert.All(_bench.Progress, p => Assert.True(p is { Share: > 0 and <= 1, Bytes: > 0, PerSecond: > 0 }));
    }

    [Fact]
    public async Task FilesOutsideOfTheAllowedFoldersAreNeitherReadNorWritten()
    {
        _bench.Write("in.csv", Csv(1, 2));
        foreach (
            var settings in (string[])
                [
                    Settings(file: "/etc/hostname"),
                    Settings().Replace("rejects.csv", "../rejects.csv", StringComparison.Ordinal),
                    """{"from": {"csv": "in.csv"}, "into": {"csv": "../out.csv"}}""",
                ]
        )
        {
            Assert.Equal("outside", (await _bench.RunAsync(_kind, settings)).Error!.Code);
        }

        Assert.Equal("0", _bench.Ask("SELECT count(*) FROM pickups"));
    }

    [Theory]
    [InlineData("append", 10_000)]
    [InlineData("upsert", 10_000)]
    [InlineData("replace", 10_000)]
    [InlineData("append", 100)]
    [InlineData("upsert", 100)]
    [InlineData("replace", 100)]
    public async Task FillsTheTable(string mode, int batch)
    {
        _bench.Sql(
            mode == "append"
                ? "INSERT INTO pickups VALUES ('old', 1, null)"
                : "INSERT INTO pickups VALUES ('old', 1, null), ('p7', 0, null)"
        );
        _bench.Write("in.csv", Csv(1, 777));
        var result = await _bench.RunAsync(_kind, Settings(mode: mode, batch: batch));
        Assert.Null(result.Error);
        Assert.Equal("777 777 0", Counts(result));
        Assert.Equal(mode == "replace" ? "777" : "778", _bench.Ask("SELECT count(*) FROM pickups"));
        Assert.Equal("7.5|2026-11-22T00:00:00Z", _bench.Ask("SELECT litres || '|' || at FROM pickups WHERE id = 'p7'"));
        Assert.Equal("0", _bench.Ask("SELECT count(*) FROM sqlite_master WHERE name LIKE 'gatechain_stage%'"));
    }

    [Fact]
    public async Task RejectedLinesAreWrittenOutWithTheirReason()
    {
        _bench.Write(
            "in.csv",
            "id,amount,at\np1,5,2026-11-22\n,5,2026-11-22\np3,-1,2026-11-22\np4,many,2026-11-22\n"
                + "p5,5,\"at \"\"noon\"\"\"\np6\n"
        );
        Assert.Equal("6 1 5", Counts(await _bench.RunAsync(_kind, Settings(limit: 5))));
        Assert.Equal(
            """
            source,line,column,value,reason,id,amount,at
            in.csv,3,id,"",id is empty,,5,2026-11-22
            in.csv,4,litres,-1,litres is below 0: -1,p3,-1,2026-11-22
            in.csv,5,litres,many,litres is not a double: many,p4,many,2026-11-22
            in.csv,6,at,"at ""noon""\","at is not a timestamp: at ""noon""\",p5,5,"at ""noon""\"
            in.csv,7,,,the line has only 1 fields,p6

            """.Replace("\\\"", "\"", StringComparison.Ordinal),
            File.ReadAllText(_bench["rejects.csv"])
        );
    }

    [Theory]
    [InlineData(10_000)]
    [InlineData(100)]
    public async Task TooManyRejectsLeaveTheTableAsItWas(int batch)
    {
        _bench.Write("in.csv", Csv(1, 500, i => i % 10 == 0 ? $"p{i},-5,2026-11-22" : $"p{i},5,2026-11-22"));
        var failed = await _bench.RunAsync(_kind, Settings(limit: 49, batch: batch));
        Assert.Equal("50 of 500 lines were rejected; the limit is 49", failed.Error!.Message);
        Assert.Equal("0", _bench.Ask("SELECT count(*) FROM pickups"));
        // With the limit raised, the same work succeeds; every line is there once.
        Assert.Equal("500 450 50", Counts(await _bench.RunAsync(_kind, Settings(limit: 50, batch: batch))));
        Assert.Equal("450", _bench.Ask("SELECT count(*) FROM pickups"));
        Assert.Equal(51, File.ReadAllLines(_bench["rejects.csv"]).Length);
    }

    [Fact]
    public async Task WorkThatIsDoneIsNotDoneAgain()
    {
        _bench.Write("in.csv", Csv(1, 10));
        await _bench.RunAsync(_kind, Settings());
        Assert.Equal("10 10 0", Counts(await _bench.RunAsync(_kind, Settings())));
        Assert.Equal("10", _bench.Ask("SELECT count(*) FROM pickups"));
        // Other work on the same file is other work.
        Assert.Equal("rejects", (await _bench.RunAsync(_kind, Settings(), work: "w/2")).Error!.Code);
    }

    [Fact]
    public async Task GoesOnBehindTheLastCommittedBatch()
    {
        _bench.Write("in.csv", Csv(1, 1000, i => i % 100 == 0 ? $"p{i},-5,2026-11-22" : $"p{i},5,2026-11-22"));
        using var cut = new CancellationTokenSource();
        // The cut comes after some batches: what the log says is the sign.
        var running = Task.Run(() => _bench.RunAsync(_kind, Settings(limit: 10, batch: 100), cancel: cut.Token));
        while (!running.IsCompleted && !_bench.Log.Any(l => l.Contains("lines read")))
            await Task.Yield();
        cut.Cancel();
        var first = await running;
        Assert.Equal(first.Error is null ? "990" : "0", _bench.Ask("SELECT count(*) FROM pickups"));
        _bench.ClearLog();
        Assert.Equal("1000 990 10", Counts(await _bench.RunAsync(_kind, Settings(limit: 10, batch: 100))));
        Assert.Contains(_bench.Log, l => l.Contains("continuing after line") || l.Contains("has these rows already"));
        Assert.Equal("990", _bench.Ask("SELECT count(*) FROM pickups"));
        Assert.Equal(11, File.ReadAllLines(_bench["rejects.csv"]).Length);
    }

    [Fact]
    public async Task AnotherFileBeginsFromTheStart()
    {
        _bench.Write("in.csv", Csv(1, 1000));
        using var cut = new CancellationTokenSource();
        var running = Task.Run(() => _bench.RunAsync(_kind, Settings(batch: 100), cancel: cut.Token));
        while (!running.IsCompleted && !_bench.Log.Any(l => l.Contains("lines read")))
            await Task.Yield();
        cut.Cancel();
        if ((await running).Error is null)
            return;
        _bench.Write("in.csv", Csv(2001, 2500));
        Assert.Equal("500 500 0", Counts(await _bench.RunAsync(_kind, Settings(batch: 100))));
        Assert.Equal(
            "500|2001",
            _bench.Ask("SELECT count(*) || '|' || min(CAST(substr(id, 2) AS INTEGER)) FROM pickups")
        );
    }

    [Theory]
    [InlineData("missing.csv", "pickups", "db", "no-file", "the file missing.csv is not there")]
    [InlineData("head.csv", "pickups", "db", "header", "the header of head.csv has no “amount”; it has “amuont”")]
    [InlineData("in.csv", "nowhere", "db", "no-table", "there is no table “nowhere” in “db”")]
    [InlineData("in.csv", "narrow", "db", "columns", "the table “narrow” has no column “litres”, “at”")]
    [InlineData("in.csv", "pickups", "dbb", "no-connection", "there is no connection “dbb”")]
    public async Task SaysWhatIsMissing(string file, string table, string connection, string code, string message)
    {
        _bench.Sql("CREATE TABLE narrow (id TEXT)");
        _bench.Write("in.csv", Csv(1, 3));
        _bench.Write("head.csv", "id,amuont,at\n");
        var result = await _bench.RunAsync(
            _kind,
            Settings(file: file)
                .Replace("\"table\": \"pickups\"", $"\"table\": \"{table}\"")
                .Replace("\"connection\": \"db\"", $"\"connection\": \"{connection}\"")
        );
        Assert.Equal((code, message), (result.Error!.Code, result.Error.Message));
    }

    [Fact]
    public async Task ALockedDatabaseIsToldAndNothingIsLost()
    {
        _bench.Write("in.csv", Csv(1, 3));
        using (var other = _bench.Open())
        using (other.BeginTransaction(deferred: false))
        {
            var result = await _bench.RunAsync(_kind, Settings());
            Assert.Equal(
                ("locked", "the database of “db” is locked by another program"),
                (result.Error!.Code, result.Error.Message)
            );
        }
        Assert.Equal("3 3 0", Counts(await _bench.RunAsync(_kind, Settings())));
    }

    [Fact]
    public async Task WithoutColumnsTheHeaderNamesThem()
    {
        _bench.Write("in.csv", "id,litres\na,1\n");
        Assert.Null(
            (
                await _bench.RunAsync(
                    _kind,
                    """{"from": {"csv": "in.csv"}, "into": {"connection": "db", "table": "pickups"}}"""
                )
            ).Error
        );
        Assert.Equal("a|1.0", _bench.Ask("SELECT id || '|' || litres FROM pickups"));
    }
}
