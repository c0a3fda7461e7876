using GateChain.Core.Identity;

namespace GateChain.Storage.Tests.Contract;

/// <summary>Files, secrets and the audit log: what people change, and who did.</summary>
public abstract class FilesContract(IStorePlace place) : StoreContract(place)
{
    static AuditLine By(string name, string what) => new(Epoch, Core.Identity.Actor.Person(name), "save", what);

    [Fact]
    public async Task AFileHasVersionsAndOfTwoWhoSaveOneIsTold()
    {
        const string path = "sales/daily/connections.yaml";
        var first = (await Store.Files.SaveAsync(path, 0, "a: 1", By("ann", path)))!;
        Assert.Equal((1, "ann", "a: 1"), (first.Version, first.Author, first.Content));
        var second = (await Store.Files.SaveAsync(path, 1, "a: 2", By("bob", path)))!;
        await Assert.ThrowsAsync<FileChangedException>(() => Store.Files.SaveAsync(path, 1, "a: 3", By("ann", path)));
        // Who says what is there already makes no version.
        Assert.Equal(second, await Store.Files.SaveAsync(path, 2, "a: 2", By("eve", path)));
        Assert.Equal(["bob", "ann"], (await Store.Files.HistoryAsync(path)).Select(f => f.Author));
        Assert.Equal("save", second.Action);
        await ReopenAsync();
        Assert.Equal(second, await Store.Files.FindAsync(path));
        // Taken away, and made again: numbers are never used twice.
        Assert.Null((await Store.Files.SaveAsync(path, 2, null, By("ann", path)))!.Content);
        Assert.Null(await Store.Files.FindAsync(path));
        Assert.Empty(await Store.Files.AllAsync());
        Assert.Equal(4, (await Store.Files.SaveAsync(path, 0, "a: 9", By("ann", path)))!.Version);
        Assert.Equal(["a: 9", null, "a: 2", "a: 1"], (await Store.Files.HistoryAsync(path)).Select(f => f.Content));
        Assert.Equal(["ann", "ann", "bob", "ann"], (await Store.Audit.ListAsync()).Select(e => e.Line.By.Name));
    }

    [Fact]
    public async Task APushMakesVersionsOfWhatItChanges()
    {
        var files = new Dictionary<string, string> { ["lanes.yaml"] = "{}", ["profiles.yaml"] = "a: {}" };
        await Store.Catalogue.PushAsync(Push([], files));
        await Store.Catalogue.PushAsync(Push([], files));
        files["lanes.yaml"] = "narrow: { width: 1 }";
        files.Remove("profiles.yaml");
        await Store.Catalogue.PushAsync(Push([], files));
        Assert.Equal(
            "lanes.yaml 2, profiles.yaml 1",
            string.Join(", ", (await Store.Files.AllAsync()).Select(f => $"{f.Path} {f.Version}"))
        );
        Assert.All(await Store.Files.AllAsync(), f => Assert.Equal("push", f.Action));
    }

    [Fact]
    public async Task SecretsAreSetAndTakenAwayWithALine()
    {
        await Store.Secrets.SetAsync(new("b", Area.Root, "c1", "ann", Epoch), Line("set", "secret b"));
        await Store.Secrets.SetAsync(new("a", new("sales"), "c2", "ann", Epoch), Line("set", "secret a"));
        await Store.Secrets.SetAsync(
            new("b", new("sales/daily"), "c3", "bob", Epoch.AddDays(1)),
            Line("set", "secret b")
        );
        await ReopenAsync();
        Assert.Equal(
            [new("a", new("sales"), "c2", "ann", Epoch), new("b", new("sales/daily"), "c3", "bob", Epoch.AddDays(1))],
            await Store.Secrets.AllAsync()
        );
        await Store.Secrets.RemoveAsync("a", Line("remove", "secret a"));
        Assert.Equal("b", Assert.Single(await Store.Secrets.AllAsync()).Name);
        Assert.Equal(
            "remove secret a, set secret b, set secret a, set secret b",
            string.Join(", ", (await Store.Audit.ListAsync()).Select(e => $"{e.Line.Action} {e.Line.Object}"))
        );
    }

    [Fact]
    public async Task TheAuditLogComesInPagesAndKeepsWhoItWas()
    {
        var token = new Actor(ActorKind.Token, "t1", "the loader");
        for (var i = 1; i <= 5; i++)
        {
            await Store.Secrets.SetAsync(
                new($"s{i}", Area.Root, "c", "x", Epoch),
                new(Epoch.AddMinutes(i), token, "set", $"secret s{i}", i == 3 ? "“why”" : null)
            );
        }
        var first = await Store.Audit.ListAsync(new(Most: 2));
        Assert.Equal([5, 4], first.Select(e => e.Number));
        var second = await Store.Audit.ListAsync(new(Before: first[^1].Number, Most: 2));
        Assert.Equal(new(Epoch.AddMinutes(3), token, "set", "secret s3", "“why”"), second[0].Line);
        Assert.Equal([3, 2], second.Select(e => e.Number));
        Assert.Empty(await Store.Audit.ListAsync(new(Before: 1)));
    }
}
