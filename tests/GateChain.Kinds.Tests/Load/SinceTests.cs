using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Load;

namespace GateChain.Kinds.Tests.Load;

/// <summary>Loads that go on where the last one that succeeded got to.</summary>
public sealed class SinceTests(Servers.Databases databases) : LoadBench(databases)
{
    string Source => Table + "_s";

    async Task<string> ReadAsync(string since, string mode = "upsert", string query = "")
    {
        var from = query.Length > 0 ? $"\"query\": \"{query}\"" : $"\"table\": \"{Source}\"";
        var result = await LoadAsync(
            $$$"""{"connection": "target", {{{from}}}, "since": {{{{since}}}}}""",
            Into($$""", "mode": "{{mode}}", "key": ["id"]""")
        );
        if (result.Error is { } error)
            return $"{error.Code}: {error.Message}";
        // As the service does when the step has succeeded.
        foreach (var (name, value) in result.Positions ?? new Dictionary<string, Value>())
            Bench.Positions[name] = value;
        return Count(result, "read");
    }

    async Task SourceAsync(string type, string column)
    {
        Connect(type);
        await ExecuteAsync($"CREATE TABLE {Source} (id int PRIMARY KEY, v varchar(9), {column})");
        await ExecuteAsync($"CREATE TABLE {Table} (id int PRIMARY KEY, v varchar(9), {column})");
    }

    Task PutAsync(string rows) => ExecuteAsync($"INSERT INTO {Source} VALUES {rows}");

    Task<string> ArrivedAsync() => AskAsync($"SELECT id, v FROM {Table} ORDER BY id");

    const string Changed = """
        "column": "changed_at", "keep": "last"
        """;

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task OnlyNewRowsAreReadAndNoneAtTheBoundaryIsMissed(string type)
    {
        await SourceAsync(type, "changed_at timestamp NULL");
        Assert.Equal("0", await ReadAsync(Changed));
        Assert.Empty(Bench.Positions);
        await PutAsync("(1, 'a', '2026-11-28 05:00:00'), (2, 'b', '2026-11-28 06:30:00.25'), (3, 'c', NULL)");
        Assert.Equal("3", await ReadAsync(Changed));
        // One that is committed later in the same instant; those without a time come each time.
        await PutAsync("(4, 'd', '2026-11-28 06:30:00.25')");
        Assert.Equal("3", await ReadAsync(Changed));
        await ExecuteAsync($"UPDATE {Source} SET v = 'A', changed_at = '2026-11-29 00:00:00' WHERE id = 1");
        Assert.Equal("4", await ReadAsync(Changed));
        Assert.Equal("2", await ReadAsync(Changed));
        Assert.Equal("1 A|2 b|3 c|4 d", await ArrivedAsync());
    }

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task ItLooksBackOnWish(string type)
    {
        await SourceAsync(type, "changed_at timestamp NULL");
        await PutAsync("(1, 'a', '2026-11-28 05:00:00'), (2, 'b', '2026-11-28 06:00:00')");
        await ReadAsync(Changed);
        // It was written before, and became visible only now.
        await PutAsync("(3, 'c', '2026-11-28 05:30:00')");
        Assert.Equal("1", await ReadAsync(Changed));
        Assert.Equal("2", await ReadAsync($"""{Changed}, "back": "45m" """, query: $"SELECT * FROM {Source};"));
        Assert.Equal("1 a|2 b|3 c", await ArrivedAsync());
        Assert.StartsWith("since: ", await ReadAsync($"""{Changed}, "back": "12 apples" """), StringComparison.Ordinal);
    }

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task NumbersThatCountUpAreReadOnce(string type)
    {
        await SourceAsync(type, "n decimal(20)");
        const string Once = """
            "column": "n", "keep": "n", "once": true
            """;
        await PutAsync("(1, 'a', 10), (2, 'b', 90000000000000)");
        Assert.Equal("2", await ReadAsync(Once, "append"));
        await PutAsync("(3, 'c', 90000000000001)");
        Assert.Equal("1", await ReadAsync(Once, "append"));
        Assert.Equal("0", await ReadAsync(Once, "append"));
        Assert.Equal("1 a|2 b|3 c", await ArrivedAsync());
    }

    [Theory]
    [MemberData(nameof(Databases))]
    public async Task DatesGoToo(string type)
    {
        await SourceAsync(type, "day date");
        await PutAsync("(1, 'a', '2026-11-27'), (2, 'b', '2026-11-28')");
        const string Day = """
            "column": "day", "keep": "day"
            """;
        Assert.Equal("2", await ReadAsync(Day));
        Assert.Equal("1", await ReadAsync(Day));
        Assert.Equal("2", await ReadAsync($"""{Day}, "back": "1d" """));
        // As a person sets it.
        Bench.Positions["day"] = Value.String("2026-11-28");
        Assert.Equal("1", await ReadAsync(Day));
    }

    // The rows were there when the answer was lost: what it got to is told by them.
    [Fact]
    public async Task WhereItGotToStandsWithTheRows()
    {
        await SourceAsync("sqlite", "changed_at text");
        await PutAsync("(1, 'a', '2026-11-28T05:00:00Z')");
        var into = Into(""", "mode": "upsert", "key": ["id"]""");
        var settings =
            $$$"""{"from": {"connection": "target", "table": "{{{Source}}}", "since": {{{{Changed}}}}}, "into": {{{into}}}}""";
        var first = await Bench.RunAsync(new LoadKind(), settings, "same" + Table);
        await PutAsync("(2, 'b', '2026-11-28T06:00:00Z')");
        var again = await Bench.RunAsync(new LoadKind(), settings, "same" + Table);
        Assert.Equal("2026-11-28T05:00:00Z", first.Positions!["last"].AsString);
        Assert.Equal("2026-11-28T05:00:00Z", again.Positions!["last"].AsString);
    }

    [Theory]
    [InlineData("append", "", "setting: “from.since” reads the rows at its kept value again")]
    [InlineData("mirror", "", "setting: with “from.since” only new rows are read")]
    [InlineData("upsert", "v2", "columns: ")]
    public async Task WhatCannotGoIsRefused(string mode, string column, string says)
    {
        await SourceAsync("sqlite", "changed_at text");
        Assert.StartsWith(
            says,
            await ReadAsync(column.Length > 0 ? $"\"column\": \"{column}\", \"keep\": \"last\"" : Changed, mode),
            StringComparison.Ordinal
        );
        Assert.Equal("", await ArrivedAsync());
    }
}
