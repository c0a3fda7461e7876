using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class ContainerTests
{
    static string Each(string options) =>
        $$"""
            chain: t
            params: { items: { type: list<string>, default: [n, s, w] } }
            steps:
              e:
                kind: each
                over: params.items
                {{options}}
                steps:
                  a: { kind: work }
                  b: { kind: work }
                gates:
                  - { from: a, to: b }
            """;

    [Theory]
    [InlineData("parallel: 1", 1)]
    [InlineData("parallel: 2", 2)]
    [InlineData("parallel: 9", 3)]
    public void SoManyIterationsAreInFlight(string options, int most) =>
        Assert.Equal(most, new Play(Each(options)).Begin().InFlight.Count);

    [Fact]
    public void IterationsSeeTheirItemAndCollectInItemOrder()
    {
        var play = new Play(
            """
            chain: t
            steps:
              e:
                kind: each
                over: "[10, 20, 30]"
                parallel: 3
                collect: vars.here
                vars: { here: { type: int, initial: 0 } }
                steps:
                  a: { kind: work, assign: { vars.here: item + index } }
            outputs: { all: steps.e.collected }
            """
        ).Begin();
        while (play.InFlight.Count > 0)
            play.EndOne(play.InFlight.Count - 1);
        Assert.Equal("[10, 21, 32]", play.State.Outputs.AsMap.Find("all").ToString());
    }

    [Theory]
    [InlineData("tolerate: 0", "failed", 2)]
    [InlineData("tolerate: 1", "succeeded", 3)]
    [InlineData("tolerate: 34%", "succeeded", 3)]
    [InlineData("tolerate: 33%", "failed", 2)]
    public void NoMoreIterationsStartWhenTooManyHaveFailed(string options, string word, int opened)
    {
        var play = Play.Failing(Each(options), "e[1]/a").Run();
        Assert.Equal((word, opened), (play.Word("e"), play.State.Find("e")!.Each!.Next));
        Assert.Equal("1", play.State.Find("e")!.Outputs.AsMap.Find("failed").ToString());
    }

    [Fact]
    public void AnEmptyListSucceeds() =>
        Assert.Equal("e succeeded", new Play(Each("")).Run(("items", Value.EmptyList)).Words);

    [Fact]
    public void AListThatCannotBeComputedFailsTheStep() =>
        Assert.Contains(
            "division by zero",
            new Play("chain: t\nsteps:\n  e: { kind: each, over: '[1 / 0]', steps: { a: { kind: work } } }")
                .Run()
                .State.Find("e")!
                .Error!.Message
        );

    [Fact]
    public void AGroupFailsWithItsStepsAndNames()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  g: { kind: group, steps: { a: { kind: work }, b: { kind: "
                    + "work } } }\n  c: { kind: work }\ngates:\n  - { from: g, to: c, on: failure }",
                "g/a"
            )
            .Run();
        Assert.Equal("g failed, g/a failed, g/b succeeded, c succeeded", play.Words);
        Assert.Equal("g/a: g/a broke", play.State.Find("g")!.Error!.Message);
    }

    [Fact]
    public void ARetriedContainerIsDoneAsAWhole()
    {
        var tries = 0;
        var play = new Play(
            "chain: t\nsteps:\n  g: { kind: group, retry: { limit: 1 }, steps: { a: { kind: work }, b: "
                + "{ kind: work } } }",
            (path, _) => path == "g/b" && tries++ == 0 ? AttemptResult.Fail("x", "x") : AttemptResult.Done()
        ).Run();
        Assert.Equal("g succeeded, g/a succeeded, g/b succeeded", play.Words);
        Assert.Equal(4, play.Started.Count);
    }

    [Fact]
    public void ATimeoutOfAContainerStopsWhatIsInIt()
    {
        var play = new Play(
            "chain: t\nsteps:\n  g: { kind: group, timeout: 10s, steps: { a: { kind: work }, w: { kind: "
                + "wait, set: { for: 1h } } } }\n  c: { kind: work }\ngates:\n  - { from: g, to: c, on: "
                + "failure }"
        ).Begin();
        play.Now += TimeSpan.FromSeconds(10);
        play.Put(new TimeInput(play.Now));
        play.Continue();
        Assert.Equal("g failed, g/a stopped, g/w stopped, c succeeded", play.Words);
        Assert.Equal("timeout", play.State.Find("g")!.Error!.Code);
    }

    [Fact]
    public void ContainersNest()
    {
        var play = new Play(
            """
            chain: t
            vars: { sum: { type: int, initial: 0 } }
            steps:
              outer:
                kind: each
                over: "[[1, 2], [3]]"
                steps:
                  inner:
                    kind: each
                    over: item
                    steps:
                      a: { kind: work, assign: { vars.sum: vars.sum + item } }
            outputs: { sum: vars.sum }
            """
        ).Run();
        Assert.Equal("6", play.State.Outputs.AsMap.Find("sum").ToString());
        Assert.Equal(["outer[0]/inner[0]/a", "outer[0]/inner[1]/a", "outer[1]/inner[0]/a"], play.Started);
    }
}
