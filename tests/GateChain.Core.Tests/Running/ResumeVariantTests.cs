using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>Resumes that do more than continue from the failing step.</summary>
public class ResumeVariantTests
{
    static (Play Play, Action Fix) Broken(string yaml, params string[] failing)
    {
        var broken = true;
        return (
            new Play(yaml, (path, _) =>
                broken && failing.Contains(path)
                    ? AttemptResult.Fail("test", "broke")
                    : AttemptResult.Done(("n", Value.Int(1)))
            ).Run(),
            () => broken = false
        );
    }

    [Fact]
    public void AFailedStepCanBeSettledWithOutputsByHand()
    {
        var (play, _) = Broken(
            "chain: t\nvars: { v: { type: int, initial: 0 } }\nsteps:\n  a: { kind: work, assign: "
                + "{ vars.v: result.n } }\n  b: { kind: work, set: { text: '${steps.a.n}' } }\ngates: "
                + "[ { from: a, to: b } ]",
            "a"
        );
        play.Resume(settle: new() { ["a"] = Value.Map(("n", Value.Int(9))) });
        Assert.Equal(
            ("b", "a succeeded, b succeeded", Value.Int(9)),
            (play.StartedWords, play.Words, play.State.Root.Variables["v"])
        );
        Assert.Equal(Value.Int(9), play.State.Find("b")!.Inputs.AsMap.Find("text"));
        Assert.Equal("settled by the resume, with outputs given by hand", play.State.Find("a")!.Note);
    }

    [Fact]
    public void ATokenIsFetchedAgainInEachLegThatNeedsItAndNothingElseThatHangsOnIt()
    {
        var (play, fix) = Broken(
            """
            chain: t
            steps:
              token: { kind: work, onResume: redo }
              kept: { kind: work }
              load: { kind: work }
              other: { kind: work }
            gates: [ { from: token, to: kept }, { from: kept, to: load } ]
            """,
            "load"
        );
        fix();
        play.Resume();
        // load stands behind kept, which stays: it waits for the token all the same.
        Assert.Equal(("token load", "succeeded"), (play.StartedWords, play.State.Word));
        Assert.Equal(["token"], play.State.Resumes[0].Redo);
    }

    [Fact]
    public void ALegThatDoesNotNeedItDoesNotFetchIt()
    {
        var (play, fix) = Broken(
            "chain: t\nsteps:\n  token: { kind: work, onResume: redo }\n  kept: { kind: work }\n  other: "
                + "{ kind: work }\ngates: [ { from: token, to: kept } ]",
            "other"
        );
        fix();
        play.Resume();
        Assert.Equal("other", play.StartedWords);
    }

    [Fact]
    public void AContainerGoesOnOnlyWhenTheTokenIsThere()
    {
        var (play, fix) = Broken(
            "chain: t\nsteps:\n  token: { kind: work, onResume: redo }\n  e: { kind: each, over: '[1, 2, "
                + "3]', steps: { x: { kind: work } } }\ngates: [ { from: token, to: e } ]",
            "e[1]/x"
        );
        fix();
        play.Started.Clear();
        play.Put(
            new ResumeInput(play.Now, Bob, new Dictionary<string, Value>(), new Dictionary<string, Value>(), [], [])
        );
        Assert.Equal(("token", "pending"), (play.StartedWords, play.Word("e")));
        Assert.Equal("token e[1]/x e[2]/x", play.Continue().StartedWords);
    }

    [Fact]
    public void WhenTheTokenCannotBeFetchedNothingBehindItIsDone()
    {
        var failing = "load";
        var play = new Play(
            "chain: t\nsteps:\n  token: { kind: work, onResume: redo }\n  kept: { kind: work }\n  load: "
                + "{ kind: work }\ngates: [ { from: token, to: kept }, { from: kept, to: load } ]",
            (path, _) => path == failing ? AttemptResult.Fail("test", "x") : AttemptResult.Done()
        ).Run();
        failing = "token";
        play.Resume();
        Assert.Equal(
            ("token", "token failed, kept succeeded, load skipped", "failed"),
            (play.StartedWords, play.Words, play.State.Word)
        );
        failing = "";
        play.Resume();
        Assert.Equal(("token kept load", "succeeded"), (play.StartedWords, play.State.Word));
    }

    const string Old =
        "chain: t\nparams: { p: { type: int, default: 1 } }\nvars: { v: { type: int, initial: "
        + "0 } }\nsteps:\n  a: { kind: work, assign: { vars.v: 5 } }\n  e: { kind: each, over: '[1, 2]', "
        + "steps: { x: { kind: work }, y: { kind: work } }, gates: [ { from: x, to: y } ] }\n  gone: "
        + "{ kind: work }\ngates: [ { from: a, to: e }, { from: e, to: gone } ]";

