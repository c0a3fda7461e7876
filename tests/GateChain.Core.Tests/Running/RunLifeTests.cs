using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>The life of a whole run: queued, late, handlers, automatic resume.</summary>
public class RunLifeTests
{
    const string Handled = """
        chain: t
        steps:
          a: { kind: work }
          b: { kind: work }
        gates: [ { from: a, to: b } ]
        handlers:
          success: { steps: { ok: { kind: work } } }
          failure: { steps: { bad: { kind: work, set: { text: '${error.code}: ${error.message}; ${steps.a.state}; ${run.outcome}' } }, more: { kind: work } }, gates: [ { from: bad, to: more } ] }
          end: { steps: { last: { kind: work } } }
        """;

    [Theory]
    [InlineData("", "a b @success[1]/ok @end[2]/last", "succeeded")]
    [InlineData("a", "a @failure[1]/bad @failure[1]/more @end[2]/last", "failed")]
    public void HandlersRunWhenTheChainsOwnStepsAreThrough(string failing, string started, string word)
    {
        var play = Play.Failing(Handled, failing).Run();
        Assert.Equal((started, word), (play.StartedWords, play.State.Word));
    }

    [Fact]
    public void AHandlerSeesTheErrorTheStepsAndTheOutcome() =>
        Assert.Equal(
            "test: a: a broke; failed; failed",
            Play.Failing(Handled, "a").Run().State.Find("@failure[1]/bad")!.Inputs.AsMap.Find("text")!.Value.AsString
        );

    [Fact]
    public void AStoppedRunStillRunsItsEnd()
    {
        var play = new Play(Handled, (path, _) => path == "a" ? null : AttemptResult.Done()).Begin();
        play.Put(new StopInput(play.Now, Ann, null));
        play.Put(new AttemptEndedInput(play.Now, "a", 1, AttemptResult.Fail("stopped", "ended")));
        Assert.Equal(("running", "running"), (play.State.Word, play.Word("@end[1]/last")));
        Assert.Equal("stopped", play.Continue().State.Word);
        Assert.Equal("succeeded", play.Word("@end[1]/last"));
    }

    [Fact]
    public void ASecondStopEndsTheHandlersAndKeepsTheOutcome()
    {
        var play = new Play(Handled, (path, _) => path.StartsWith('@') ? null : AttemptResult.Done()).Run();
        Assert.Equal("running", play.Word("@success[1]/ok"));
        play.Put(new StopInput(play.Now, Ann, null));
        play.Put(new AttemptEndedInput(play.Now, "@success[1]/ok", 1, AttemptResult.Fail("stopped", "ended")));
        Assert.Equal(("succeeded", "absent"), (play.State.Word, play.Word("@end[2]/last")));
    }

    [Fact]
    public void AHandlerThatFailsIsAWarningAndDoesNotChangeTheOutcome()
    {
        var play = Play.Failing(Handled, "@success[1]/ok").Run();
        Assert.Equal(
            ("succeeded", "the handler failed: ok: @success[1]/ok broke"),
            (play.State.Word, Assert.Single(play.State.Warnings).Message)
        );
    }

    [Fact]
    public void EachLegHasHandlersOfItsOwn()
    {
        var broken = true;
        var play = new Play(Handled, (path, _) =>
            path == "a" && broken ? AttemptResult.Fail("test", "x") : AttemptResult.Done()
        ).Run();
        broken = false;
        play.Resume();
        Assert.Equal("a b @success[3]/ok @end[4]/last", play.StartedWords);
        Assert.Equal([1, 1, 2, 2], play.State.Handlers.Select(h => h.Leg));
    }

    [Fact]
    public void ACrashInAHandlerGoesOnThere()
    {
        var play = new Play(Handled, (path, _) => path == "@success[1]/ok" ? null : AttemptResult.Done()).Run();
        play.Crash();
        Assert.Equal(("running", 2), (play.Word("@success[1]/ok"), play.State.Find("@success[1]/ok")!.Attempt));
    }

