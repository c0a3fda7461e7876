using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>A person ends one step, or one iteration; the rest of the run goes on.</summary>
public class CancelTests
{
    // Work in steps named “slow…” never ends by itself; when it is asked to, it does.
    static Play Slow(string yaml)
    {
        Play play = null!;
        play = new Play(yaml, (path, _) =>
            path.Contains("slow", StringComparison.Ordinal) && play.State.Find(path)?.IsEnding != true
                ? null
                : AttemptResult.Done(("n", Value.Int(1)))
        );
        return play.Begin().Continue();
    }

    static bool Cancel(Play play, string path, Outcome outcome = Outcome.Failed, Value? outputs = null) =>
        play.Put(new CancelInput(play.Now, path, outcome, Bob, outputs ?? Value.EmptyMap, "too long"));

    const string Three =
        "chain: t\nsteps:\n  slow: { kind: work, retry: { limit: 3, wait: 1s } }\n  good: { kind: work }\n"
        + "  bad: { kind: work }\n  skip: { kind: work }\ngates:\n  - { from: slow, to: good }\n"
        + "  - { from: slow, to: bad, on: failure }\n  - { from: slow, to: skip, on: skipped }";

    [Theory]
    [InlineData(Outcome.Failed, "slow failed, good skipped, bad succeeded, skip skipped", "failed")]
    [InlineData(Outcome.Skipped, "slow skipped, good skipped, bad skipped, skip succeeded", "succeeded")]
    [InlineData(Outcome.Succeeded, "slow succeeded, good succeeded, bad skipped, skip skipped", "succeeded")]
    public void ItSettlesAsThePersonSaidAndItsGatesFollow(Outcome outcome, string words, string run)
    {
        var play = Slow(Three);
        Assert.True(Cancel(play, "slow", outcome));
        Assert.Equal("running", play.Word("slow"));
        Assert.Contains(
            "It was cancelled by bob: too long, and is ending",
            Why.Of(play.State, play.State.Find("slow")!).Sentence,
            StringComparison.Ordinal
        );
        play.Continue();
        Assert.Equal((words, run), (play.Words, play.State.Word));
        Assert.Contains(
            "ancelled by bob: too long",
            Why.Of(play.State, play.State.Find("slow")!).Sentence,
            StringComparison.Ordinal
        );
        Assert.DoesNotContain(play.Events, e => e is AttemptFailed);
    }

    [Fact]
    public void ItsOutputsByHandAreSeenAndHeldToItsKind()
    {
        var play = Slow(
            "chain: t\noutputs: { n: steps.slow.n }\nvars: { v: { type: int, initial: 0 } }\nsteps:\n"
                + "  slow: { kind: work, assign: { vars.v: result.n } }"
        );
        Assert.False(Cancel(play, "slow", Outcome.Succeeded, Value.Map(("n", Value.String("x")))));
        Assert.Contains("expected an int", play.Refusal, StringComparison.Ordinal);
        Assert.True(Cancel(play, "slow", Outcome.Succeeded, Value.Map(("n", Value.Int(9)))));
        play.Continue();
        Assert.Equal("{\"n\": 9}", play.State.Outputs.ToString());
        Assert.Equal("9", play.State.Root.Variables["v"].ToString());
    }

    [Theory]
    [InlineData("absorb", "slow failed, next skipped", "succeeded")]
    [InlineData("pause", "slow paused, next pending", "paused")]
    public void IfFailsHolds(string ifFails, string words, string run)
    {
        var play = Slow(
            $"chain: t\nsteps:\n  slow: {{ kind: work, ifFails: {ifFails} }}\n  next: {{ kind: work }}\n"
                + "gates: [ { from: slow, to: next } ]"
        );
        Assert.True(Cancel(play, "slow"));
        play.Continue();
        Assert.Equal((words, run), (play.Words, play.State.Word));
    }

    [Fact]
    public void WhatHadSucceededMeanwhileIsTold()
    {
        var play = Slow("chain: t\nsteps:\n  slow: { kind: work }");
        Cancel(play, "slow");
        play.Put(new AttemptEndedInput(play.Now, "slow", 1, AttemptResult.Done(("n", Value.Int(4)))));
        Assert.Equal(
            "cancelled by bob: too long; its work had succeeded before it could be ended",
            play.State.Find("slow")!.Error!.Message
        );
    }

