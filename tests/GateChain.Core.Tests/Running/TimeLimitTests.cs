using GateChain.Core.Problems;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>
/// Decisions, rehearsals and checks end when they are told that time is up; none of them looks at a clock.
/// </summary>
public sealed class TimeLimitTests
{
    static readonly CancellationToken Up = new(canceled: true);

    const string Rounds =
        "chain: t\nvars: { n: { type: int, initial: 0 } }\nsteps: { r: { kind: repeat, until: "
        + "vars.n >= 50, limit: 100, steps: { a: { kind: assign, assign: { vars.n: vars.n + 1 } } } } }";

    [Fact]
    public void ADecisionIsCutWhenItsTimeIsUpAndEveryOneGetsOnBySomething()
    {
        var state = new Core.Running.State.RunState(1, Play.Read(Rounds));
        var first = RunMachine.Decide(
            state,
            new StartInput(Play.Start0, "u", "r", new Dictionary<string, Value>(), Value.EmptyMap, Ann),
            limit: new(Up, default)
        );
        Assert.IsType<DecisionCut>(first.Events[^1]);
        var decisions = 1;
        for (; !state.HasEnded && decisions < 1000; decisions++)
            RunMachine.Decide(state, new TimeInput(Play.Start0), limit: new(Up, default));
        Assert.Equal(("succeeded", Value.Int(50)), (state.Word, state.Root.Variables["n"]));
        Assert.InRange(decisions, 50, 400);
    }

    [Fact]
    public void AnEvaluationThatTakesTooLongFailsItsStep()
    {
        var state = new Core.Running.State.RunState(
            1,
            Play.Read(
                "chain: t\nsteps: { a: { kind: work, set: { text: '${string(lists.range(100000).all(i, i >= 0))}' } } }"
            )
        );
        RunMachine.Decide(
            state,
            new StartInput(Play.Start0, "u", "r", new Dictionary<string, Value>(), Value.EmptyMap, Ann),
            limit: new(default, Up)
        );
        Assert.Equal("failed", state.Word);
        Assert.Contains("took too long", state.Find("a")!.Error!.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void ARehearsalAndTheSearchForWaysAreCut()
    {
        var chain = Play.Read(
            "chain: t\nsteps: { a: { kind: work }, b: { kind: work } }\ngates: [ { from: a, to: b } ]"
        );
        Assert.True(Rehearsal.Play(chain, new() { At = Play.Start0 }, _ => null, Up).IsCut);
        Assert.True(Ways.Of(chain, new() { At = Play.Start0 }, _ => null, 10, Up).IsCut);
        Assert.False(Rehearsal.Play(chain, new() { At = Play.Start0 }, _ => null).IsCut);
    }

    [Fact]
    public void ACheckIsEnded() =>
        Assert.Throws<OperationCanceledException>(() =>
            new Checking.ChainCheck(Play.Kinds).Check(
                "t",
                "chain: t\nsteps: { a: { kind: work } }",
                new(
                    new Dictionary<string, string>(),
                    new HashSet<string>(),
                    new Dictionary<string, Core.Chains.ChainInterface>(),
                    new HashSet<string>()
                )
                {
                    Cancel = Up,
                }
            )
        );

    [Fact]
    public void OfVeryManyProblemsAThousandAreTold()
    {
        var keys = string.Concat(Enumerable.Range(0, 20_000).Select(i => $"  x{i}: 1\n"));
        var problems = new Checking.ChainCheck(Play.Kinds)
            .Check("t", $"chain: t\nsteps:\n  a: {{ kind: work }}\nvars:\n{keys}")
            .Problems;
        Assert.Equal(ProblemList.Most + 1, problems.Count);
        Assert.Equal(("GC1011", "19,000 more problems are not listed"), (problems[^1].Code, problems[^1].Message));
        Assert.Contains(problems, p => p.IsError);
    }
}
