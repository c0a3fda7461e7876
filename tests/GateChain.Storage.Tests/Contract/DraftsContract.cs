namespace GateChain.Storage.Tests.Contract;

/// <summary>Of two who save, one is told; what was saved is kept within bounds.</summary>
public abstract class DraftsContract(IStorePlace place) : StoreContract(place)
{
    [Fact]
    public async Task TheVersionsOfADraftTogetherHaveABoundAndTheLatestIsAlwaysKept()
    {
        var drafts = Store.Drafts;
        var version = 0L;
        // Two authors by turns, so that each save is a version of its own.
        for (var i = 0; i < 8; i++)
        {
            version = (
                await drafts.SaveAsync(
                    new("milk", version),
                    new string((char)('a' + i), 4 << 20),
                    null,
                    new Dictionary<string, byte[]>(),
                    $"author {i % 2}",
                    Epoch.AddSeconds(i)
                )
            ).Version;
        }
        Assert.Equal("hgfe", string.Concat((await drafts.HistoryAsync("milk")).Select(d => d.Source![0])));
        await drafts.SaveAsync(
            new("milk", version),
            new string('z', 20 << 20),
            null,
            new Dictionary<string, byte[]>(),
            "bob",
            Epoch.AddDays(1)
        );
        Assert.Equal("z", string.Concat((await drafts.HistoryAsync("milk")).Select(d => d.Source![0])));
    }

    [Fact]
    public async Task ADraftIsGoneWithItsRelease()
    {
        Push Of(string hash, params DraftVersion[] drafts) => Push([Content(hash)]) with { Drafts = drafts };
        await Store.Catalogue.PushAsync(Of("h1"));
        var drafts = Store.Drafts;
        var none = new Dictionary<string, byte[]>();
        var at = Epoch;
        var files = new Dictionary<string, byte[]> { ["a.sql"] = [1] };
        var first = await drafts.SaveAsync(new("milk", 0), "one", 1, files, "ann", at);
        var second = await drafts.SaveAsync(new("milk", first.Version), "two", 1, none, "bob", at.AddSeconds(5));
        var third = await drafts.SaveAsync(new("milk", second.Version), "three", 1, none, "bob", at.AddSeconds(10));
        // Of bob's minute the end stays; ann's work before it stays too.
        Assert.Equal(["three", "one"], (await drafts.HistoryAsync("milk")).Select(d => d.Source));
        await Assert.ThrowsAsync<DraftChangedException>(() =>
            drafts.SaveAsync(new("milk", second.Version), "late", 1, none, "ann", at)
        );
        await Assert.ThrowsAsync<DraftChangedException>(() =>
            Store.Catalogue.PushAsync(Of("h2", new DraftVersion("milk", second.Version)))
        );
        Assert.Equal("three", (await drafts.FindAsync("milk"))!.Source);
        Assert.Single(await Store.Catalogue.ReleasesAsync("milk"));
        Assert.Equal([1], (await drafts.FilesAsync("milk"))["a.sql"]);
        // What was refused has no line.
        Assert.Single(await Store.Audit.ListAsync());
        await Store.Catalogue.PushAsync(Of("h2", new DraftVersion("milk", third.Version)));
        Assert.Null(await drafts.FindAsync("milk"));
        Assert.Equal(2, (await Store.Catalogue.ReleasesAsync("milk")).Count);
        Assert.Empty(await drafts.FilesAsync("milk"));
        // What comes after it is a version of its own: nobody who saw an old one can overwrite it.
        var next = await drafts.SaveAsync(new("milk", 0), "four", 2, none, "ann", at.AddHours(1));
        Assert.True(next.Version > third.Version);
        Assert.Equal("milk", Assert.Single(await drafts.AllAsync()).Chain);
        await drafts.DiscardAsync(new("milk", next.Version), Line("discard", "draft of milk", at.AddHours(2)));
        Assert.Empty(await drafts.AllAsync());
        Assert.Equal("discard", (await Store.Audit.ListAsync(new(Most: 1)))[0].Line.Action);
    }

    [Fact]
    public async Task ADraftSaysWhereANewChainIsToLie()
    {
        var saved = await Store.Drafts.SaveAsync(
            new("milk", 0),
            "one",
            null,
            new Dictionary<string, byte[]>(),
            "ann",
            Epoch,
            new("sales")
        );
        Assert.Equal("sales", saved.Area.Path);
        Assert.Equal(saved, await Store.Drafts.FindAsync("milk"));
    }
}
