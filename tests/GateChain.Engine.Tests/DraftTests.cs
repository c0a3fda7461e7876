using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Storage;

namespace GateChain.Engine.Tests;

public class DraftTests
{
    const string Chain =
        "chain: t\nsteps:\n  a: { kind: count }\n  b: { kind: count }\ngates: [ { from: a, to: b } ]\n";
    static readonly Dictionary<string, byte[]> NoFiles = [];

    static TryOptions Order(
        string source,
        TryPart part = TryPart.Whole,
        string? step = null,
        long? known = null,
        params string[] pause
    ) => new(source, new Dictionary<string, Value>(), null, part, step, known, new Dictionary<string, Value>(), pause);

    [Fact]
    public async Task ADraftBecomesAReleaseThatNewRunsFollow()
    {
        await using var house = new House();
        await house.PushAsync(Chain);
        var drafts = house.Engine.Drafts;
        var seen = await drafts.GetAsync("t");
        Assert.Equal((0L, 1, Chain), (seen.Version, seen.Base, seen.Source));
        var saved = await drafts.SaveAsync(
            "t",
            seen.Version,
            Chain.Replace("b: { kind: count }", "b: { kind: cuont }"),
            NoFiles,
            Ann
        );
        Assert.Contains(
            "did you mean “count”?",
            (await Assert.ThrowsAsync<InvalidDraftException>(() => drafts.ReleaseAsync("t", saved.Version, null, Ann)))
                .Problems[0]
                .Fix
        );
        saved = await drafts.SaveAsync(
            "t",
            saved.Version,
            Chain.Replace("  b: {", "  c: {").Replace("to: b", "to: c"),
            NoFiles,
            Ann
        );
        // Runs continue following the release until the draft becomes one.
        Assert.Equal(
            "succeeded: a succeeded, b succeeded",
            await house.EndAsync(await house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann))
        );
        var release = await drafts.ReleaseAsync("t", saved.Version, "other name", Ann);
        Assert.Equal((2, "other name", "ann"), (release.Number, release.Note, release.Author));
        Assert.Equal(
            "succeeded: a succeeded, c succeeded",
            await house.EndAsync(await house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann))
        );
        var back = await drafts.GoBackAsync("t", 1, null, Bob);
        Assert.Equal((3, "release 1 again"), (back.Number, back.Note));
        Assert.Equal(Chain, (await house.Store.Catalogue.LatestAsync("t"))!.Source);
        Assert.Equal(
            "release 1 of “t” is what new runs follow already",
            (await Assert.ThrowsAsync<RefusedException>(() => drafts.GoBackAsync("t", 1, null, Bob))).Message
        );
    }

    [Fact]
    public async Task TwoWhoSaveAtOnceDoNotOverwriteEachOther()
    {
        await using var house = new House();
        await house.PushAsync(Chain);
        var results = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(async i =>
                {
                    try
                    {
                        return (
                            await house.Engine.Drafts.SaveAsync(
                                "t",
                                0,
                                $"chain: t # {i}",
                                NoFiles,
                                Core.Identity.Actor.Person($"p{i}")
                            )
                        ).Source;
                    }
                    catch (DraftChangedException)
                    {
                        return null;
                    }
                })
        );
        Assert.Equal((await house.Engine.Drafts.GetAsync("t")).Source, Assert.Single(results, r => r is not null));
    }

    [Fact]
    public async Task APartOfADraftIsTriedWithWhatAnEarlierRunGaveAndGoesOnAfterARestart()
    {
        await using var house = new House();
        var first = await house.RunAsync(Chain);
        await house.EndAsync(first);
        Assert.Equal((1, 1), (house.Count.Effects["a"], house.Count.Effects["b"]));
        var draft = Chain
            .Replace("  b: { kind: count }", "  b: { kind: count }\n  c: { kind: count }")
            .Replace("to: b }", "to: b }, { from: b, to: c }");
        var run = await house.Engine.Starter.TryAsync("t", Order(draft, TryPart.From, "b", first, "c"), Ann);
        for (var i = 0; i < 500 && !await house.Engine.Reader.ReadAsync(run, (s, _) => s.IsPaused); i++)
            await Task.Delay(10);
        // Another process takes the run up where it paused: the try is in the journal.
        house.Start();
        await house.Engine.StartAsync();
        Assert.Equal(
            "before c, as the try was told to",
            await house.Engine.Reader.ReadAsync(run, (s, _) => s.Pause!.Message)
        );
        await house.Engine.Commands.ResumeAsync(run, Ann, new());
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await house.EndAsync(run));
        Assert.Equal((1, 2, 1), (house.Count.Effects["a"], house.Count.Effects["b"], house.Count.Effects["c"]));
        Assert.Equal(1, (await house.Store.Catalogue.ReleasesAsync("t"))[0].Number);
    }

    [Theory]
    [InlineData(TryPart.From, "x", "there is no step “x” in the chain's own scope")]
    [InlineData(TryPart.Whole, null, "run 9 is not there")]
    public async Task WhatCannotBeTriedIsRefused(TryPart part, string? step, string why)
    {
        await using var house = new House();
        await house.PushAsync(Chain);
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            house.Engine.Starter.TryAsync("t", Order(Chain, part, step, part == TryPart.Whole ? 9 : null), Ann)
        );
        Assert.StartsWith(why == "run 9 is not there" ? "there is no run 9" : why, refused.Message);
    }
}
