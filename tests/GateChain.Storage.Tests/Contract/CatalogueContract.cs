using System.Text;

namespace GateChain.Storage.Tests.Contract;

/// <summary>Pushes are stored whole; releases stay, with their numbers.</summary>
public abstract class CatalogueContract(IStorePlace place) : StoreContract(place)
{
    static Dictionary<string, string> Connections(string text) => new() { ["connections.yaml"] = text };

    [Fact]
    public async Task APushIsStoredWholeAndReleasesStay()
    {
        await Store.Catalogue.PushAsync(Push([Content("h1", source: "one")], Connections("a")));
        await Store.Catalogue.PushAsync(Push([Content("h2", source: "two")], Connections("b")));
        await Store.Catalogue.PushAsync(Push([Content("h2", source: "two")]));
        Assert.Equal("two", (await Store.Catalogue.LatestAsync("milk"))!.Source);
        Assert.Equal("b", (await Store.Files.FindAsync("connections.yaml"))!.Content);
        Assert.Equal("one", (await Store.Catalogue.FindAsync("h1"))!.Source);
        Assert.Equal([1, 2], (await Store.Catalogue.FindAsync("h2"))!.Files["a.sql"]);
        Assert.Equal("milk", Assert.Single(await Store.Catalogue.ChainsAsync()).Chain);
        Assert.Null(await Store.Catalogue.LatestAsync("nothing"));
        Assert.Equal(["push", "push", "push"], (await Store.Audit.ListAsync()).Select(e => e.Line.Action));
    }

    [Fact]
    public async Task ReleasesAreNumberedAndFoundByHowTheyBegin()
    {
        foreach (var hash in (string[])["h1", "h1", "h2", "h1"])
            await Store.Catalogue.PushAsync(Push([Content(hash)], note: "why"));
        var releases = await Store.Catalogue.ReleasesAsync("milk");
        Assert.Equal([(3, "h1"), (2, "h2"), (1, "h1")], releases.Select(r => (r.Number, r.Hash)));
        Assert.Equal(("ann", "why"), (releases[0].Author, releases[0].Note));
        Assert.Equal(3, (await Store.Catalogue.LatestReleasesAsync())["milk"].Number);
        // Content that is only tried has no number.
        await Store.Catalogue.KeepAsync(Content("h3"));
        Assert.Equal("h3", (await Store.Catalogue.FindAsync("h3"))!.Source);
        Assert.Equal(3, (await Store.Catalogue.ReleasesAsync("milk")).Count);
        Assert.Equal(["h1", "h2", "h3"], (await Store.Catalogue.FindReleasesAsync("milk", "h")).Order());
        Assert.Empty(await Store.Catalogue.FindReleasesAsync("milk", "x"));
    }

    [Fact]
    public async Task AttachmentsAreListedAndWhatChangedThem()
    {
        Release With(string hash, string content, string? place = null) =>
            Content(hash) with
            {
                Area = new("sales"),
                Files = new Dictionary<string, byte[]> { ["a.sql"] = Encoding.UTF8.GetBytes(content) },
                Places = place is null
                    ? new Dictionary<string, string>()
                    : new Dictionary<string, string> { ["a.sql"] = place },
            };
        foreach (var (hash, content) in ((string, string)[])[("h1", "one"), ("h2", "one"), ("h3", "three")])
            await Store.Catalogue.PushAsync(Push([With(hash, content)]));
        Assert.Equal(new("milk", "a.sql", "sales/a.sql", 5), Assert.Single(await Store.Catalogue.AttachmentsAsync()));
        var versions = await Store.Catalogue.AttachmentHistoryAsync("milk", "a.sql");
        Assert.Equal(
            [(3, 5, "push"), (1, 3, "push")],
            versions.Select(v => (v.Release.Number, v.Size, v.Release.Action))
        );
        await Store.Catalogue.PushAsync(Push([With("h4", "three", "a.sql")]));
        Assert.Equal("a.sql", Assert.Single(await Store.Catalogue.AttachmentsAsync()).Path);
        Assert.Empty(await Store.Catalogue.AttachmentHistoryAsync("milk", "b.sql"));
    }

    [Fact]
    public async Task AChainLiesInTheFolderThatItWasPushedFromLast()
    {
        Release In(string area) =>
            Content("h1") with
            {
                Area = new(area),
                Places = new Dictionary<string, string> { ["a.sql"] = "x/a.sql" },
            };
        await Store.Catalogue.PushAsync(Push([In("sales")]));
        Assert.Equal("sales", (await Store.Catalogue.LatestAsync("milk"))!.Area.Path);
        await Store.Catalogue.PushAsync(Push([In("sales/daily")]));
        var found = (await Store.Catalogue.FindAsync("h1"))!;
        Assert.Equal(("sales/daily", "x/a.sql"), (found.Area.Path, found.Places["a.sql"]));
        Assert.Equal("sales/daily", Assert.Single(await Store.Catalogue.ChainsAsync()).Area.Path);
        Assert.Single(await Store.Catalogue.ReleasesAsync("milk"));
        // Content that is only tried lies where its chain does.
        await Store.Catalogue.KeepAsync(Content("h2"));
        Assert.Equal("sales/daily", (await Store.Catalogue.FindAsync("h2"))!.Area.Path);
    }

    [Fact]
    public async Task ARetiredChainStaysSoThroughPushesUntilItIsBroughtBack()
    {
        await Store.Catalogue.PushAsync(Push([Content("h1")]));
        var since = new Retirement("ann", new(2026, 11, 29, 5, 0, 0, 1, TimeSpan.Zero), "merged into intake");
        AuditLine Line(string action) => new(since.At, Ann, action, "chain milk", since.Why);
        await Store.Catalogue.SetRetiredAsync("milk", since, Line("retire"));
        await Store.Catalogue.PushAsync(Push([Content("h2", source: "two")]));
        Assert.Equal(since, (await Store.Catalogue.LatestAsync("milk"))!.Retired);
        Assert.Equal(since, Assert.Single(await Store.Catalogue.ChainsAsync()).Retired);
        Assert.Equal(since, (await Store.Catalogue.FindAsync("h1"))!.Retired);
        await Store.Catalogue.SetRetiredAsync("milk", null, Line("bring back"));
        Assert.Null((await Store.Catalogue.LatestAsync("milk"))!.Retired);
        Assert.Equal(
            ["bring back", "push", "retire", "push"],
            (await Store.Audit.ListAsync()).Select(e => e.Line.Action)
        );
    }
}
