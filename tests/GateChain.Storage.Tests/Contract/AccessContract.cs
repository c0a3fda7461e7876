using GateChain.Core.Access;
using GateChain.Core.Identity;

namespace GateChain.Storage.Tests.Contract;

/// <summary>Accounts, tokens, sessions and links: each with its line, and none left of who is gone.</summary>
public abstract class AccessContract(IStorePlace place) : StoreContract(place)
{
    static AuditLine Did(string what) => new(Epoch, Actor.Person("ann"), what, "account");

    static Account Of(string id, string name) =>
        new(id, name, [new(Role.Operator, new("sales")), new(Role.Viewer, Area.Root)], Epoch);

    static async Task<IReadOnlyList<string>> LinesAsync(IStore store) =>
        [.. (await store.Audit.AfterAsync(0, 100)).Select(l => l.Line.Action)];

    [Fact]
    public async Task OneAccountHasAName()
    {
        Assert.True(await Store.Access.SaveAsync(Of("1", "bea"), Did("add")));
        Assert.False(await Store.Access.SaveAsync(Of("2", "BEA"), Did("add again")));
        Assert.True(await Store.Access.SaveAsync(Of("1", "Beatrix") with { PasswordHash = "x" }, Did("rename")));
        Assert.True(await Store.Access.SaveAsync(Of("2", "bea") with { Issuer = "i", Subject = "s" }, null));
        Assert.False(await Store.Access.SaveAsync(Of("3", "eve") with { Issuer = "i", Subject = "s" }, Did("double")));
        var all = (await Store.Access.LoadAsync()).Accounts;
        Assert.Equal(["bea", "Beatrix"], all.Select(a => a.Name));
        Assert.Equal(["operator:sales", "viewer"], all[1].Grants.Select(g => g.ToString()));
        // What was not stored has no line.
        Assert.Equal(["add", "rename"], await LinesAsync(Store));
    }

    [Fact]
    public async Task WithAnAccountItsTokensSessionsAndLinksGo()
    {
        foreach (var id in (string[])["1", "2"])
        {
            await Store.Access.SaveAsync(Of(id, $"name{id}"), Did("add"));
            await Store.Access.AddAsync(new AccessToken($"t{id}", $"h{id}", id, "x", [], Epoch, null), Did("token"));
            await Store.Access.AddAsync(new Session($"s{id}", id, Epoch, Epoch, "", ""), Did("sign in"));
            await Store.Access.AddAsync(new OneTimeLink($"l{id}", id, Epoch.AddDays(1)), null);
        }
        await Store.Access.TouchAsync(
            new Dictionary<string, DateTimeOffset> { ["t2"] = Epoch.AddMinutes(1) },
            new Dictionary<string, DateTimeOffset> { ["s2"] = Epoch.AddMinutes(2) }
        );
        await Store.Access.RemoveAsync("1", Did("remove"));
        var left = await Store.Access.LoadAsync();
        Assert.Equal(("t2", Epoch.AddMinutes(1)), (left.Tokens.Single().Id, left.Tokens.Single().Used));
        Assert.Equal(("s2", Epoch.AddMinutes(2)), (left.Sessions.Single().Hash, left.Sessions.Single().Seen));
        Assert.Null(await Store.Access.FindLinkAsync("l1"));
        Assert.NotNull(await Store.Access.FindLinkAsync("l2"));
    }

    [Fact]
    public async Task ALinkIsTakenByOneAndReplacesTheOneBefore()
    {
        await Store.Access.SaveAsync(Of("1", "bea"), null);
        await Store.Access.AddAsync(new OneTimeLink("first", "1", Epoch), null);
        await Store.Access.AddAsync(new OneTimeLink("second", "1", Epoch), null);
        await Store.Access.AddAsync(new OneTimeLink("of the first account", null, Epoch), null);
        Assert.Null(await Store.Access.FindLinkAsync("first"));
        Assert.Null((await Store.Access.FindLinkAsync("of the first account"))!.Account);
        var taken = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Store.Access.TakeLinkAsync("second")));
        Assert.Single(taken, t => t);
    }

    [Fact]
    public async Task LinesAreFoundSealedAndNeverChanged()
    {
        await Store.Audit.AddAsync([
            .. Enumerable
                .Range(1, 5)
                .Select(i => new AuditLine(
                    Epoch.AddHours(i),
                    Actor.Person(i % 2 == 0 ? "ann" : "bea") with
                    {
                        Source = "10.0.0.9",
                        Through = "console",
                    },
                    i < 3 ? "stop" : "start",
                    $"run {i}",
                    $"because {i}"
                )),
        ]);
        async Task<string> Find(AuditQuery query) =>
            string.Join(' ', (await Store.Audit.ListAsync(query)).Select(l => l.Number));
        Assert.Equal("4 2", await Find(new(By: "ann")));
        Assert.Equal("2 1", await Find(new(Action: "stop")));
        Assert.Equal("3", await Find(new(Object: "run 3")));
        Assert.Equal("4", await Find(new(Text: "BECAUSE 4")));
        Assert.Equal("3 2", await Find(new(From: Epoch.AddHours(2), To: Epoch.AddHours(4))));
        Assert.Equal("3 2", await Find(new(Before: 4, Most: 2)));
        Assert.Equal((0L, ""), await Store.Audit.LastSealAsync());
        await Store.Audit.SealAsync([(1, "a"), (2, "b")]);
        Assert.Equal((2L, "b"), await Store.Audit.LastSealAsync());
        var lines = await Store.Audit.AfterAsync(1, 2);
        Assert.Equal([("b", "10.0.0.9"), (null, "10.0.0.9")], lines.Select(l => (l.Seal, l.Line.By.Source!)));
        // Nothing is sealed twice.
        await Assert.ThrowsAsync<StorageException>(() => Store.Audit.SealAsync([(2, "c")]));
    }

    [Fact]
    public async Task SettingsAreSetAndTakenBack()
    {
        await Store.Access.SetAsync("rules", "[1]", Did("set"));
        await Store.Access.SetAsync("rules", "[2]", Did("set"));
        Assert.Equal("[2]", (await Store.Access.LoadAsync()).Settings["rules"]);
        await Store.Access.SetAsync("rules", null, Did("set"));
        Assert.Empty((await Store.Access.LoadAsync()).Settings);
    }
}
