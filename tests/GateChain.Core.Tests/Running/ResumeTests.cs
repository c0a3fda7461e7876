using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class ResumeTests
{
    const string Diamond = """
        chain: t
        steps:
          a: { kind: work }
          b: { kind: work }
          c: { kind: work }
          d: { kind: work }
          tell: { kind: work }
        gates:
          - { from: a, to: b }
          - { from: a, to: c }
          - { from: b, to: d }
          - { from: c, to: d }
          - { from: b, to: tell, on: failure }
        """;

    static Play FailsOnce(string yaml, params string[] failing)
    {
        var seen = new HashSet<string>();
        return new(yaml, (path, _) =>
            failing.Contains(path) && seen.Add(path)
                ? AttemptResult.Fail("test", "broke")
                : AttemptResult.Done(("n", Value.Int(1)))
        );
    }

    [Fact]
    public void OnlyTheFailedStepAndWhatHangsOnItIsDoneAgain()
    {
        var play = FailsOnce(Diamond, "b").Run();
        Assert.Equal("a succeeded, b failed, c succeeded, d skipped, tell succeeded", play.Words);
        play.Resume();
        Assert.Equal("a succeeded, b succeeded, c succeeded, d succeeded, tell skipped", play.Words);
        Assert.Equal(["b", "d"], play.Started);
        Assert.Equal(("succeeded", 2), (play.State.Word, play.State.Leg));
    }

    [Fact]
    public void OfAnEachOnlyTheFailedIterationIsDoneAgainFromItsFailingStep()
    {
        const string yaml = """
            chain: t
            steps:
              e:
                kind: each
                over: "[1, 2, 3, 4]"
                tolerate: 9
                ifFails: fail
                steps:
                  a: { kind: work }
                  b: { kind: work }
                  c: { kind: work }
                gates: [ { from: a, to: b }, { from: b, to: c } ]
              after: { kind: work }
            gates: [ { from: e, to: after } ]
            """;
        var play = FailsOnce(yaml.Replace("tolerate: 9", "tolerate: 0"), "e[1]/b").Run();
        Assert.Equal(2, play.State.Find("e")!.Each!.Next);
        play.Resume();
        Assert.Equal("succeeded", play.State.Word);
        Assert.Equal(
            ["e[1]/b", "e[1]/c", "e[2]/a", "e[2]/b", "e[2]/c", "e[3]/a", "e[3]/b", "e[3]/c", "after"],
            play.Started
        );
    }

    [Fact]
    public void AFailureThreeLevelsDownRedoesOneStep()
    {
        var play = FailsOnce(
                "chain: t\nsteps:\n  g: { kind: group, steps: { e: { kind: each, over: '[1, 2]', steps: "
                    + "{ h: { kind: group, steps: { a: { kind: work }, b: { kind: work } } } } } } }",
                "g/e[0]/h/b"
            )
            .Run();
        play.Resume();
        Assert.Equal("succeeded", play.State.Word);
        Assert.Equal(["g/e[0]/h/b", "g/e[1]/h/a", "g/e[1]/h/b"], play.Started);
    }

    [Fact]
    public void ResumeAsWholeResetsAllOfTheContainer()
    {
        var play = FailsOnce(
                "chain: t\nsteps:\n  g: { kind: group, resumeAs: whole, steps: { a: { kind: work }, b: "
                    + "{ kind: work } } }",
                "g/b"
            )
            .Run()
            .Resume();
        Assert.Equal(["g/a", "g/b"], play.Started);
    }

    [Fact]
    public void AStepThatAnyGateReleasedStaysWhenThatGateStays()
    {
        var play = FailsOnce(
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\n  c: { kind: work, join: "
                    + "any }\ngates: [ { from: a, to: c }, { from: b, to: c } ]",
                "b"
            )
            .Run()
            .Resume();
        Assert.Equal("b", Assert.Single(play.Started));
        Assert.Equal("a succeeded, b succeeded, c succeeded", play.Words);
    }

    [Fact]
    public void FromANamedStepItAndAllBehindItAreDoneAgain()
    {
        var play = new Play(Diamond).Run().Resume(from: ["c"]);
        Assert.Equal(["c", "d"], play.Started);
        var inside = new Play(
            "chain: t\nsteps:\n  e: { kind: each, over: '[1, 2]', steps: { a: { kind: work }, b: { kind: "
                + "work } } }\n  z: { kind: work }\ngates: [ { from: e, to: z } ]"
        )
            .Run()
            .Resume(from: ["e[1]/b"]);
        Assert.Equal(["e[1]/b", "z"], inside.Started);
        Assert.Equal("succeeded", inside.State.Word);
    }

    [Fact]
    public void AFailedStepCanBePassedOver()
    {
        var play = Play.Failing(Diamond, "b").Run().Resume(skip: ["b"]);
        Assert.Equal("a succeeded, b skipped, c succeeded, d skipped, tell skipped", play.Words);
        Assert.Equal("succeeded", play.State.Word);
    }

    [Fact]
    public void ParametersAndVariablesCanBeCorrected()
    {
        var failed = false;
        var play = new Play(
            "chain: t\nparams: { limit: { type: int, default: 5 } }\nvars: { v: { type: int, initial: "
                + "1 } }\nsteps:\n  a: { kind: work, set: { give: '${params.limit}' } }\n  b: { kind: "
                + "work }\ngates: [ { from: a, to: b, when: params.limit > 10 && vars.v == 7 } ]",
            (path, _) => path == "a" && !failed && (failed = true) ? AttemptResult.Fail("x", "x") : AttemptResult.Done()
        ).Run();
        play.Resume(
            new Dictionary<string, Value> { ["limit"] = Value.Int(11) },
            new Dictionary<string, Value> { ["v"] = Value.Int(7) }
        );
        Assert.Equal(["a", "b"], play.Started);
        Assert.Equal("{\"give\": 11}", play.State.Find("a")!.Inputs.ToString());
    }

    [Fact]
    public void VariablesAreRebuiltWithoutTheAssignmentsOfResetSteps()
    {
        var yaml =
            "chain: t\nvars: { n: { type: int, initial: 0 } }\nsteps:\n  a: { kind: work, assign: "
            + "{ vars.n: vars.n + 1 } }\n  b: { kind: work, assign: { vars.n: vars.n + 10 } }\n  c: "
            + "{ kind: work }\ngates: [ { from: a, to: b }, { from: b, to: c } ]\noutputs: { n: vars.n }";
        var play = FailsOnce(yaml, "c").Run();
        Assert.Equal("11", play.State.Root.Variables["n"].ToString());
        play.Resume(from: ["b"]);
        Assert.Equal("11", play.State.Outputs.AsMap.Find("n").ToString());
    }

    [Fact]
    public void AGateInErrorIsDecidedAnew()
    {
        var play = new Play(
            "chain: t\nparams: { n: { type: int, default: 0 } }\nsteps:\n  a: { kind: work }\n  b: "
                + "{ kind: work }\ngates: [ { from: a, to: b, when: 10 / params.n > 1 } ]"
        ).Run();
        Assert.Equal("a succeeded, b failed", play.Words);
        play.Resume(new Dictionary<string, Value> { ["n"] = Value.Int(2) });
        Assert.Equal(("b", "a succeeded, b succeeded"), (Assert.Single(play.Started), play.Words));
    }

    [Fact]
    public void AStoppedRunGoesOnToo()
    {
        var play = new Play(Diamond, (_, _) => AttemptResult.Done()).Begin();
        play.EndOne();
        play.Put(new StopInput(play.Now, Ann, null));
        play.Continue();
        Assert.Equal("a succeeded, b stopped, c stopped, d stopped, tell stopped", play.Words);
        play.Resume();
        Assert.Equal(["b", "c", "d"], play.Started);
        Assert.Equal("succeeded", play.State.Word);
    }

    [Theory]
    [InlineData("", "", "the run succeeded; there is nothing to resume")]
    [InlineData("nowhere", "", "there is no step “nowhere” in this run")]
    [InlineData("", "nowhere", "there is no step “nowhere” in this run")]
    public void RefusesWhatMakesNoSense(string from, string skip, string why)
    {
        var play = new Play(Diamond).Run();
        Assert.Equal(
            why,
            RunMachine.PlanResume(play.State, new(from.Length > 0 ? [from] : [], skip.Length > 0 ? [skip] : [])).Refusal
        );
    }

    [Fact]
    public void WorkKeysStayUntilTheWorkHasSucceeded()
    {
        var play = FailsOnce(Diamond, "b").Run();
        Assert.Equal("uid/b/0", play.State.WorkKey(play.State.Find("b")!).ToString());
        play.Resume();
        Assert.Equal("uid/b/1", play.State.WorkKey(play.State.Find("b")!).ToString());
    }
}
