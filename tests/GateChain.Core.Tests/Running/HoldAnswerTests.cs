using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>A person lets a held step through, or asks its guard to look now.</summary>
public class HoldAnswerTests
{
    static Play Held(string more = "", string limit = "limit: 2, then: skip") =>
        new Play(
            $"chain: t\nsteps:\n  a:\n    kind: work{more}\n    guard:\n      probes: {{ p: {{ kind: eye }} }}\n"
                + $"      rules: [ {{ when: probes.p.n > 5, verdict: proceed }} ]\n"
                + $"      otherwise: {{ verdict: hold, recheck: 1h, {limit} }}\n  b: {{ kind: work }}\n"
                + "gates: [ { from: a, to: b } ]"
        ).Begin();

    static void Look(Play play, int look, int n) =>
        play.Put(new ProbesTakenInput(play.Now, "a", look, Value.Map(("p", Value.Map(("n", Value.Int(n)))))));

    static string WhyA(Play play) => Why.Of(play.State, play.State.Find("a")!).Sentence;

    [Fact]
    public void LetThroughItStartsAsIfItsGuardHadSaidSo()
    {
        var play = Held();
        Look(play, 1, 2);
        Assert.True(
            play.Put(new HoldInput(play.Now, "a", HoldAnswer.LetThrough, People.Ann, "the file comes by mail"))
        );
        Assert.Equal("a", play.StartedWords);
        play.Continue();
        Assert.Equal("a b", play.StartedWords);
        Assert.Contains("let it through", WhyA(play), StringComparison.Ordinal);
        Assert.Contains(People.Ann.Name, WhyA(play), StringComparison.Ordinal);
        var looked = play.Events.OfType<GuardLooked>().Last();
        Assert.Equal(
            (Core.Chains.Verdict.Proceed, $"let through by {People.Ann}: the file comes by mail", 2L),
            (looked.Verdict, looked.Message, looked.Probes.AsMap.Find("p")!.Value.AsMap.Find("n")!.Value.AsInt)
        );
    }

    [Fact]
    public void ItWaitsForItsLaneAllTheSame()
    {
        var play = Held("\n    lane: narrow");
        Look(play, 1, 2);
        play.Put(new HoldInput(play.Now, "a", HoldAnswer.LetThrough, People.Ann));
        Assert.Equal("queued", play.Word("a"));
    }

    [Fact]
    public void ALookThatContinuesChangesNothingAnyMore()
    {
        var play = Held();
        Assert.True(play.Put(new HoldInput(play.Now, "a", HoldAnswer.LetThrough, People.Ann)));
        Look(play, 1, 2);
        Assert.Equal("running", play.Word("a"));
        Assert.Single(play.Started);
    }

    [Fact]
    public void InAPausedRunItStartsWhenTheRunIsResumed()
    {
        var play = Held();
        Look(play, 1, 2);
        play.Put(new PauseInput(play.Now, People.Bob, null));
        Assert.False(play.Put(new HoldInput(play.Now, "a", HoldAnswer.Look, People.Ann)));
        Assert.Contains("is paused", play.Refusal!, StringComparison.Ordinal);
        Assert.True(play.Put(new HoldInput(play.Now, "a", HoldAnswer.LetThrough, People.Ann)));
        Assert.Empty(play.Started);
        Assert.False(play.Put(new HoldInput(play.Now, "a", HoldAnswer.LetThrough, People.Bob)));
        Assert.Contains($"let in by {People.Ann}", play.Refusal!, StringComparison.Ordinal);
        play.Crash();
        play.Resume();
        Assert.Equal("a b", play.StartedWords);
    }

    [Fact]
    public void ALookThatIsAskedForPutsNothingOffAndCountsForNothing()
    {
        var play = Held();
        Look(play, 1, 2);
        var planned = play.State.Find("a")!.Due;
        for (var look = 2; look < 8; look++)
        {
            Assert.True(play.Put(new HoldInput(play.Now, "a", HoldAnswer.Look, People.Ann)));
            Assert.Contains($"as {People.Ann} asked", WhyA(play), StringComparison.Ordinal);
            Assert.False(play.Put(new HoldInput(play.Now, "a", HoldAnswer.Look, People.Bob)));
            Assert.Equal("the guard of “a” is looking already", play.Refusal);
            Look(play, look, 3);
            Assert.Equal(("held", planned), (play.Word("a"), play.State.Find("a")!.Due));
            Assert.Contains($"({look}) was asked for by {People.Ann}", WhyA(play), StringComparison.Ordinal);
        }
        play.Put(new HoldInput(play.Now, "a", HoldAnswer.Look, People.Ann));
        Look(play, 8, 9);
        Assert.Equal("a", play.StartedWords);
        Assert.All([play.Folded(), play.Restored()], s =>
            Assert.Equal((8, People.Ann), (s.Find("a")!.Hold!.Latest!.Look, s.Find("a")!.Hold!.Latest!.By))
        );
    }

    [Theory]
    [InlineData("b", "“b” is not held by its guard; it is pending")]
    [InlineData("c", "there is no step “c” in run 1")]
    public void WhatIsNotHeldIsRefused(string step, string why)
    {
        var play = Held();
        Look(play, 1, 2);
        foreach (var answer in Enum.GetValues<HoldAnswer>())
        {
            Assert.False(play.Put(new HoldInput(play.Now, step, answer, People.Ann)));
            Assert.Contains(why, play.Refusal!, StringComparison.Ordinal);
        }
        play.Put(new StopInput(play.Now, People.Ann, null));
        play.Continue();
        Assert.False(play.Put(new HoldInput(play.Now, "a", HoldAnswer.Look, People.Ann)));
        Assert.Contains("already ended", play.Refusal!, StringComparison.Ordinal);
    }
}
