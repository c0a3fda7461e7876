using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class CallTests
{
    const string Chain = """
        chain: t
        params: { day: { type: int, default: 1 } }
        steps:
          c: { kind: call, chain: child, inputs: { day: params.day, twice: params.day * 2 } }
          b: { kind: work, set: { text: '${steps.c.total}' } }
        gates: [ { from: c, to: b } ]
        """;

    [Fact]
    public void TheChildsOutputsAreTheSteps()
    {
        var play = new Play(Chain) { Child = _ => AttemptResult.Done(("total", Value.Int(42))) }.Run();
        Assert.Equal(
            ("c succeeded, b succeeded", "42"),
            (play.Words, play.State.Find("b")!.Inputs.AsMap.Find("text").ToString())
        );
        Assert.Equal(
            """{"chain": "child", "inputs": {"day": 1, "twice": 2}}""",
            play.State.Find("c")!.Inputs.ToString()
        );
        Assert.Equal(Value.Int(101), play.State.Find("c")!.Outputs.AsMap.Find("run"));
    }

    [Theory]
    [InlineData("failed", "failed", "c failed, b skipped")]
    [InlineData("stopped", "stopped", "c stopped, b skipped")]
    public void TheStepTakesTheChildsOutcome(string child, string run, string words)
    {
        var play = new Play(Chain)
        {
            Child = _ => AttemptResult.Fail(child == "stopped" ? "stopped" : "child", "run 101 did not get on"),
        }.Run();
        Assert.Equal((run, words), (play.State.Word, play.Words));
    }

    [Fact]
    public void WithoutWaitingItSettlesAsSoonAsTheChildIsGoing()
    {
        var play = new Play(
            "chain: t\nsteps:\n  c: { kind: call, chain: child, wait: false }\n  w: { kind: wait, set: "
                + "{ runs: '${[steps.c.run]}' } }\ngates: [ { from: c, to: w } ]"
        )
        {
            Child = _ => null,
        }.Begin();
        play.EndOne();
        Assert.Equal(
            ("succeeded", "running", "[101]"),
            (play.Word("c"), play.Word("w"), play.State.Find("w")!.Inputs.AsMap.Find("runs").ToString())
        );
        Assert.Equal("succeeded", play.Continue().State.Word);
    }

    [Fact]
    public void ACrashFindsTheChildAgain()
    {
        var play = new Play(Chain) { Child = _ => null }.Run();
        play.Crash();
        Assert.Equal((EffectKind.Child, "c"), (Assert.Single(play.InFlight).Form, play.InFlight[0].Step));
        Assert.Equal(0, play.State.Find("c")!.Lost);
        Assert.Equal(new ChildState(101, 1, false), play.State.Find("c")!.Child);
    }

    [Fact]
    public void AStopIsPassedOnAndWaitedFor()
    {
        var going = true;
        var play = new Play(Chain) { Child = _ => going ? null : AttemptResult.Done() }.Run();
        play.Put(new StopInput(play.Now, Ann, null));
        Assert.Equal("running", play.State.Word);
        Assert.Contains(play.Events, e => e is CancelAsked { Step: "c", Reason: CancelReason.Stop });
        going = false;
        Assert.Equal("c stopped, b stopped", play.Continue().Words);
    }

    [Fact]
    public void ATimeoutFailsItWhenTheChildHasStopped()
    {
        var going = true;
        var play = new Play("chain: t\nsteps:\n  c: { kind: call, chain: child, timeout: 5s }")
        {
            Child = _ => going ? null : AttemptResult.Done(),
        }.Run();
        going = false;
        Assert.Equal("timeout", play.Continue().State.Find("c")!.Error!.Code);
    }

    [Fact]
    public void AResumeReachesIntoTheChildWithTheInputsAsTheyAreNow()
    {
        var broken = true;
        var play = new Play(Chain)
        {
            Child = _ => broken ? AttemptResult.Fail("child", "broke") : AttemptResult.Done(("total", Value.Int(1))),
        }.Run();
        broken = false;
        play.Resume(new Dictionary<string, Value> { ["day"] = Value.Int(9) });
        var leg = Assert.Single(play.State.Resumes);
        Assert.Equal(("b", "c"), (string.Join(' ', leg.Reset), string.Join(' ', leg.Reopened)));
        Assert.Equal((101L, 2), (play.State.Find("c")!.Child!.Run, play.State.Find("c")!.Child!.Leg));
        Assert.Equal(Value.Int(18), play.State.Find("c")!.Inputs.AsMap.Find("inputs")!.Value.AsMap.Find("twice"));
        Assert.Equal("succeeded", play.State.Word);
    }

    [Fact]
    public void AsAWholeItStartsANewChild()
    {
        var broken = true;
        var play = new Play("chain: t\nsteps:\n  c: { kind: call, chain: child, resumeAs: whole }")
        {
            Child = _ => broken ? AttemptResult.Fail("child", "broke") : AttemptResult.Done(),
        }.Run();
        broken = false;
        play.Resume();
        Assert.Equal(102, play.State.Find("c")!.Child!.Run);
    }

    [Fact]
    public void ARetryStartsANewChildToo()
    {
        var tries = 0;
        var play = new Play("chain: t\nsteps:\n  c: { kind: call, chain: child, retry: { limit: 1 } }")
        {
            Child = _ => ++tries == 1 ? AttemptResult.Fail("child", "broke") : AttemptResult.Done(),
        }.Run();
        Assert.Equal(("succeeded", 102L), (play.State.Word, play.State.Find("c")!.Child!.Run));
    }

    [Fact]
    public void APathCanLeadIntoTheChild()
    {
        var play = new Play(Chain) { Child = _ => AttemptResult.Fail("child", "broke") }.Run();
        var plan = RunMachine.PlanResume(play.State, new(["c/load[2]/x"], []));
        Assert.Equal((null, "c", "b"), (plan.Refusal, string.Join(' ', plan.Reopened), string.Join(' ', plan.Reset)));
        Assert.Equal("there is no step “b/x” in this run", RunMachine.PlanResume(play.State, new(["b/x"], [])).Refusal);
    }

    [Fact]
    public void DepthIsLimited()
    {
        var state = new RunState(1, Play.Read(Chain));
        RunMachine.Decide(
            state,
            new StartInput(Play.Start0, "u", "r", new Dictionary<string, Value>(), Value.EmptyMap, Ann)
            {
                Parent = new(7, "c", 1, CallRule.MaxDepth),
            }
        );
        Assert.Equal("depth", state.Find("c")!.Error!.Code);
        var allowed = new RunState(2, Play.Read(Chain));
        RunMachine.Decide(
            allowed,
            new StartInput(Play.Start0, "u", "r", new Dictionary<string, Value>(), Value.EmptyMap, Ann)
            {
                Parent = new(7, "c", 1, CallRule.MaxDepth - 1),
            }
        );
        Assert.Equal("running", allowed.Find("c")!.Word);
    }

    [Fact]
    public void AStoppedChildStopsTheContainersAroundItsCall()
    {
        var yaml =
            "chain: t\nsteps:\n  e: { kind: each, over: '[1, 2]', steps: { g: { kind: group, steps: { c: "
            + "{ kind: call, chain: child } } } } }\n  r: { kind: repeat, limit: 2, until: 'true', steps: "
            + "{ d: { kind: call, chain: child } } }";
        var play = new Play(yaml)
        {
            Child = path =>
                path is "e[0]/g/c" or "r[1]/d" ? AttemptResult.Fail("stopped", "stopped") : AttemptResult.Done(),
        }.Run();
        Assert.Equal(
            "e stopped, e[0]/g stopped, e[0]/g/c stopped, e[1]/g succeeded, e[1]/g/c succeeded, "
                + "r stopped, r[1]/d stopped",
            play.Words
        );
        Assert.Equal("stopped", play.State.Word);
    }
}