    [Theory]
    [InlineData("kind: work, guard: { otherwise: { verdict: hold, recheck: 1h, limit: 9 } }", "held")]
    [InlineData("kind: wait, set: { for: 1h }", "running")]
    [InlineData("kind: work, lane: narrow", "queued")]
    public void HoldsWaitsAndQueuesEndAtOnce(string step, string word)
    {
        var play = new Play($"chain: t\nsteps:\n  a: {{ {step} }}\n  b: {{ kind: work }}").Begin();
        Assert.Equal(word, play.Word("a"));
        Assert.True(Cancel(play, "a", Outcome.Skipped));
        Assert.Equal("skipped", play.Word("a"));
    }

    [Fact]
    public void ARestEndsAtOnceWithoutAnotherAttempt()
    {
        var play = Play.Failing("chain: t\nsteps:\n  a: { kind: work, retry: { limit: 5, wait: 1h } }", "a").Begin();
        play.EndOne();
        Assert.Equal("resting", play.Word("a"));
        Cancel(play, "a");
        Assert.Equal(("failed", "cancelled"), (play.Word("a"), play.State.Find("a")!.Error!.Code));
        Assert.True(play.State.HasEnded);
    }

    const string Nested =
        "chain: t\nsteps:\n  box:\n    kind: group\n    steps:\n      slow: { kind: work }\n"
        + "      next: { kind: work }\n      quick: { kind: work }\n    gates: [ { from: slow, to: next } ]\n"
        + "  after: { kind: work }\ngates: [ { from: box, to: after, on: always } ]";