    [Fact]
    public void APauseIsToldAndItsHandlerRunsMeanwhile()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  a: { kind: work, ifFails: pause }\nhandlers: { pause: { steps: "
                    + "{ tell: { kind: work, set: { text: '${error.message}' } } } } }",
                "a"
            )
            .Run();
        Assert.Equal(
            ("paused", "succeeded", "a: a broke"),
            (
                play.State.Word,
                play.Word("@pause[1]/tell"),
                play.State.Find("@pause[1]/tell")!.Inputs.AsMap.Find("text")!.Value.AsString
            )
        );
    }

    [Fact]
    public void ARunThatIsLateSaysSoOnceAndGoesOn()
    {
        const string yaml =
            "chain: t\ndueIn: 10m\nsteps:\n  a: { kind: wait, set: { for: 1h } }\nhandlers: { late: "
            + "{ steps: { tell: { kind: work } } } }";
        var play = new Play(yaml).Begin();
        Assert.Equal(Play.Start0.AddMinutes(10), play.State.NextDue);
        play.LetTimePass();
        Assert.True(play.State.IsLate);
        Assert.Equal(("running", Play.Start0.AddHours(1)), (play.Word("@late[1]/tell"), play.State.NextDue));
        Assert.Equal("succeeded", play.Continue().State.Word);
        Assert.Single(play.Events, e => e is RunLate);
    }

    [Fact]
    public void ARunThatWillBeLateSaysSoOnceBeforeItIs()
    {
        const string yaml =
            "chain: t\ndueIn: 10m\nsteps:\n  a: { kind: wait, set: { for: 1h } }\nhandlers:\n  endangered: "
            + "{ steps: { tell: { kind: work, set: { text: '${error.message}' } } } }";
        var play = new Play(yaml).Begin();
        EndangeredInput In(int minutes) => new(play.Now, Play.Start0.AddMinutes(minutes), 7);
        Assert.False(play.Put(In(10)));
        Assert.True(play.Put(In(50)));
        Assert.Equal(
            "as its last 7 runs went, it ends about 2026-11-22 04:50 UTC, and is due by 04:10",
            play.State.Find("@endangered[1]/tell")!.Inputs.AsMap.Find("text")!.Value.AsString
        );
        Assert.False(play.Put(In(55)));
        Assert.False(play.State.IsLate);
        play.Continue();
        Assert.Equal(("succeeded", true), (play.State.Word, play.State.IsLate));
        Assert.False(play.Put(In(500)));
    }

    [Theory]
    [InlineData("")]
    [InlineData("dueIn: 10m\n")]
    public void ARunThatIsNeverDueOrLateAlreadyIsNotInDanger(string due)
    {
        var play = new Play($"chain: t\n{due}steps: {{ a: {{ kind: wait, set: {{ for: 1h }} }} }}").Begin();
        if (due.Length > 0)
            play.LetTimePass();
        Assert.False(play.Put(new EndangeredInput(play.Now, play.Now.AddDays(1), 7)));
    }

    [Fact]
    public void ARunInTimeIsNotLate() =>
        Assert.False(
            new Play("chain: t\ndueIn: 10m\nsteps: { a: { kind: wait, set: { for: 9m } } }").Run().State.IsLate
        );

    [Fact]
    public void AQueuedRunBeginsWhenItsTurnComes()
    {
        var play = new Play("chain: t\nsteps: { a: { kind: work } }");
        play.Put(
            new StartInput(play.Now, "uid", "r", new Dictionary<string, Value>(), Value.EmptyMap, Ann) { Queued = true }
        );
        Assert.Equal(("queued", "a pending"), (play.State.Word, play.Words));
        play.Crash();
        Assert.Equal("queued", play.State.Word);
        Assert.False(play.Put(new PauseInput(play.Now, Ann, null)));
        Assert.True(play.Put(new ReleaseInput(play.Now)));
        Assert.False(play.Put(new ReleaseInput(play.Now)));
        Assert.Equal("succeeded", play.Continue().State.Word);
    }

