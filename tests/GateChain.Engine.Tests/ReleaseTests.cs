using System.Text;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Workspaces;

namespace GateChain.Engine.Tests;

/// <summary>Which release runs and calls follow, and how a run moves to another, on a real engine.</summary>
public sealed class ReleaseTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    Task<long> StartAsync() => _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);

    [Fact]
    public async Task ARunMovesToAChangedFileWhenItFitsAndSaysWhatDoesNot()
    {
        _house.Count.Failing["b"] = true;
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count }\n  b: { kind: count }\ngates: [ { from: a, to: b } ]"
        );
        var run = await StartAsync();
        await _house.EndAsync(run);
        await _house.PushAsync(
            "chain: t\nsteps:\n  aa: { kind: count }\n  b: { kind: count }\ngates: [ { from: aa, to: b } ]"
        );
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            _house.Engine.Commands.ResumeAsync(run, Bob, new() { Release = "latest" })
        );
        Assert.Equal(
            (RefusalKind.Conflict, "“a” is kept, and there is no such step any more"),
            (refused.Kind, Assert.Single(refused.Details))
        );
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count }\n  b: { kind: count, disabled: true }\n  c: { kind: "
                + "count }\ngates: [ { from: a, to: b }, { from: b, to: c } ]"
        );
        await _house.Engine.Commands.ResumeAsync(run, Bob, new() { Release = "latest" });
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await _house.EndAsync(run));
        Assert.Equal(1, _house.Count.Effects["a"]);
        // Folded again, through the move.
        await _house.EndEngineAsync();
        _house.Start();
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await _house.EndAsync(run));
    }

    [Fact]
    public async Task ARunKnowsTheNumberOfItsReleaseAlsoAfterAMove()
    {
        const string chain =
            "chain: t\noutputs: { of: run.release }\nsteps: { a: { kind: count }, b: { kind: count, set: "
            + "{ } } }\ngates: [ { from: a, to: b } ]";
        await _house.PushAsync(chain);
        await _house.PushAsync(chain + "\nnotes: second");
        _house.Count.Failing["b"] = true;
        var run = await StartAsync();
        await _house.EndAsync(run);
        Assert.Equal(2, await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Number));
        await _house.PushAsync(chain + "\nnotes: third");
        _house.Count.Failing.Clear();
        await _house.Engine.Commands.ResumeAsync(run, Bob, new() { Release = "latest" });
        await _house.EndAsync(run);
        Assert.Equal("""{"of": 3}""", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString()));
        await _house.EndEngineAsync();
        _house.Start();
        Assert.Equal(3, await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Number));
    }

    [Theory]
    [InlineData("1", "first")]
    [InlineData("2", "second")]
    [InlineData("latest", "third")]
    public async Task ACallRunsTheReleaseItNamesAndKeepsToItWhenResumed(string release, string expected)
    {
        const string parent =
            "chain: t\nsteps: { a: { kind: call, chain: child1, release: LATEST } }\noutputs: { said: steps.a.said }";
        foreach (var word in (string[])["first", "second", "third"])
        {
            await _house.PushAsync(
                parent.Replace("LATEST", "latest", StringComparison.Ordinal),
                $"chain: child1\nsteps: {{ x: {{ kind: count }} }}\noutputs: {{ said: \"'{word}'\" }}"
            );
        }

        var source = parent.Replace("LATEST", release, StringComparison.Ordinal);
        Assert.Empty((await _house.Engine.Drafts.CheckAsync("t", source)).Problems);
        var saved = await _house.Engine.Drafts.SaveAsync("t", 0, source, new Dictionary<string, byte[]>(), Ann);
        if (release != "latest")
            await _house.Engine.Drafts.ReleaseAsync("t", saved.Version, null, Ann);
        _house.Count.Failing["x"] = true;
        var run = await StartAsync();
        await _house.EndAsync(run);
        await _house.Engine.Workspace.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["child1.chain.yaml"] =
                    "chain: child1\nsteps: { x: { kind: count } }\noutputs: { said: \"'fourth'\" }"u8.ToArray(),
            },
            Ann
        );
        _house.Count.Failing.Clear();
        await _house.Engine.Commands.ResumeAsync(run, Bob, new());
        await _house.EndAsync(run);
        Assert.Equal(
            $$"""{"said": "{{expected}}"}""",
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString())
        );
        var check = await _house.Engine.Drafts.CheckAsync("t", parent.Replace("LATEST", "9", StringComparison.Ordinal));
        Assert.Equal("“child1” has no release 9", Assert.Single(check.Problems).Message);
    }

    [Fact]
    public async Task AWorkspaceMayCallTheReleaseThatItMakesItself()
    {
        string Parent(int release) => $"chain: t\nsteps: {{ a: {{ kind: call, chain: child1, release: {release} }} }}";
        string Child(string word) =>
            $"chain: child1\nsteps: {{ x: {{ kind: count }} }}\noutputs: {{ said: \"'{word}'\" }}";
        Task<Workspace> CheckAsync(int release, string word) =>
            _house.Engine.Workspace.ReadAsync(
                new Dictionary<string, byte[]>
                {
                    ["t.chain.yaml"] = Encoding.UTF8.GetBytes(Parent(release)),
                    ["child1.chain.yaml"] = Encoding.UTF8.GetBytes(Child(word)),
                }
            );
        await _house.PushAsync(Parent(1), Child("first"));
        Assert.StartsWith("succeeded", await _house.EndAsync(await StartAsync()));
        // The same content makes no second release; other content does.
        Assert.Equal("“child1” has no release 2", Assert.Single((await CheckAsync(2, "first")).Problems).Message);
        Assert.Empty((await CheckAsync(2, "second")).Problems);
        Assert.Equal("“child1” has no release 3", Assert.Single((await CheckAsync(3, "second")).Problems).Message);
    }

    [Fact]
    public async Task ARunMovesToANumberedReleaseOrTheDraft()
    {
        string Chain(string last) =>
            $"chain: t\nsteps:\n  a: {{ kind: count }}\n  {last}: {{ kind: count }}\ngates: [ {{ from: a, "
            + $"to: {last} }} ]";
        _house.Count.Failing["b"] = _house.Count.Failing["c"] = true;
        await _house.PushAsync(Chain("b"));
        var run = await StartAsync();
        await _house.EndAsync(run);
        await _house.PushAsync(Chain("c"));
        await _house.PushAsync(Chain("d"));
        async Task<int?> NumberAsync()
        {
            var release = await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Release);
            return await _house.Engine.Workspace.NumberOfAsync("t", release);
        }
        Task<int> MoveAsync(string to) => _house.Engine.Commands.ResumeAsync(run, Bob, new() { Release = to });
        Assert.Equal(1, await NumberAsync());
        await MoveAsync("2");
        Assert.Equal("failed: a succeeded, c failed", await _house.EndAsync(run));
        Assert.Equal(2, await NumberAsync());
        Assert.Equal(
            "“t” has no release 4; it has 1 to 3",
            (await Assert.ThrowsAsync<RefusedException>(() => MoveAsync("4"))).Message
        );
        Assert.Equal(
            "“t” has no draft",
            (await Assert.ThrowsAsync<RefusedException>(() => MoveAsync("draft"))).Message
        );
        var drafts = _house.Engine.Drafts;
        var saved = await drafts.SaveAsync(
            "t",
            0,
            Chain("e").Replace("kind: count", "kind: cuont", StringComparison.Ordinal),
            new Dictionary<string, byte[]>(),
            Ann
        );
        await Assert.ThrowsAsync<InvalidDraftException>(() => MoveAsync("draft"));
        await drafts.SaveAsync("t", saved.Version, Chain("e"), new Dictionary<string, byte[]>(), Ann);
        await MoveAsync("draft");
        Assert.Equal("succeeded: a succeeded, e succeeded", await _house.EndAsync(run));
        Assert.Null(await NumberAsync());
        Assert.Equal(1, _house.Count.Effects["a"]);
        // Folded again, through both moves; the draft was not released by it.
        await _house.EndEngineAsync();
        _house.Start();
        Assert.Equal("succeeded: a succeeded, e succeeded", await _house.EndAsync(run));
        Assert.Equal(3, (await _house.Store.Catalogue.ReleasesAsync("t")).Count);
    }

    [Fact]
    public async Task ChainsThatNobodyAsksForAreNotKept()
    {
        await _house.PushAsync([
            "chain: t\nsteps: { a: { kind: count } }",
            .. Enumerable.Range(1, 11).Select(i => $"chain: child{i}\nsteps: {{ a{i}: {{ kind: count }} }}"),
        ]);
        var hashes = (await _house.Store.Catalogue.ChainsAsync()).Select(c => c.Hash).ToList();
        var chains = new GateChain.Engine.Releases.ReleasedChains(_house.Store.Catalogue, _house.Check, most: 8);
        var first = await chains.OfAsync(hashes[0]);
        foreach (var hash in hashes)
        {
            await chains.OfAsync(hash);
            // Who is asked for again and again stays.
            Assert.Same(first, await chains.OfAsync(hashes[0]));
            Assert.InRange(chains.Count, 1, 8);
        }
        var names = new HashSet<string>();
        foreach (var hash in hashes)
            names.Add((await chains.OfAsync(hash)).Name);
        Assert.Equal(12, names.Count);
    }
}
