using GateChain.Core.Running;
using GateChain.Kinds.Load;

namespace GateChain.Kinds.Tests.Load;

/// <summary>The table follows the source: rows that are gone there, versions of rows, columns that are new.</summary>
public sealed class TableModeTests(Servers.Databases databases) : LoadBench(databases)
{
    Task<AttemptResult> TakeAsync(string into, params string[] lines)
    {
        Bench.Write("in.csv", string.Concat(lines.Select(l => l + "\n")));
        return LoadAsync("""{"csv": "in.csv"}""", Into($", {into}"));
    }

    async Task<string> LoadsAsync(string into, params string[] lines)
    {
        var result = await TakeAsync(into, lines);
        Assert.True(result.Error is null, $"{result.Error?.Message}\n{result.Error?.Detail}");
        return $"{Count(result, "written")} {Count(result, "unchanged")} {Count(result, "gone")}";
    }

    async Task<string> FailsAsync(string into, params string[] lines)
    {
        var result = await TakeAsync(into, lines);
        return $"{result.Error?.Code}: {result.Error?.Message}";
    }

    const string Mirror = """
        "mode": "mirror", "key": ["id"]
        """;

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task AMirrorIsWhatTheSourceIs(string type)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int PRIMARY KEY, v varchar(9))");
        Assert.Equal("3 0 0", await LoadsAsync(Mirror, "id,v", "1,a", "2,b", "3,c"));
        Assert.Equal("2 1 1", await LoadsAsync(Mirror, "id,v", "1,a", "2,B", "4,d"));
        Assert.Equal("1 a|2 B|4 d", await AskAsync($"SELECT id, v FROM {Table} ORDER BY id"));
        Assert.Equal("0 3 0", await LoadsAsync(Mirror, "id,v", "1,a", "2,B", "4,d"));
    }

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task RowsThatAreGoneAreMarkedUntilTheyAreBack(string type)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int PRIMARY KEY, v varchar(9), gone timestamp NULL)");
        var marked = $$"""{{Mirror}}, "goneColumn": "gone" """;
        await LoadsAsync(marked, "id,v", "1,a", "2,b");
        Assert.Equal("0 1 1", await LoadsAsync(marked, "id,v", "2,b"));
        Assert.Equal("1 a 0|2 b 1", await AskAsync(Shown()));
        Assert.Equal("0 1 0", await LoadsAsync(marked, "id,v", "2,b"));
        Assert.Equal("1 1 0", await LoadsAsync(marked, "id,v", "1,a", "2,b"));
        Assert.Equal("1 a 1|2 b 1", await AskAsync(Shown()));

        string Shown() => $"SELECT id, v, CASE WHEN gone IS NULL THEN 1 ELSE 0 END AS here FROM {Table} ORDER BY id";
    }

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task NothingIsGoneThatNobodyKnowsToBe(string type)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int PRIMARY KEY, v int)");
        await LoadsAsync(Mirror, "id,v", "1,1", "2,2", "3,3");
        // A source without rows is no mirror of anything.
        Assert.StartsWith("gone: the source has no rows", await FailsAsync(Mirror, "id,v"), StringComparison.Ordinal);
        Assert.StartsWith(
            "gone: 2 rows of",
            await FailsAsync($$"""{{Mirror}}, "goneLimit": 1""", "id,v", "2,2"),
            StringComparison.Ordinal
        );
        Assert.Equal("1|2|3", await AskAsync($"SELECT id FROM {Table} ORDER BY id"));
        // No stage is left of it: the next source is another one.
        var use = Bench.Context().ConnectionUse;
        Assert.Empty(Stages.Find("target", Bench, use, TestContext.Current.CancellationToken));
        // The row that is rejected may be the one that seems to be gone.
        Bench.Write("in.csv", "id,v\n1,1\n2,x\n");
        var rejected = await MustAsync(
            """{"csv": "in.csv"}""",
            Into($", {Mirror}"),
            """, "columns": {"id": {"type": "int"}, "v": {"type": "int"}}, "reject": {"limit": 1}"""
        );
        Assert.Equal("0", Count(rejected, "gone"));
        Assert.Equal("1 1|2 2|3 3", await AskAsync($"SELECT id, v FROM {Table} ORDER BY id"));
        Assert.Contains(Bench.Log, l => l.Contains("nobody can tell which are gone", StringComparison.Ordinal));
        Assert.Equal("0 0 3", await LoadsAsync($$"""{{Mirror}}, "goneLimit": 3""", "id,v"));
    }

    const string History = """
        "mode": "history", "key": ["depot", "id"]
        """;

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task AHistoryHasEachVersionWithItsSpan(string type)
    {
        Connect(type);
        var created = $$"""{{History}}, "create": true""";
        Assert.Equal("2 0 0", await LoadsAsync(created, "depot,id,v", "n,1,a", "n,2,b"));
        Assert.Equal("1 1 0", await LoadsAsync(created, "depot,id,v", "n,1,a", "n,2,c"));
        Assert.Equal("0 1 0", await LoadsAsync(created, "depot,id,v", "n,1,a"));
        Assert.Equal("1 0 1", await LoadsAsync($$"""{{created}}, "gone": "close" """, "depot,id,v", "n,1,z"));
        Assert.Equal(
            "n 1 a 0 0|n 1 z 1 1|n 2 b 0 0|n 2 c 0 0",
            await AskAsync(
                $"SELECT depot, id, v, CASE WHEN valid_to IS NULL THEN 1 ELSE 0 END AS o, "
                    + $"CASE WHEN {Current(type)} THEN 1 ELSE 0 END AS c FROM {Table} ORDER BY depot, id, v"
            )
        );
        // Each version begins as the one before it ends.
        Assert.Equal(
            "2",
            await AskAsync(
                $"SELECT count(*) AS c FROM {Table} a JOIN {Table} b ON a.depot = b.depot AND a.id = b.id "
                    + "AND a.valid_to = b.valid_from"
            )
        );
        Assert.Equal("0", await AskAsync($"SELECT count(*) AS c FROM {Table} WHERE valid_to < valid_from"));
    }

    static string Current(string type) => type is "postgresql" or "duckdb" ? "\"current\"" : "current = 1";

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task AVersionThatTheTableRefusesLeavesTheOneBefore(string type)
    {
        Connect(type);
        await ExecuteAsync(
            $"CREATE TABLE {Table} (id int, v varchar(9) NOT NULL CHECK (v <> 'bad'), since timestamp NOT NULL, "
                + "until timestamp NULL)"
        );
        var into = """
            "mode": "history", "key": ["id"], "history": {"from": "since", "to": "until"}
            """;
        await LoadsAsync(into, "id,v", "1,a", "2,b", "3,c");
        Bench.Write("in.csv", "id,v\n1,A\n2,bad\n3,C\n");
        var result = await MustAsync("""{"csv": "in.csv"}""", Into($", {into}"), """, "reject": {"limit": 1}""");
        Assert.Equal("2 1", $"{Count(result, "written")} {Count(result, "rejected")}");
        Assert.Equal("1 A|2 b|3 C", await AskAsync($"SELECT id, v FROM {Table} WHERE until IS NULL ORDER BY id"));
    }

    [Fact]
    public async Task AHistoryNeedsItsColumns()
    {
        Connect("sqlite");
        await ExecuteAsync($"CREATE TABLE {Table} (id int, valid_from text)");
        Assert.Equal(
            $"columns: the table “{Table}” has no column “valid_to”",
            await FailsAsync(
                """
                "mode": "history", "key": ["id"]
                """,
                "id",
                "1"
            )
        );
        Assert.Equal(
            "setting: the key “name” is not one of the columns that the load fills",
            await FailsAsync(
                """
                "mode": "mirror", "key": ["name"]
                """,
                "id",
                "1"
            )
        );
    }

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task NewColumnsAreAddedOrLeftOutOrRefused(string type)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Table} (id int PRIMARY KEY, v varchar(9))");
        string[] lines = ["id,v,fat,colour", "1,a,3.9,white"];
        Assert.Equal(
            $"new-columns: in.csv has columns that {Table} does not have: fat, colour",
            await FailsAsync(
                """
                "new": "fail"
                """,
                lines
            )
        );
        var ignored = await TakeAsync(
            """
            "new": "ignore", "mode": "upsert", "key": ["id"]
            """,
            lines
        );
        Assert.Null(ignored.Error);
        Assert.Equal("1 a", await AskAsync($"SELECT * FROM {Table}"));
        var added = await TakeAsync(
            """
            "new": "add", "mode": "upsert", "key": ["id"]
            """,
            lines
        );
        Assert.True(added.Error is null, added.Error?.Message);
        Assert.Equal("2", $"{added.Outputs.AsMap.Find("new_columns")!.Value.AsList.Count}");
        Assert.Equal("1 a 3.9 white", await AskAsync($"SELECT id, v, fat, colour FROM {Table}"));
        Assert.Contains(Bench.Log, l => l.Contains("fat, colour (added to the table)", StringComparison.Ordinal));
        Assert.Equal(
            "1 0 0",
            await LoadsAsync(
                """
                "new": "fail", "mode": "upsert", "key": ["id"]
                """,
                "id,v,fat,colour",
                "2,b,4,"
            )
        );
    }

    // What the settings leave out on purpose is in the table, and not new.
    [Fact]
    public async Task OnlyWhatNeitherTheTableNorTheSettingsHaveIsNew()
    {
        Connect("sqlite");
        await ExecuteAsync($"CREATE TABLE {Table} (id int PRIMARY KEY, name text, note text)");
        Bench.Write("in.jsonl", """{"id": 1, "n": "a", "note": "x"}""" + "\n" + """{"id": 2, "n": "b", "age": 4}""");
        var result = await MustAsync(
            """{"jsonl": "in.jsonl"}""",
            Into(""", "new": "add" """),
            """, "columns": {"id": {}, "name": {"from": "n"}}"""
        );
        Assert.Equal(
            "age",
            string.Join(',', result.Outputs.AsMap.Find("new_columns")!.Value.AsList.Select(v => v.AsString))
        );
        Assert.Equal(
            "1 a NULL NULL|2 b NULL 4",
            await AskAsync($"SELECT id, name, note, age FROM {Table} ORDER BY id")
        );
    }
}