    [Fact]
    public void AQueuedRunCanBeStopped()
    {
        var play = new Play("chain: t\nsteps: { a: { kind: work } }");
        play.Put(
            new StartInput(play.Now, "uid", "r", new Dictionary<string, Value>(), Value.EmptyMap, Ann) { Queued = true }
        );
        play.Put(new StopInput(play.Now, Ann, null));
        Assert.Equal(("stopped", "a stopped"), (play.State.Word, play.Words));
    }

    [Fact]
    public void ALegCanBeQueuedToo()
    {
        var broken = true;
        var play = new Play("chain: t\nsteps: { a: { kind: work } }", (_, _) =>
            broken ? AttemptResult.Fail("test", "x") : AttemptResult.Done()
        ).Run();
        broken = false;
        play.Put(
            new ResumeInput(play.Now, Bob, new Dictionary<string, Value>(), new Dictionary<string, Value>(), [], [])
            {
                Queued = true,
            }
        );
        Assert.Equal(("queued", 2), (play.State.Word, play.State.Leg));
        play.Put(new ReleaseInput(play.Now));
        Assert.Equal("succeeded", play.Continue().State.Word);
    }

    [Fact]
    public void AFailedRunSaysWhenItIsResumedByItselfAsOftenAsItMay()
    {
        var play = Play.Failing("chain: t\nrecover: { attempts: 2, wait: 10m }\nsteps: { a: { kind: work } }", "a")
            .Run();
        ResumeInput Again(bool automatic) =>
            new(
                play.Now,
                automatic ? Actor.Recovery : Bob,
                new Dictionary<string, Value>(),
                new Dictionary<string, Value>(),
                [],
                []
            )
            {
                Automatic = automatic,
            };
        for (var i = 0; i < 2; i++)
        {
            Assert.Equal(play.State.Ended!.Value.AddMinutes(10), play.State.ResumeAt);
            play.Put(Again(automatic: true));
            Assert.Null(play.State.ResumeAt);
            play.Continue();
        }
        Assert.Null(play.State.ResumeAt);
        // A person's resume gives it as many chances again.
        play.Put(Again(automatic: false));
        Assert.NotNull(play.Continue().State.ResumeAt);
        Assert.True(play.Put(new StopInput(play.Now, Ann, null)));
        Assert.Equal((null, "failed"), (play.State.ResumeAt, play.State.Word));
    }

    [Fact]
    public void AStoppedOrSucceededRunIsNotResumedByItself()
    {
        const string yaml = "chain: t\nrecover: { attempts: 2, wait: 10m }\nsteps: { a: { kind: work } }";
        Assert.Null(new Play(yaml).Run().State.ResumeAt);
        var play = new Play(yaml, (_, _) => null).Begin();
        play.Put(new StopInput(play.Now, Ann, null));
        play.Put(new AttemptEndedInput(play.Now, "a", 1, AttemptResult.Fail("stopped", "x")));
        Assert.Equal(("stopped", null), (play.State.Word, play.State.ResumeAt));
    }

    [Fact]
    public void AStepQueuesForItsLaneBeforeEachAttempt()
    {
        var tries = 0;
        var play = new Play(
            "chain: t\nlane: narrow\nsteps:\n  a: { kind: work, retry: { limit: 1 } }\n  n: { kind: "
                + "assign }\n  own: { kind: work, lane: other }",
            (path, _) => path == "a" && ++tries == 1 ? AttemptResult.Fail("test", "x") : AttemptResult.Done()
        ).Run();
        Assert.Equal(
            "a narrow, own other, a narrow",
            string.Join(", ", play.Events.OfType<StepQueued>().Select(e => $"{e.Step} {e.Lane}"))
        );
    }
}
