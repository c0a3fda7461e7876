using GateChain.Core.History;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.History;

public class RunComparisonTests
{
    static RunFacts Run(string release, int maxBad, params StepHistory[] steps) =>
        new(
            1,
            release,
            "succeeded",
            Value.Map(("max_bad", Value.Int(maxBad)), ("day", Value.String("2026-11-22"))),
            Value.EmptyMap,
            Value.Map(("litres", Value.Double(maxBad))),
            steps
        );

    static StepHistory Step(string address, string state, long begin, long? rejected = null) =>
        new(address, state)
        {
            Count = 1,
            Failed = state == "failed" ? 1 : 0,
            Begin = begin,
            Span = 10,
            Rejected = rejected,
        };

    [Fact]
    public void TheInnermostStepThatBeganFirstIsWhereTheyPart()
    {
        var found = RunComparison.Of(
            Run(
                "a",
                50,
                Step("prepare", "succeeded", 0),
                Step("depots", "succeeded", 5),
                Step("depots/load", "succeeded", 6, 11),
                Step("price", "succeeded", 90)
            ),
            Run(
                "a",
                50,
                Step("prepare", "succeeded", 0),
                Step("depots", "failed", 5),
                Step("depots/load", "failed", 6, 74),
                Step("price", "skipped", 90)
            )
        );
        Assert.Equal("depots/load", found.PartsAt);
        Assert.True(found.SameContent);
        Assert.Empty(found.Params);
        Assert.Equal(["depots", "depots/load", "price"], found.Steps.Where(s => s.Differs).Select(s => s.Address));
    }

    [Fact]
    public void ValuesContentAndStepsThatOneOfThemLacksAreTold()
    {
        var found = RunComparison.Of(
            Run("a", 50, Step("old", "succeeded", 0)),
            Run("b", 100, Step("new", "succeeded", 0))
        );
        Assert.False(found.SameContent);
        var value = Assert.Single(found.Params);
        Assert.Equal(("max_bad", 50L, 100L), (value.Name, value.A!.Value.AsInt, value.B!.Value.AsInt));
        Assert.Equal("litres", Assert.Single(found.Outputs).Name);
        Assert.Equal(
            [("old", true, false), ("new", false, true)],
            found.Steps.Select(s => (s.Address, s.A is not null, s.B is not null))
        );
    }

    [Fact]
    public void OfALoopTheItemsAreToldThatWentOtherwiseAlsoWhereTheSumsAreTheSame()
    {
        ItemHistory Of(string item, long rejected) => new(item, Step("depots/load", "succeeded", 0, rejected));
        var before = Run("a", 50, Step("depots/load", "succeeded", 0, 34)) with
        {
            Items = [Of("north", 23), Of("west", 11)],
        };
        var after = before with { Items = [Of("west", 23), Of("north", 11), Of("south", 0)] };
        var step = Assert.Single(RunComparison.Of(before, after).Steps);
        Assert.True(step.Differs);
        Assert.Equal(
            [("north", 23L, 11L), ("west", 11L, 23L), ("south", null, 0L)],
            step.Items.Select(i => (i.Items, i.A?.Rejected, i.B?.Rejected))
        );
    }

    [Fact]
    public void TwoThatWentTheSameWayPartNowhere()
    {
        var run = Run("a", 50, Step("x", "succeeded", 0));
        var found = RunComparison.Of(run, run with { Steps = [run.Steps[0] with { Span = 99_999, Begin = 4 }] });
        Assert.Null(found.PartsAt);
        Assert.DoesNotContain(found.Steps, s => s.Differs);
    }
}
