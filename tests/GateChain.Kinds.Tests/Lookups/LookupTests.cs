using GateChain.Kinds.Lookups;
using GateChain.Kinds.Sql;
using GateChain.Kinds.Tests.Servers;

namespace GateChain.Kinds.Tests.Lookups;

/// <summary>What settings can name is looked up where it is: tables of databases, files here and on a server.</summary>
public sealed class LookupTests(Servers.Databases databases) : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    async Task ExecuteAsync(string statement)
    {
        var result = await _bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(statement)}}}"""
        );
        Assert.Null(result.Error);
    }

    static IEnumerable<string> Told(LookupResult result) =>
        result.Problem is { } problem ? [problem] : result.Items.Select(i => $"{i.Text} {i.What}");

    LookupResult Tables(string connection) =>
        Lookup.Tables(connection, _bench.Context() with { ReadOnly = true }, default);

    LookupResult Paths(string begin, string? connection = null) =>
        Lookup.Paths(begin, connection, _bench.Context() with { ReadOnly = true }, default);

    [Theory]
    [InlineData("sqlite")]
    [InlineData("duckdb")]
    [InlineData("postgresql")]
    [InlineData("mysql")]
    public async Task TablesAndViewsAreToldByNameAndWithoutThoseOfLoads(string type)
    {
        databases.Connect(_bench, type);
        var own = $"look_{Guid.NewGuid():N}"[..14];
        await ExecuteAsync($"CREATE TABLE {own} (n int)");
        await ExecuteAsync($"CREATE VIEW {own}_v AS SELECT n FROM {own}");
        await ExecuteAsync($"CREATE TABLE gatechain_{own} (n int)");
        var found = Tables("target");
        Assert.Null(found.Problem);
        Assert.Equal(
            [$"{own} table", $"{own}_v view"],
            Told(found).Where(t => t.Contains(own, StringComparison.Ordinal)).Order(StringComparer.Ordinal)
        );
        await ExecuteAsync($"DROP VIEW {own}_v");
        await ExecuteAsync($"DROP TABLE {own}");
    }

    [Fact]
    public async Task TablesOfOtherSchemasAreWrittenAsAStepWritesThem()
    {
        databases.Connect(_bench, "postgresql");
        await ExecuteAsync("CREATE SCHEMA IF NOT EXISTS look_elsewhere");
        await ExecuteAsync("CREATE TABLE IF NOT EXISTS look_elsewhere.\"pickups.2026\" (n int)");
        Assert.Contains("look_elsewhere.\"pickups.2026\" table", Told(Tables("target")));
        await ExecuteAsync("DROP SCHEMA look_elsewhere CASCADE");
    }

    [Fact]
    public void WhatCanNotBeLookedAtIsSaid()
    {
        _bench.Connect("gone", "postgresql", ("host", "127.0.0.1"), ("port", 1), ("database", "x"), ("user", "x"));
        _bench.Connect("inbox", "folder", ("path", "inbox"));
        Assert.Equal(["there is no connection “nope”"], Told(Tables("nope")));
        Assert.Equal(["“inbox” is a folder connection, not a database"], Told(Tables("inbox")));
        Assert.NotNull(Tables("gone").Problem);
        Assert.Contains("files are in folders, on servers (sftp, ftp) and in buckets", Paths("", "db").Problem);
        Assert.Contains("Could not find", Paths("nowhere/").Problem);
    }

    [Fact]
    public void FilesAndFoldersThatBeginSoAreToldOneLevelDeep()
    {
        _bench.Write("inbox/west/a.csv", "");
        _bench.Write("inbox/west-2.csv", "");
        _bench.Write("inbox/north.csv", "");
        Assert.Equal(["inbox/west/ folder", "inbox/west-2.csv file"], Told(Paths("inbox/we")));
        Assert.Equal(["inbox/west/a.csv file"], Told(Paths("inbox/west/")));
        _bench.Connect("inbox", "folder", ("path", "inbox"));
        Assert.Equal(["west/ folder", "north.csv file", "west-2.csv file"], Told(Paths("", "inbox")));
        Assert.Empty(Paths("inbox/zz").Items);
    }

    [Theory]
    [InlineData("/etc/")]
    [InlineData("../")]
    [InlineData("link/")]
    [InlineData("inbox/../../")]
    public void NothingOutsideOfTheAllowedFoldersIsSeen(string begin)
    {
        _bench.Write("inbox/a.csv", "");
        File.CreateSymbolicLink(_bench["link"], "/etc");
        var found = Paths(begin);
        Assert.Empty(found.Items);
        Assert.Contains("outside of the folders", found.Problem);
        // Nor is it listed that it is there.
        Assert.Equal(["inbox/ folder"], Told(Paths("")));
    }

    [Fact]
    public void OfVeryManyFilesAListIsTold()
    {
        for (var n = 0; n <= Lookup.Most; n++)
            _bench.Write($"many/{n:000}.csv", "");
        var found = Paths("many/");
        Assert.Equal((Lookup.Most, true), (found.Items.Count, found.HasMore));
        Assert.Equal(["many/042.csv file"], Told(Paths("many/042")));
    }

    [Fact]
    public void FilesOnAServerAreLookedUpThere()
    {
        using var server = SshServer.Start();
        _bench.Secrets["key"] = server.PrivateKey;
        _bench.Connect(
            "depots",
            "sftp",
            ("host", "127.0.0.1"),
            ("port", server.Port),
            ("user", Environment.UserName),
            ("privateKey", "secret:key"),
            ("hostKey", server.HostKey)
        );
        Directory.CreateDirectory(Path.Combine(server.Files, "west"));
        File.WriteAllText(Path.Combine(server.Files, "north.csv"), "");
        Assert.Equal(
            [$"{server.Files}/west/ folder", $"{server.Files}/north.csv file"],
            Told(Paths($"{server.Files}/", "depots"))
        );
        Assert.NotNull(Paths("/no/such/place/", "depots").Problem);
    }
}
