using GateChain.Core.Datasets;
using GateChain.Core.Values;
using GateChain.Kinds.Check;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Files;
using GateChain.Kinds.Http;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;
using GateChain.Kinds.Transfer;

namespace GateChain.Kinds.Tests.Data;

/// <summary>Which data steps read and write, by their settings.</summary>
public class DataUseTests
{
    [Theory]
    [InlineData("SELECT * FROM a", "<a")]
    [InlineData("select x from a, s.b as q, \"C d\" where x in (select y from e)", "<a <s.b <\"C d\" <e")]
    [InlineData("SELECT 1", "")]
    [InlineData("INSERT INTO t (a) SELECT a FROM u JOIN v USING (id) LEFT JOIN w ON w.a = v.a", ">t <u <v <w")]
    [InlineData("WITH x AS (SELECT * FROM a), y(n) AS (SELECT * FROM x) INSERT INTO t SELECT * FROM y", "<a >t")]
    [InlineData("UPDATE t SET a = b.a FROM b WHERE b.id = t.id", ">t <b")]
    [InlineData("DELETE FROM t WHERE id IN (SELECT id FROM gone)", ">t <gone")]
    [InlineData("MERGE INTO t USING s ON t.id = s.id WHEN MATCHED THEN UPDATE SET a = 1", ">t <s")]
    [InlineData("insert into t values (1) on conflict (id) do update set a = 1", ">t")]
    [InlineData("insert into t values (1) on duplicate key update a = 1", ">t")]
    [InlineData("select * from t for update", "<t")]
    [InlineData("create table if not exists t as select * from u; drop table t; truncate table v", ">t <u >v")]
    [InlineData("SELECT extract(year FROM at), trim(both ' ' from n) FROM t", "<t")]
    [InlineData("SELECT a IS DISTINCT FROM b FROM t", "<t")]
    [InlineData("SELECT * FROM generate_series(1, 3) g, t", "<t")]
    [InlineData("SELECT 'FROM x' /* FROM y */ FROM t -- FROM z", "<t")]
    [InlineData("COPY t FROM STDIN", ">t")]
    [InlineData("SELECT * FROM ${vars.name}_rows, [dbo].[Big Table]", "<${vars.name}_rows <[dbo].[Big Table]")]
    [InlineData("FROM", "")]
    [InlineData("INSERT INTO", "")]
    [InlineData("SELECT * FROM (", "")]
    [InlineData("\"'`[${", "")]
    public void StatementsNameTables(string sql, string tables) =>
        Assert.Equal(tables, Told(SqlTables.Of("db", sql), withConnection: false));

    [Theory]
    [InlineData("""{"from": {"csv": "in/*.csv"}, "into": {"connection": "db", "table": "t"}}""", "<in/*.csv >db:t")]
    [InlineData(
        """{"from": {"connection": "db", "query": "select * from a"}, "into": {"jsonl": "o", "server": "s"}}""",
        "<db:a >s:o"
    )]
    [InlineData(
        """
            {"from": {"xml": "x", "server": "s"}, "into": {"csv": "o"}, "reject": {"file": "bad.csv", "limit": 3}}
            """,
        "<s:x >o >bad.csv"
    )]
    [InlineData("""{"from": 3}""", "")]
    public void Loads(string settings, string told) => Assert.Equal(told, Told(LoadKind.Described, settings));

    [Fact]
    public void Others()
    {
        Assert.Equal(
            "<db:farms <db:depots <other:tanks >bad.csv >db:failing",
            Told(
                CheckKind.Described,
                """
                {"of": {"connection": "db", "table": "farms"}, "checks": {"a": {"refersTo": {"column": "d",
                "table": "depots"}}, "b": {"sum": {"column": "l", "connection": "other",
                "query": "select sum(l) from tanks"}}}, "file": "bad.csv",
                "into": {"connection": "db", "table": "failing"}}
                """
            )
        );
        Assert.Equal(">db:b <db:a", Told(SqlKind.Described, """{"connection": "db", "query": {"file": "q.sql"}}"""));
        Assert.Equal(
            "<s:out/*.csv >in/*.csv",
            Told(TransferKind.Described, """{"connection": "s", "action": "get", "path": "out/*.csv", "to": "in/"}""")
        );
        Assert.Equal(
            "<a.csv >s:up.csv",
            Told(TransferKind.Described, """{"connection": "s", "action": "put", "path": "a.csv", "to": "up.csv"}""")
        );
        Assert.Equal(
            "<f:in/a >f:in/b",
            Told(FileKind.Described, """{"connection": "f", "action": "rename", "path": "in/a", "to": "b"}""")
        );
        Assert.Equal(">a", Told(FileKind.Described, """{"action": "write", "path": "a", "text": "x"}"""));
        Assert.Equal("<a.zip >d/*", Told(FileKind.Described, """{"action": "unpack", "path": "a.zip", "to": "d/"}"""));
        Assert.Equal(
            "<lab:/results >r.json",
            Told(HttpKind.Described, """{"connection": "lab", "path": "/results", "saveAs": "r.json"}""")
        );
        Assert.Equal(
            ">lab:/orders <o.json",
            Told(HttpKind.Described, """{"connection": "lab", "path": "/orders", "method": "post", "file": "o.json"}""")
        );
    }

    static string Told(Core.Chains.Kinds.KindDescription kind, string settings) =>
        Told(kind.Data!(new(ValueJson.TryParse(settings)!.Value, _ => "insert into b select * from a")), true);

    static string Told(IEnumerable<DataUse> uses, bool withConnection) =>
        string.Join(
            ' ',
            uses.Select(u =>
                (u.Direction == DataDirection.Reads ? "<" : ">") + (withConnection ? u.Data.ToString() : u.Data.Name)
            )
        );
}
