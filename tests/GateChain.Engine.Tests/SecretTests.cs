using System.Text;
using GateChain.Core.Identity;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;

namespace GateChain.Engine.Tests;

/// <summary>Whose a secret is, where it comes from, and how a run is given one by its name.</summary>
public sealed class SecretTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    async Task PushAsync(params (string Name, string Text)[] files)
    {
        var workspace = await _house.Engine.Workspace.PushAsync(
            files.ToDictionary(f => f.Name, f => Encoding.UTF8.GetBytes(f.Text)),
            Ann
        );
        Assert.False(workspace.HasErrors, string.Join("\n", workspace.Problems));
    }

    Task<long> StartAsync(string chain, params (string Name, string Value)[] given) =>
        _house.Engine.Starter.StartAsync(chain, given.ToDictionary(g => g.Name, g => Value.String(g.Value)), null, Ann);

    async Task<string> SaidAsync(long run)
    {
        await _house.EndAsync(run);
        return await _house.Engine.Reader.ReadAsync(run, (s, _) =>
            s.Outputs.AsMap.Find("said") is { Kind: ValueKind.String } said
                ? said.AsString
                : string.Join("; ", s.AllSteps.Select(x => x.Error?.Message).OfType<string>())
        );
    }

    // Says how long the secret is, and the secret.
    static string Tells(string name, string from) =>
        $$"""
            chain: {{name}}
            params: { token: { type: string, secret: true, default: secret:{{from}} } }
            steps:
              a:
                kind: command
                set: { shell: 'printf "%s %s" $${#TOKEN} "$TOKEN"', env: { TOKEN: '${params.token}' } }
            outputs: { said: steps.a.value }
            """;

    [Fact]
    public async Task ARunIsGivenASecretByItsNameAndTheSecretIsNowhereInIt()
    {
        await _house.Engine.Secrets.SetAsync("one", "the first one", Area.Root, Ann);
        await _house.Engine.Secrets.SetAsync("two", "the second one", Area.Root, Ann);
        await PushAsync(
            ("t.chain.yaml", Tells("t", "one")),
            (
                "outer.chain.yaml",
                """
                chain: outer
                params: { handed: { type: string, secret: true } }
                steps: { c: { kind: call, chain: t, inputs: { token: params.handed } } }
                outputs: { said: steps.c.said }
                """
            )
        );
        Assert.Equal("13 ••••••", await SaidAsync(await StartAsync("t")));
        Assert.Equal("14 ••••••", await SaidAsync(await StartAsync("t", ("token", "secret:two"))));
        var outer = await StartAsync("outer", ("handed", "secret:two"));
        Assert.Equal("14 ••••••", await SaidAsync(outer));
        // What the run has is the name.
        Assert.Equal(
            "secret:two",
            await _house.Engine.Reader.ReadAsync(outer, (s, _) => s.Params.Find("handed")!.Value.AsString)
        );
        await foreach (var entry in _house.Store.Journal.ReadAsync(outer, 0, default))
            Assert.DoesNotContain("the second one", entry.ToString(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("plain password", "“token” is a secret, and is given by its name: secret:NAME")]
    [InlineData("secret:", "“token” is a secret, and is given by its name: secret:NAME")]
    [InlineData("secret:none", "“token”: there is no secret “none”; set it: gatechain secret set none")]
    [InlineData("secret:finance", "“token”: there is no secret “finance”; set it: gatechain secret set finance")]
    public async Task WhatIsNoNameOfASecretIsRefusedAndNotRepeated(string given, string why)
    {
        await _house.Engine.Secrets.SetAsync("one", "the first one", Area.Root, Ann);
        await _house.Engine.Secrets.SetAsync("finance", "of another folder", new("finance"), Ann);
        await PushAsync(("sales/t.chain.yaml", Tells("t", "one")));
        var refused = await Assert.ThrowsAsync<RefusedException>(() => StartAsync("t", ("token", given)));
        Assert.Equal(why, refused.Message);
        Assert.DoesNotContain("plain", refused.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task WhatDataSayIsNeverTakenForASecret()
    {
        await _house.Engine.Secrets.SetAsync("one", "the first one", Area.Root, Ann);
        await PushAsync(
            (
                "t.chain.yaml",
                """
                chain: t
                params: { x: { type: string } }
                steps: { a: { kind: command, set: { shell: 'printf "%s" "$X"', env: { X: '${params.x}' } } } }
                outputs: { said: steps.a.value }
                """
            )
        );
        Assert.Equal("secret:one", await SaidAsync(await StartAsync("t", ("x", "secret:one"))));
    }

    [Fact]
    public async Task ASecretOfAFolderIsForChainsThereAndBelow()
    {
        await _house.Engine.Secrets.SetAsync("wh", "the warehouse's", new("sales"), Ann);
        await PushAsync(
            ("sales/s.chain.yaml", Tells("s", "wh")),
            ("sales/daily/d.chain.yaml", Tells("d", "wh")),
            ("finance/f.chain.yaml", Tells("f", "wh").Replace(", default: secret:wh", "", StringComparison.Ordinal)),
            ("r.chain.yaml", Tells("r", "wh").Replace("'${params.token}'", "secret:wh", StringComparison.Ordinal))
        );
        Assert.Equal("15 ••••••", await SaidAsync(await StartAsync("s")));
        Assert.Equal("15 ••••••", await SaidAsync(await StartAsync("d")));
        Assert.Contains(
            "there is no secret “wh”",
            (await Assert.ThrowsAsync<RefusedException>(() => StartAsync("f", ("token", "secret:wh")))).Message,
            StringComparison.Ordinal
        );
        // One that its file names is told when it is checked, and fails when it runs.
        var checkedNow = await _house.Engine.Workspace.ReadAsync(
            new Dictionary<string, byte[]>
            {
                ["r.chain.yaml"] = Encoding.UTF8.GetBytes(
                    "chain: r\nsteps: { a: { kind: command, set: { run: [x], env: { T: secret:wh } } } }"
                ),
                ["sales/s.chain.yaml"] = Encoding.UTF8.GetBytes(
                    "chain: s\nsteps: { a: { kind: command, set: { run: [x], env: { T: secret:wh } } } }"
                ),
            }
        );
        Assert.Contains("there is no secret “wh”", Assert.Single(checkedNow.Problems).ToString());
    }

    [Fact]
    public async Task SecretsStandInFilesTooAndAChangeHoldsAtOnce()
    {
        Directory.CreateDirectory(Path.Combine(_house.SecretFiles, "sales"));
        File.WriteAllText(Path.Combine(_house.SecretFiles, "all"), "for everybody\n");
        File.WriteAllText(Path.Combine(_house.SecretFiles, "sales", "wh"), "only for sales");
        File.WriteAllText(Path.Combine(_house.SecretFiles, ".hidden"), "nobody's business");
        File.WriteAllText(Path.Combine(_house.SecretFiles, "short"), "12345");
        File.WriteAllText(Path.Combine(_house.Work, "outside"), "not in the folder");
        var (root, sales, daily) = (
            _house.Engine.Secrets.In(Area.Root),
            _house.Engine.Secrets.In(new("sales")),
            _house.Engine.Secrets.In(new("sales/daily"))
        );
        Assert.Equal("for everybody", root.Find("file:all"));
        Assert.Equal("for everybody", daily.Find("file:all"));
        Assert.Equal("only for sales", sales.Find("file:sales/wh"));
        Assert.Equal("only for sales", daily.Find("file:sales/wh"));
        Assert.Null(root.Find("file:sales/wh"));
        Assert.Null(_house.Engine.Secrets.In(new("salesmen")).Find("file:sales/wh"));
        foreach (
            var trick in (string[])
                [
                    "file:",
                    "file:.hidden",
                    "file:short",
                    "file:../outside",
                    "file:sales/../all",
                    "file:/etc/passwd",
                    "file:sales",
                    "all",
                ]
        )
        {
            Assert.Null(root.Find(trick));
            Assert.Null(sales.Find(trick));
        }
        Assert.True(_house.Engine.Secrets.IsSet("file:all", Area.Root));
        Assert.False(_house.Engine.Secrets.IsSet("file:none", Area.Root));
        Assert.Equal("say ••••••", _house.Engine.Secrets.Mask.Text("say only for sales"));
        File.WriteAllText(Path.Combine(_house.SecretFiles, "all"), "the next one");
        Assert.Equal("the next one", root.Find("file:all"));
        await PushAsync(("t.chain.yaml", Tells("t", "file:all")));
        Assert.Equal("12 ••••••", await SaidAsync(await StartAsync("t")));
    }

    [Fact]
    public async Task AConnectionMayBeKeptFromTriesOfDrafts()
    {
        const string Files = "in: { type: folder, path: ., tries: false }\n";
        const string Chain =
            "chain: t\nsteps: { a: { kind: file, set: { action: look, connection: in, path: '*.none' } } }\n";
        const string Caller = "chain: caller\nsteps: { c: { kind: call, chain: t } }\n";
        await PushAsync(("connections.yaml", Files), ("t.chain.yaml", Chain), ("caller.chain.yaml", Caller));
        TryOptions Order(string source) =>
            new(
                source,
                new Dictionary<string, Value>(),
                null,
                Core.Running.TryPart.Whole,
                null,
                null,
                new Dictionary<string, Value>(),
                []
            );
        Assert.StartsWith("succeeded", await _house.EndAsync(await StartAsync("t")));
        Assert.StartsWith("succeeded", await _house.EndAsync(await StartAsync("caller")));
        var tried = await _house.Engine.Starter.TryAsync("t", Order(Chain), Ann);
        Assert.Contains("is kept from tries of drafts", await SaidAsync(tried), StringComparison.Ordinal);
        // A draft does not get there by calling what is released.
        var around = await _house.Engine.Starter.TryAsync("caller", Order(Caller), Ann);
        Assert.StartsWith("failed", await _house.EndAsync(around));
        var child = (await _house.Store.Runs.ListAsync(new(Limit: 10))).Single(r => r.Parent?.Run == around).Id;
        Assert.Contains("is kept from tries of drafts", await SaidAsync(child), StringComparison.Ordinal);
    }

    [Fact]
    public async Task WhatHoldsInFoldersAboveIsKnownWhereOnlyAFolderIsBrought()
    {
        await PushAsync(
            ("connections.yaml", "db: { type: sqlite, path: a.db }\n"),
            ("profiles.yaml", "dev: { inbox: in }\n"),
            ("sales/t.chain.yaml", "chain: t\nsteps: { a: { kind: assign } }\n")
        );
        const string Uses =
            "chain: u\nsteps: { a: { kind: sql, set: { connection: db, query: 'select 1' } } }\n"
            + "outputs: { x: profile.inbox }\n";
        var brought = await _house.Engine.Workspace.PushAsync(
            new Dictionary<string, byte[]> { ["sales/u.chain.yaml"] = Encoding.UTF8.GetBytes(Uses) },
            Ann
        );
        Assert.Empty(brought.Problems);
        // Of a folder that is brought, what is brought is all there is.
        var whole = await _house.Engine.Workspace.ReadAsync(
            new Dictionary<string, byte[]> { ["u.chain.yaml"] = Encoding.UTF8.GetBytes(Uses) }
        );
        Assert.True(whole.HasErrors);
    }
}
