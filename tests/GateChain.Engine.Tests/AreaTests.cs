using System.Text;
using GateChain.Core.Identity;
using GateChain.Core.Rehearsing;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Rehearsals;
using GateChain.Engine.Workspaces;
using GateChain.Kinds;

namespace GateChain.Engine.Tests;

/// <summary>Chains and files in folders: what is named is the nearest one, going up.</summary>
public sealed class AreaTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    static Dictionary<string, byte[]> Files(params (string Name, string Text)[] files) =>
        files.ToDictionary(f => f.Name, f => Encoding.UTF8.GetBytes(f.Text));

    static Workspace Of(params (string Name, string Text)[] files) => new(Files(files), KindDescriptions.Catalogue);

    async Task PushAsync(params (string Name, string Text)[] files)
    {
        var workspace = await _house.Engine.Workspace.PushAsync(Files(files), Ann);
        Assert.False(workspace.HasErrors, string.Join("\n", workspace.Problems));
    }

    async Task<string> OutputsOfAsync(long run)
    {
        await _house.EndAsync(run);
        return await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString());
    }

    static string Sql(string name) =>
        $"chain: {name}\nsteps:\n  s: {{ kind: sql, set: {{ connection: db, query: {{ file: q.sql }} }} }}\n";

    const string Db = "db: { type: sqlite, path: PATH }\n";

    [Fact]
    public void WhatAChainNamesIsTheNearestGoingUp()
    {
        var workspace = Of(
            ("root.chain.yaml", Sql("root")),
            ("sales/s.chain.yaml", Sql("s")),
            ("sales/daily/d.chain.yaml", Sql("d")),
            ("other/o.chain.yaml", Sql("o")),
            ("connections.yaml", Db),
            ("sales/connections.yaml", Db.Replace("PATH", "sales.db", StringComparison.Ordinal)),
            ("q.sql", "SELECT 1"),
            ("sales/daily/q.sql", "SELECT 2")
        );
        Assert.Empty(workspace.Problems);
        var releases = workspace.ToPush(DateTimeOffset.UnixEpoch, Ann, null).Releases.ToDictionary(r => r.Chain);
        Assert.Equal("SELECT 1", Encoding.UTF8.GetString(releases["s"].Files["q.sql"]));
        Assert.Equal("SELECT 2", Encoding.UTF8.GetString(releases["d"].Files["q.sql"]));
        Assert.Equal(("sales/daily", "other"), (releases["d"].Area.Path, releases["o"].Area.Path));
        Assert.Equal("q.sql", releases["s"].Places["q.sql"]);
        Assert.Empty(releases["d"].Places);
        Assert.Equal(["q.sql", "sales/daily/q.sql"], workspace.Attachments.Order(StringComparer.Ordinal));
    }

    [Theory]
    [InlineData("connections.yaml", "other/connections.yaml", "there is no connection “db” in connections.yaml")]
    [InlineData("q.sql", "sales/daily/q.sql", "there is no file “q.sql” beside the chain")]
    public void WhatLiesBesideOrBelowIsNotSeen(string moved, string to, string problem)
    {
        var files = new (string Name, string Text)[]
        {
            ("sales/s.chain.yaml", Sql("s")),
            ("connections.yaml", Db),
            ("q.sql", "SELECT 1"),
        };
        Assert.Empty(Of(files).Problems);
        Assert.Contains(
            problem,
            Assert.Single(Of([.. files.Select(f => f.Name == moved ? (to, f.Text) : f)]).Problems).ToString(),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void AFileOfAFolderSaysMoreOrOtherThanThoseAround()
    {
        const string chain = "chain: t\nsteps: { a: { kind: assign } }\noutputs: { x: profile.a, y: profile.b }\n";
        var workspace = Of(
            ("profiles.yaml", "dev: { a: 1 }\nprod: { a: 2 }\n"),
            ("sales/profiles.yaml", "prod: { b: 3 }\n"),
            ("sales/t.chain.yaml", chain)
        );
        Assert.Equal(
            "sales/t.chain.yaml:3:29: warning GC1407: the profile “dev” has no “b” (declare it there; under it this "
                + "would fail)",
            Assert.Single(workspace.Problems).ToString()
        );
        Assert.Equal("{\"a\": 2, \"b\": 3}", workspace.ProfilesOf("t").Choose("prod").ToString());
        Assert.Equal(
            "sales/profiles.yaml:1:8: warning GC1408: “a” is a text here, and a number in “dev”",
            Assert
                .Single(Of(("profiles.yaml", "dev: { a: 1 }\n"), ("sales/profiles.yaml", "dev: { a: x }\n")).Problems)
                .ToString()
        );
    }

    [Fact]
    public void ALaneHasOneWidthForTheWholeService()
    {
        var lanes = (Name: "sales/lanes.yaml", Text: "narrow: { width: 2 }\n");
        const string step = "chain: t\nsteps: { a: { kind: command, lane: narrow, set: { run: [x] } } }\n";
        Assert.Empty(Of(lanes, ("sales/daily/t.chain.yaml", step)).Problems);
        Assert.Contains("GC1404", Assert.Single(Of(lanes, ("t.chain.yaml", step)).Problems).ToString());
        Assert.Equal(
            "sales/lanes.yaml:1:1: error GC1003: the lane “narrow” is already in lanes.yaml (give one of them another "
                + "name, or declare it in a folder around both)",
            Assert.Single(Of(lanes, ("lanes.yaml", "narrow: { width: 1 }")).Problems).ToString()
        );
    }

    [Fact]
    public async Task WhatIsExportedIsWhatWasPushed()
    {
        (string Name, string Text)[] files =
        [
            ("connections.yaml", Db),
            ("d.chain.yaml", Sql("d")),
            ("q.sql", "SELECT 1"),
            ("sales/daily/e.chain.yaml", Sql("e")),
            ("sales/daily/q.sql", "SELECT 2"),
            ("sales/lanes.yaml", "narrow: { width: 1 }"),
            ("sales/s.chain.yaml", Sql("s")),
        ];
        await PushAsync(files);
        var exported = await _house.Engine.Workspace.ExportAsync();
        Assert.Equal(files, exported.Select(f => (f.Key, Encoding.UTF8.GetString(f.Value))));
        // A push from another folder moves the chain, and makes no release of what is the same.
        await PushAsync([("other/s.chain.yaml", Sql("s")), .. files.Where(f => f.Name != "sales/s.chain.yaml")]);
        Assert.Equal(new Area("other"), await _house.Engine.Workspace.AreaOfAsync("s"));
        Assert.Single(await _house.Store.Catalogue.ReleasesAsync("s"));
        Assert.Contains("other/s.chain.yaml", (await _house.Engine.Workspace.ExportAsync()).Keys);
    }

    [Fact]
    public async Task ARunWorksWithWhatItsFolderSays()
    {
        string Chain(string name) =>
            $"chain: {name}\nsteps:\n  s: {{ kind: sql, set: {{ connection: db, query: 'SELECT 1 AS n' }} }}\n"
            + "outputs: { who: profile.who }\n";
        await PushAsync(
            ("a.chain.yaml", Chain("a")),
            ("sales/b.chain.yaml", Chain("b")),
            ("connections.yaml", Db.Replace("PATH", "root.db", StringComparison.Ordinal)),
            ("sales/connections.yaml", Db.Replace("PATH", "sales.db", StringComparison.Ordinal)),
            ("profiles.yaml", "prod: { who: everybody }"),
            ("sales/profiles.yaml", "prod: { who: sales }")
        );
        var run = await _house.Engine.Starter.StartAsync("b", new Dictionary<string, Value>(), "prod", Ann);
        Assert.Equal("{\"who\": \"sales\"}", await OutputsOfAsync(run));
        Assert.Equal((false, true), (IsThere("root.db"), IsThere("sales.db")));
        Assert.Equal("sales", (await _house.Store.Runs.FindAsync(run))!.Area.Path);
        var other = await _house.Engine.Starter.StartAsync("a", new Dictionary<string, Value>(), "prod", Ann);
        Assert.Equal("{\"who\": \"everybody\"}", await OutputsOfAsync(other));
        Assert.True(IsThere("root.db"));
    }

    bool IsThere(string file) => File.Exists(Path.Combine(_house.Work, file));

    [Fact]
    public async Task ACalledChainWorksWithWhatItsOwnFolderSays()
    {
        const string seen = "outputs: { who: profile.who, more: 'has(profile.more) ? profile.more : 0' }\n";
        await PushAsync(
            (
                "t.chain.yaml",
                "chain: t\nsteps:\n  b: { kind: call, chain: b }\n  c: { kind: call, chain: c }\n"
                    + "outputs: { b: 'steps.b.who', c: 'steps.c.who', more: '[steps.b.more, steps.c.more]' }\n"
            ),
            ("sales/b.chain.yaml", "chain: b\ncallable: /\nsteps: { s: { kind: assign } }\n" + seen),
            ("c.chain.yaml", "chain: c\nsteps: { s: { kind: assign } }\n" + seen),
            ("profiles.yaml", "dev: { who: nobody }\nprod: { who: everybody }"),
            ("sales/profiles.yaml", "prod: { who: sales, more: 1 }")
        );
        var run = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), "prod", Ann);
        Assert.Equal("""{"b": "sales", "c": "everybody", "more": [1, 0]}""", await OutputsOfAsync(run));
        var child = (await _house.Store.Runs.ListAsync(new() { Chain = "b" }))[0];
        Assert.Equal("sales", child.Area.Path);
        // A rehearsal sees the same.
        var chain = await _house.Engine.Workspace.LatestChainAsync("t");
        var called = await _house.Engine.Workspace.CalledByAsync(chain);
        var profiles = await _house.Engine.Workspace.ProfilesOfAsync("t", called.Keys.Select(c => c.Name));
        var wish = new RehearsalOptions(
            new Dictionary<string, Value>(),
            new Dictionary<string, Value>(),
            profiles("t").Choose("prod"),
            [],
            new Dictionary<string, Value>(),
            (caller, other, values) => profiles(other).ForCalled(values, "prod", profiles(caller))
        ).Read(chain, c => called.GetValueOrDefault(c), _house.Clock.GetUtcNow());
        Assert.Equal(
            """{"b": "sales", "c": "everybody", "more": [1, 0]}""",
            Rehearsal.Play(chain, wish, c => called.GetValueOrDefault(c)).State.Outputs.ToString()
        );
    }

    [Fact]
    public async Task ANewChainLiesWhereItsDraftSays()
    {
        await PushAsync(
            ("sales/connections.yaml", Db.Replace("PATH", "sales.db", StringComparison.Ordinal)),
            ("a.chain.yaml", "chain: a\nsteps: { s: { kind: assign } }\n")
        );
        const string chain = "chain: n\nsteps: { s: { kind: sql, set: { connection: db, query: 'SELECT 1 AS n' } } }\n";
        var none = new Dictionary<string, byte[]>();
        await _house.Engine.Drafts.SaveAsync("n", 0, chain, none, Ann);
        Assert.True((await _house.Engine.Drafts.CheckAsync("n", chain)).HasErrors);
        await _house.Engine.Drafts.SaveAsync("n", 1, chain, none, Ann, new("sales"));
        Assert.False((await _house.Engine.Drafts.CheckAsync("n", chain)).HasErrors);
        // Later saves leave it there.
        await _house.Engine.Drafts.SaveAsync("n", 2, chain, none, Ann);
        await _house.Engine.Drafts.ReleaseAsync("n", 3, null, Ann);
        Assert.Equal(new Area("sales"), await _house.Engine.Workspace.AreaOfAsync("n"));
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            _house.Engine.Drafts.SaveAsync("m", 0, chain, none, Ann, new("../up"))
        );
        Assert.Equal("a folder is named by its path in the workspace, for example sales/daily", refused.Message);
    }

    [Fact]
    public async Task AConnectionOfANameThatSeveralFoldersHaveIsToldByItsFolder()
    {
        await PushAsync(
            ("connections.yaml", Db.Replace("PATH", "root.db", StringComparison.Ordinal)),
            ("sales/connections.yaml", Db + "api: { type: folder, path: in }\n"),
            ("sales/b.chain.yaml", Sql("b")),
            ("q.sql", "SELECT 1 AS n")
        );
        var desk = _house.Engine.Connections;
        Assert.Equal(["", "sales", "sales"], desk.All.Select(c => c.Area.Path));
        Assert.Equal(("db", "sales"), (await desk.UsesAsync()).Select(u => (u.Connection, u.Area.Path)).Single());
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            desk.CheckAsync("db", null, CancellationToken.None)
        );
        Assert.Equal(
            "there are several connections “db”; say which by its folder: “” (the workspace), sales",
            refused.Message
        );
        Assert.True((await desk.CheckAsync("db", Area.Root, CancellationToken.None)).Works);
        Assert.True(IsThere("root.db"));
    }
}