    [Fact]
    public void AContainerEndsItsInsideFirst()
    {
        var play = Slow(Nested);
        Assert.True(Cancel(play, "box", Outcome.Skipped));
        Assert.Equal("running", play.Word("box"));
        Assert.False(Cancel(play, "box/slow"));
        Assert.Contains("is ending already, with “box”", play.Refusal, StringComparison.Ordinal);
        play.Continue();
        Assert.Equal(
            "box skipped, box/slow succeeded, box/next stopped, box/quick succeeded, after succeeded",
            play.Words.Replace("box/slow stopped", "box/slow succeeded", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void AResumeDoesWhatWasCancelledAsFailedAgainAndKeepsWhatWasSkipped()
    {
        var play = Slow(Nested);
        Cancel(play, "box");
        play.Continue();
        Assert.Equal("failed", play.State.Word);
        play.Resume();
        Assert.Equal("running", play.Word("box/slow"));
        Assert.Null(play.State.Find("box")!.Cancelled);
        Cancel(play, "box/slow", Outcome.Skipped);
        play.Continue();
        Assert.Equal(("succeeded", "skipped"), (play.State.Word, play.Word("box/slow")));
    }

    const string Loop =
        "chain: t\noutputs: { all: steps.loop.collected }\nsteps:\n  loop:\n    kind: each\n"
        + "    over: '[1, 2, 3]'\n    parallel: 3\n    tolerate: 1\n    collect: steps.in.n + steps.in.n\n    steps:\n"
        + "      wait_slow: { kind: work }\n      in: { kind: work }\n"
        + "    gates: [ { from: wait_slow, to: in, on: always } ]";

    [Theory]
    [InlineData(Outcome.Failed, "succeeded", "[2, 2]")]
    [InlineData(Outcome.Skipped, "succeeded", "[2, 2]")]
    [InlineData(Outcome.Succeeded, "succeeded", "[2, 7, 2]")]
    public void AnIterationIsCancelledAndTheOthersGoOn(Outcome outcome, string word, string collected)
    {
        var play = Slow(Loop);
        var given = outcome == Outcome.Succeeded ? Value.Map(("collected", Value.Int(7))) : Value.EmptyMap;
        Assert.True(Cancel(play, "loop[1]", outcome, given), play.Refusal);
        play.Continue();
        Assert.Equal(outcome, play.State.FindScope("loop[1]").IterationOutcome);
        Assert.Equal("running", play.Word("loop[0]/wait_slow"));
        Assert.Equal("stopped", play.Word("loop[1]/in"));
        Cancel(play, "loop[0]/wait_slow", Outcome.Skipped);
        Cancel(play, "loop[2]/wait_slow", Outcome.Skipped);
        play.Continue();
        Assert.Equal((word, $"{{\"all\": {collected}}}"), (play.State.Word, play.State.Outputs.ToString()));
    }

    [Fact]
    public void MoreIterationsThanAreToleratedFailTheLoopAndItSaysWho()
    {
        var play = Slow(Loop);
        Cancel(play, "loop[0]");
        Cancel(play, "loop[1]");
        Cancel(play, "loop[2]", Outcome.Skipped);
        play.Continue();
        Assert.Equal("failed", play.State.Word);
        Assert.Contains("2 of 3 iterations failed", play.State.Error!.Message, StringComparison.Ordinal);
        Assert.Contains("cancelled by bob: too long", play.State.Error.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void ALostAttemptSettlesAsWasSaid()
    {
        var play = Slow(Three);
        Cancel(play, "slow", Outcome.Skipped);
        play.Crash();
        Assert.Equal("skipped", play.Word("slow"));
    }

    [Fact]
    public void AStopOfAllEndsItAsAStop()
    {
        var play = Slow(Three);
        Cancel(play, "slow", Outcome.Skipped);
        play.Put(new StopInput(play.Now, Ann, null));
        Assert.False(Cancel(play, "slow"));
        Assert.Contains("is being stopped by ann", play.Refusal, StringComparison.Ordinal);
        play.Continue();
        Assert.Equal(("stopped", "stopped"), (play.State.Word, play.Word("good")));
    }

    [Fact]
    public void WhatAPausedStepHeldUpGoesOnWhenWhatLiesAroundItIsCancelled()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  box: { kind: group, steps: { in: { kind: work, ifFails: pause } } }\n"
                    + "  other: { kind: wait, set: { for: 1m } }\n  next: { kind: work }\n"
                    + "gates: [ { from: other, to: next } ]",
                "box/in"
            )
            .Run();
        Assert.Equal(("paused", "pending"), (play.State.Word, play.Word("next")));
        Assert.True(Cancel(play, "box", Outcome.Skipped));
        play.Continue();
        Assert.Equal("box skipped, box/in stopped, other succeeded, next succeeded", play.Words);
    }

    // Found beside it: the same when a timeout ends what lies around a paused step.
    [Fact]
    public void WhatAPausedStepHeldUpGoesOnWhenWhatLiesAroundItTakesTooLong()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  box: { kind: group, timeout: 1h, ifFails: absorb, "
                    + "steps: { in: { kind: work, ifFails: pause } } }\n"
                    + "  other: { kind: wait, set: { for: 1m } }\n  next: { kind: work }\n"
                    + "gates: [ { from: other, to: next } ]",
                "box/in"
            )
            .Run();
        Assert.Equal("box failed, box/in stopped, other succeeded, next succeeded", play.Words);
    }

    [Theory]
    [InlineData("good", Outcome.Failed, "“good” has not begun")]
    [InlineData("nope", Outcome.Failed, "there is no step “nope” in run 1")]
    [InlineData("slow", Outcome.Stopped, "cancelled as failed, skipped or succeeded")]
    [InlineData("slow[0]", Outcome.Failed, "there is no step “slow[0]” in run 1")]
    public void WhatCannotBeIsRefusedInWords(string path, Outcome outcome, string why)
    {
        var play = Slow(Three);
        var before = play.Journal.Count;
        Assert.False(Cancel(play, path, outcome));
        Assert.Contains(why, play.Refusal, StringComparison.Ordinal);
        Assert.Equal(before, play.Journal.Count);
    }

    [Fact]
    public void TheSecondIsToldWhoWasFirst()
    {
        var play = Slow(Three);
        Cancel(play, "slow");
        Assert.False(Cancel(play, "slow", Outcome.Skipped));
        Assert.Equal("“slow” is ending already: cancelled by bob: too long", play.Refusal);
        play.Continue();
        Assert.False(Cancel(play, "slow"));
        Assert.StartsWith("run 1 has already ended: it failed at", play.Refusal, StringComparison.Ordinal);
    }

    [Fact]
    public void ARoundIsNotCancelledButItsRepeat()
    {
        var play = Slow(
            "chain: t\nsteps:\n  poll:\n    kind: repeat\n    until: 'false'\n    limit: 9\n"
                + "    steps: { slow: { kind: work } }"
        );
        Assert.False(Cancel(play, "poll[1]"));
        Assert.Contains("is a round: cancel “poll”", play.Refusal, StringComparison.Ordinal);
        Assert.True(Cancel(play, "poll", Outcome.Succeeded));
        play.Continue();
        Assert.Equal("succeeded", play.Word("poll"));
    }

    [Fact]
    public void ACallEndsItsChild()
    {
        var play = new Play("chain: t\nsteps:\n  c: { kind: call, chain: other }") { Child = _ => null };
        play.Begin().Continue();
        Assert.True(Cancel(play, "c", Outcome.Skipped));
        Assert.Contains(play.Events, e => e is CancelAsked { Step: "c", Reason: CancelReason.Person });
        play.Put(new ChildEndedInput(play.Now, "c", 101, Outcome.Stopped, Value.EmptyMap, null));
        Assert.Equal("skipped", play.Word("c"));
    }
}
