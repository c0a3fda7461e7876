using System.Text;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;

namespace GateChain.Engine.Tests;

/// <summary>
/// What stands beside the chains, changed one file at a time: nobody overwrites what they have not seen, and what would
/// not fit any more is told.
/// </summary>
public sealed class WorkspaceFileTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    const string Chain =
        "chain: t\nsteps:\n  s: { kind: sql, lane: narrow, set: { connection: db, query: { file: q.sql } } }\n";

    static Dictionary<string, byte[]> Files(params (string Path, string Text)[] files) =>
        files.ToDictionary(f => f.Path, f => Encoding.UTF8.GetBytes(f.Text));

    static readonly Dictionary<string, byte[]> Workspace = Files(
        ("t.chain.yaml", Chain),
        ("q.sql", "SELECT 1"),
        ("connections.yaml", "db: { type: sqlite, path: a.db }\nother: { type: folder, path: x }\n"),
        ("lanes.yaml", "narrow: { width: 1 }\n")
    );

    async Task<FileAnswer> SaveAsync(string path, string? text, string? seen, Actor? by = null, bool anyway = false) =>
        await _house.Engine.WorkspaceFiles.SaveAsync(
            new(path, text is null ? null : Encoding.UTF8.GetBytes(text), seen, anyway),
            by ?? Ann
        );

    async Task PushAsync() => Assert.False((await _house.Engine.Workspace.PushAsync(Workspace, Ann)).HasErrors);

    Task<Workspace> PushAsync(Dictionary<string, byte[]> files, PushTerms terms) =>
        _house.Engine.Workspace.PushAsync(files, Bob, null, terms);

    PushTerms Terms(IReadOnlyDictionary<string, string>? known = null, bool over = false) =>
        new(known, over, _house.Engine.Broken);

    async Task<string> TextAsync(string path, string? version = null) =>
        Encoding.UTF8.GetString((await _house.Engine.WorkspaceFiles.GetAsync(path, version)).Content);

    [Fact]
    public async Task AllFilesAreListedWithWhatTheyAreAndWhoUsesThem()
    {
        await PushAsync();
        Assert.Equal(
            "connections.yaml connections 1 , lanes.yaml lanes 1 , q.sql attachment t#1 t",
            string.Join(
                ", ",
                (await _house.Engine.WorkspaceFiles.ListAsync()).Select(f =>
                    $"{f.Path} {f.Kind} {f.Version} {string.Join(' ', f.UsedBy)}"
                )
            )
        );
    }

    [Fact]
    public async Task OfTwoWhoSaveTheSecondIsToldAndLosesNothing()
    {
        await PushAsync();
        Assert.Equal("2", (await SaveAsync("lanes.yaml", "narrow: { width: 2 }\n", "1")).Version);
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            SaveAsync("lanes.yaml", "narrow: { width: 3 }\n", "1", Bob)
        );
        Assert.Equal(
            (RefusalKind.Conflict, "ann has saved “lanes.yaml” meanwhile; nothing of yours was stored"),
            (refused.Kind, refused.Message)
        );
        Assert.Equal("narrow: { width: 2 }\n", await TextAsync("lanes.yaml"));
        Assert.Equal("narrow: { width: 1 }\n", await TextAsync("lanes.yaml", "1"));
        Assert.Equal(
            ["2 ann save", "1 ann push"],
            (await _house.Engine.WorkspaceFiles.VersionsAsync("lanes.yaml")).Select(v =>
                $"{v.Version} {v.Author} {v.Action}"
            )
        );
        Assert.Equal(2, _house.Engine.Workspace.Lanes["narrow"]);
    }

    [Fact]
    public async Task WithAnErrorNothingIsStoredAndACheckNeverStores()
    {
        await PushAsync();
        var wrong = await SaveAsync("connections.yaml", "db: { type: orakel }\n", "1");
        Assert.Null(wrong.Version);
        Assert.Contains("no type of connection “orakel”", Assert.Single(wrong.Problems).Message.ToString());
        Assert.Null((await SaveAsync("lanes.yaml", "narrow: { width: 9 }\n", null)).Version);
        Assert.Equal(1, _house.Engine.Workspace.Lanes["narrow"]);
    }

    [Theory]
    [InlineData("connections.yaml", "other: { type: folder, path: x }\n", "there is no connection “db”")]
    [InlineData("connections.yaml", "db: { type: folder, path: x }\n", "“db”")]
    [InlineData("lanes.yaml", "{}\n", "there is no lane “narrow”")]
    [InlineData("lanes.yaml", null, "there is no lane “narrow”")]
    public async Task WhatAChainNeedsIsNotTakenAwayUnlessSomebodySaysSo(string path, string? text, string why)
    {
        await PushAsync();
        var answer = await SaveAsync(path, text, "1");
        Assert.Null(answer.Version);
        var broken = Assert.Single(answer.Breaks);
        Assert.Equal(("t", true), (broken.What, broken.IsChain));
        Assert.Contains(why, broken.Message, StringComparison.Ordinal);
        Assert.NotNull((await SaveAsync(path, text, "1", anyway: true)).Version);
        // From then on it is a problem, until it is put right.
        await UntilAsync(() => _house.Engine.Broken.Now.Any(b => b.What == "t"));
        await _house.Engine.Workspace.PushAsync(Workspace, Ann);
        await UntilAsync(() => _house.Engine.Broken.Now.Count == 0);
    }

    static async Task UntilAsync(Func<bool> holds)
    {
        for (var i = 0; !holds(); i++)
        {
            Assert.True(i < 2000, "it does not come to that");
            await Task.Delay(5);
        }
    }

    [Fact]
    public async Task WhatNobodyNeedsGoesAndOtherValuesBreakNothing()
    {
        await PushAsync();
        var answer = await SaveAsync("connections.yaml", "db: { type: sqlite, path: b.db }\n", "1");
        Assert.Equal(("2", 0), (answer.Version, answer.Breaks.Count));
    }

    [Fact]
    public async Task AnAttachmentThatIsSavedMakesAReleaseOfEachChainThatUsesIt()
    {
        var files = new Dictionary<string, byte[]>(Workspace)
        {
            ["u.chain.yaml"] = Encoding.UTF8.GetBytes(Chain.Replace("chain: t", "chain: u")),
        };
        await _house.Engine.Workspace.PushAsync(files, Ann);
        var saved = await SaveAsync("q.sql", "SELECT 2", "t#1 u#1", Bob);
        Assert.Equal("t#2 u#2", saved.Version);
        Assert.Equal("SELECT 2", await TextAsync("q.sql"));
        Assert.Equal("SELECT 1", await TextAsync("q.sql", "u#1"));
        var latest = (await _house.Store.Catalogue.ReleasesAsync("t"))[0];
        Assert.Equal(
            (2, "bob", "q.sql was changed", "save"),
            (latest.Number, latest.Author, latest.Note, latest.Action)
        );
        await Assert.ThrowsAsync<RefusedException>(() => SaveAsync("q.sql", "SELECT 3", "t#1 u#1"));
        Assert.Equal(
            ["t#1", "t#2", "u#1", "u#2"],
            (await _house.Engine.WorkspaceFiles.VersionsAsync("q.sql")).Select(v => v.Version).Order()
        );
        Assert.Contains(
            "belongs to t, u",
            (await Assert.ThrowsAsync<RefusedException>(() => SaveAsync("q.sql", null, "t#2 u#2"))).Message
        );
    }

    [Theory]
    [InlineData("../lanes.yaml")]
    [InlineData("/etc/passwd")]
    [InlineData("t.chain.yaml")]
    [InlineData("")]
    [InlineData("a\nb.yaml")]
    [InlineData("never.sql")]
    public async Task NoOtherFileIsWritten(string path)
    {
        await PushAsync();
        await Assert.ThrowsAsync<RefusedException>(() => SaveAsync(path, "x", ""));
        await Assert.ThrowsAsync<RefusedException>(() => _house.Engine.WorkspaceFiles.GetAsync(path));
    }

    // Found with 60,000 of them: what was compared with all before took hours, and held up all who save.
    [Theory]
    [InlineData("profiles.yaml", "{ x: 1 }")]
    [InlineData("connections.yaml", "{ type: folder, path: x }")]
    [InlineData("lanes.yaml", "{ width: 1 }")]
    [InlineData("triggers.yaml", "{ chain: t, outcome: { chains: t, is: failed } }")]
    public async Task AFileOfVeryManyEntriesIsToldInTime(string path, string entry)
    {
        await PushAsync();
        var text = string.Concat(Enumerable.Range(0, 40_000).Select(i => $"k{i}: {entry}\n"));
        var answer = await SaveAsync(path, text, null).WaitAsync(TimeSpan.FromSeconds(60));
        Assert.Contains(answer.Problems, p =>
            p.Message.ToString() == "the file has 40,000 entries, and at most 5,000 are read"
        );
    }

    [Fact]
    public async Task OfTwentyWhoSaveAtOnceOneIsStored()
    {
        await PushAsync();
        var answers = await Task.WhenAll(
            Enumerable
                .Range(2, 20)
                .Select(async width =>
                {
                    try
                    {
                        return (await SaveAsync("lanes.yaml", $"narrow: {{ width: {width} }}\n", "1")).Version;
                    }
                    catch (RefusedException)
                    {
                        return null;
                    }
                })
        );
        Assert.Equal("2", Assert.Single(answers.OfType<string>()));
    }

    // A push beside somebody's edit.

    static Dictionary<string, byte[]> Changed(string path, string text) =>
        new(Workspace) { [path] = Encoding.UTF8.GetBytes(text) };

    [Fact]
    public async Task APushDoesNotOverwriteWhatWasChangedInTheService()
    {
        await PushAsync();
        await SaveAsync("lanes.yaml", "narrow: { width: 2 }\n", "1");
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            PushAsync(Changed("lanes.yaml", "narrow: { width: 5 }\n"), Terms())
        );
        Assert.Contains("lanes.yaml (by ann, ", refused.Message, StringComparison.Ordinal);
        Assert.Contains("--over", refused.Message, StringComparison.Ordinal);
        Assert.Equal(2, _house.Engine.Workspace.Lanes["narrow"]);
        // The same is no overwriting, and whoever is told to may.
        await PushAsync(Changed("lanes.yaml", "narrow: { width: 2 }\n"), Terms());
        await PushAsync(Changed("lanes.yaml", "narrow: { width: 5 }\n"), Terms(over: true));
        Assert.Equal(5, _house.Engine.Workspace.Lanes["narrow"]);
        // What was pushed last may be pushed over by whoever knows nothing.
        await PushAsync(Changed("lanes.yaml", "narrow: { width: 6 }\n"), Terms());
    }

    [Fact]
    public async Task WhoSaysWhatTheyHadIsToldOfEveryChangeSinceAndOfNoOther()
    {
        await PushAsync();
        var known = Workspace.ToDictionary(f => f.Key, f => Overwrites.HashOf(f.Value));
        await SaveAsync("lanes.yaml", "narrow: { width: 2 }\n", "1");
        await Assert.ThrowsAsync<RefusedException>(() =>
            PushAsync(Changed("lanes.yaml", "narrow: { width: 5 }\n"), Terms(known))
        );
        // They have taken it over, and go on from there.
        known["lanes.yaml"] = Overwrites.HashOf("narrow: { width: 2 }\n"u8);
        await PushAsync(Changed("lanes.yaml", "narrow: { width: 5 }\n"), Terms(known));
        // Another folder has pushed: the first one is told too.
        await Assert.ThrowsAsync<RefusedException>(() =>
            PushAsync(Changed("lanes.yaml", "narrow: { width: 7 }\n"), Terms(known))
        );
    }

    [Fact]
    public async Task ChainsAndAttachmentsAreHeldToItToo()
    {
        await PushAsync();
        await _house.Engine.Drafts.SaveAsync("t", 0, Chain + "# edited\n", Files(("q.sql", "SELECT 5")), Ann);
        await _house.Engine.Drafts.ReleaseAsync("t", 1, null, Ann);
        var refused = await Assert.ThrowsAsync<RefusedException>(() => PushAsync(Workspace, Terms()));
        Assert.Contains("q.sql (by ann", refused.Message, StringComparison.Ordinal);
        Assert.Contains("t.chain.yaml (by ann", refused.Message, StringComparison.Ordinal);
        Assert.Equal(2, (await _house.Store.Catalogue.ReleasesAsync("t")).Count);
        // A folder that does not have the chain at all overwrites nothing of it.
        await PushAsync(Files(("lanes.yaml", "narrow: { width: 3 }\n")), Terms());
    }

    [Fact]
    public async Task APushDoesNotBreakChainsThatItDoesNotBring()
    {
        await PushAsync();
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            PushAsync(Files(("lanes.yaml", "wide: { width: 3 }\n")), Terms())
        );
        Assert.Contains("would break t (there is no lane “narrow”", refused.Message, StringComparison.Ordinal);
        await PushAsync(Files(("lanes.yaml", "wide: { width: 3 }\n")), Terms(over: true));
    }
}