    [Fact]
    public void ARunCanMoveToAReleaseThatItFits()
    {
        var (play, fix) = Broken(Old, "e[1]/y");
        fix();
        play.Releases["new"] = Play.Read(
            """
            chain: t
            params: { p: { type: int, default: 7 }, q: { type: int, default: 3 } }
            vars: { v: { type: int, initial: 0 }, w: { type: int, initial: 2 } }
            steps:
              added: { kind: work, set: { text: '${vars.v} ${vars.w} ${params.p} ${params.q}' } }
              a: { kind: work }
              e: { kind: each, over: '[1, 2]', steps: { x: { kind: work }, y: { kind: work, set: { text: fixed } }, z: { kind: work } }, gates: [ { from: x, to: y }, { from: y, to: z } ] }
              last: { kind: work }
            gates: [ { from: a, to: e }, { from: e, to: last }, { from: a, to: last, when: vars.v == 5 } ]
            outputs: { v: vars.v }
            """
        );
        play.Resume(release: "new");
        Assert.Equal("added e[1]/y e[1]/z last", string.Join(' ', play.Started.Order(StringComparer.Ordinal)));
        Assert.Equal(
            ("succeeded", "new", "fixed"),
            (play.State.Word, play.State.Release, play.State.Find("e[1]/y")!.Inputs.AsMap.Find("text")!.Value.AsString)
        );
        // What was assigned and given stays; what is new begins as the new release says.
        Assert.Equal("5 2 1 3", play.State.Find("added")!.Inputs.AsMap.Find("text")!.Value.AsString);
        Assert.Equal("absent", play.Word("gone"));
        play.Crash();
        Assert.Equal("succeeded", play.State.Word);
    }

    [Theory]
    [InlineData("chain: t\nsteps:\n  b: { kind: work }", "“a” is kept, and there is no such step any more")]
    [InlineData(
        "chain: t\nsteps:\n  a: { kind: assign }\n  e: { kind: each, over: '[1]', steps: { x: { kind: work } } }",
        "“a” is kept, and it is of the kind assign now, not work"
    )]
    [InlineData(
        "chain: t\nsteps:\n  a: { kind: work }\n  e: { kind: each, over: '[1]', steps: { xx: { kind: work } } }",
        "“e[0]/x” is kept, and there is no such step any more"
    )]
    [InlineData(
        "chain: u\nsteps:\n  a: { kind: work }\n  e: { kind: each, over: '[1]', steps: { x: { kind: "
            + "work }, y: { kind: work } } }",
        "it is the chain “u”, not “t”"
    )]
    [InlineData(
        "chain: t\nparams: { must: { type: int } }\nsteps:\n  a: { kind: work }\n  e: { kind: each, "
            + "over: '[1]', steps: { x: { kind: work }, y: { kind: work } } }",
        "it has a new parameter “must” without a default"
    )]
    public void OneThatDoesNotFitIsRefusedWithAList(string yaml, string incompatibility)
    {
        var (play, _) = Broken(Old, "e[1]/y");
        Assert.Contains(
            incompatibility,
            RunMachine.PlanResume(play.State, new([], [], Play.Read(yaml))).Incompatibilities
        );
    }

    [Fact]
    public void AFailureThreeLevelsDownIsResumedWithOneStep()
    {
        var (play, fix) = Broken(
            "chain: t\nsteps:\n  e: { kind: each, over: '[1, 2]', steps: { g: { kind: group, steps: { r: "
                + "{ kind: repeat, until: round == 3, limit: 5, steps: { s: { kind: work }, u: { kind: "
                + "work } }, gates: [ { from: s, to: u } ] } } } } }\n  after: { kind: work }\ngates: "
                + "[ { from: e, to: after } ]",
            "e[0]/g/r[2]/u"
        );
        fix();
        play.Resume();
        Assert.Equal(
            ("e[0]/g/r[2]/u e[0]/g/r[3]/s e[0]/g/r[3]/u e[1]/g/r[1]/s", "succeeded"),
            (string.Join(' ', play.Started.Take(4)), play.State.Word)
        );
    }

    [Fact]
    public void AJournalOfTheFirstVersionIsStillRead()
    {
        var row =
            """{"at":"2026-11-22T04:00:00+00:00","events":[{"t":"leg-started","leg":2,"by":"ann","params":{},"vars":{},"reset":["a"],"reopened":[],"skip":[],"undecided":[]}]}"""u8;
        var leg = Assert.IsType<LegStarted>(Assert.Single(Decision.FromBytes(row).Events));
        Assert.Equal((2, 0, 0, 0), (leg.Leg, leg.Settle.Count, leg.Redo.Count, leg.From.Count));
        var (play, _) = Broken("chain: t\nsteps: { a: { kind: work } }", "a");
        var state = play.Folded();
        state.Add(Decision.FromBytes(row));
        Assert.Equal(("running", "pending"), (state.Word, state.Find("a")!.Word));
    }
}
