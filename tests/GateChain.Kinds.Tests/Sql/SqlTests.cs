using GateChain.Core.Checking;
using GateChain.Core.Problems;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Sql;

public sealed class SqlTests : IDisposable
{
    readonly Bench _bench = new();

    public SqlTests() =>
        _bench.Sql("CREATE TABLE t (a INTEGER PRIMARY KEY, b TEXT); INSERT INTO t VALUES (1, 'x'), (2, 'y')");

    public void Dispose() => _bench.Dispose();

    [Theory]
    [InlineData(
        """{"connection": "db", "query": "SELECT count(*) FROM t", "give": "scalar"}""",
        """{"affected": 0, "value": 2}"""
    )]
    [InlineData(
        """{"connection": "db", "query": "SELECT * FROM t WHERE b = $b", "bind": {"b": "y"}, "give": "row"}""",
        """{"affected": 0, "row": {"a": 2, "b": "y"}}"""
    )]
    [InlineData(
        """{"connection": "db", "query": "SELECT a FROM t ORDER BY a", "give": "rows"}""",
        """{"affected": 0, "rows": [{"a": 1}, {"a": 2}]}"""
    )]
    [InlineData(
        """{"connection": "db", "query": "INSERT INTO t VALUES (3, $l); UPDATE t SET b = 'z' WHERE a < 3", "bind": {"l": [1, "two"]}}""",
        """{"affected": 3}"""
    )]
    [InlineData(
        """{"connection": "db", "query": "SELECT 1 WHERE false", "give": "scalar"}""",
        """{"affected": 0, "value": null}"""
    )]
    [InlineData(
        """{"connection": "db", "query": {"file": "query.sql"}, "give": "scalar"}""",
        """{"affected": 0, "value": 42}"""
    )]
    [InlineData(
        """{"connection": "db", "query": "SELECT $b", "bind": {"b": "'; DROP TABLE t; --"}, "give": "scalar"}""",
        """{"affected": 0, "value": "'; DROP TABLE t; --"}"""
    )]
    public async Task SqlGives(string settings, string expected) =>
        Assert.Equal(expected, (await _bench.RunAsync(new SqlKind(), settings)).Outputs.ToString());

    [Theory]
    [InlineData("""{"connection": "db", "query": "SELEC 1"}""", "sql", "near \"SELEC\": syntax error")]
    [InlineData(
        """{"connection": "db", "query": "INSERT INTO t VALUES (9, 'q'); INSERT INTO t VALUES (1, 'x')"}""",
        "constraint",
        "a rule of the database was broken: UNIQUE constraint failed: t.a"
    )]
    [InlineData(
        """{"connection": "db", "query": "SELECT a FROM t", "give": "rows", "maxRows": 1}""",
        "rows",
        "the query gives more than 1 rows"
    )]
    [InlineData(
        """{"connection": "db", "query": {"file": "gone.sql"}}""",
        "no-file",
        "the attachment “gone.sql” is missing"
    )]
    [InlineData(
        """{"connection": "db", "query": "DELETE FROM t", "alone": true, "once": true}""",
        "setting",
        "“once” marks the work in its transaction, and “alone” has none"
    )]
    [InlineData("""{"connection": "db", "query": null}""", "setting", "setting “query” is empty, and it is required")]
    public async Task SqlSaysWhatWentWrongAndChangesNothing(string settings, string code, string message)
    {
        var result = await _bench.RunAsync(new SqlKind(), settings);
        Assert.Equal((code, message), (result.Error!.Code, result.Error.Message));
        Assert.Equal("2", _bench.Ask("SELECT count(*) FROM t"));
    }

    [Fact]
    public async Task SqlCanBeEndedEarly()
    {
        using var cancel = new CancellationTokenSource(300);
        var result = await _bench
            .RunAsync(
                new SqlKind(),
                """{"connection": "db", "query": "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT count(*) FROM n", "give": "scalar"}""",
                cancel: cancel.Token
            )
            .WaitAsync(TimeSpan.FromSeconds(60));
        Assert.Equal("stopped", result.Error!.Code);
    }

    [Fact]
    public async Task OnceIsOnce()
    {
        const string add = """{"connection": "db", "query": "INSERT INTO t (b) VALUES ('new')", "once": true}""";
        await _bench.RunAsync(new SqlKind(), add);
        await _bench.RunAsync(new SqlKind(), add);
        Assert.Equal("1", _bench.Ask("SELECT count(*) FROM t WHERE b = 'new'"));
        await _bench.RunAsync(new SqlKind(), add, work: "w/2");
        Assert.Equal("2", _bench.Ask("SELECT count(*) FROM t WHERE b = 'new'"));
    }

    [Theory]
    [InlineData("connection: warehuose, query: 'SELECT 1'", "GC1401")]
    [InlineData("connection: mails, query: 'SELECT 1'", "GC1410")]
    [InlineData("connection: db, query: { file: gone.sql }", "GC1402")]
    [InlineData("connection: db, query: 'SELECT 1', give: scalr", "GC1009")]
    [InlineData("connection: db, query: 'SELECT 1', maxRows: many", "GC1206")]
    [InlineData("connection: db, query: 'SELECT 1', bind: { a: params.nope }", "GC1202")]
    [InlineData("connection: db, query: 'SELECT 1', maxRows: \"${'x'}\"", "GC1203")]
    [InlineData("connection: db", "GC1005")]
    public void SettingsAreCheckedBeforeAnythingRuns(string set, string code)
    {
        var around = new WorkspaceContext(
            new Dictionary<string, string> { ["db"] = "sqlite", ["mails"] = "smtp" },
            new HashSet<string> { "query.sql" },
            new Dictionary<string, Core.Chains.ChainInterface>(),
            new HashSet<string>()
        );
        var (_, problems) = new ChainCheck(KindDescriptions.Catalogue).Check(
            "t",
            $"chain: t\nsteps:\n  s: {{ kind: sql, set: {{ {set} }} }}",
            around
        );
        Assert.Equal(code, Assert.Single(problems, p => p.Kind.Severity == Severity.Error).Code);
    }
}
