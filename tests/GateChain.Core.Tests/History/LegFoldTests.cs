using GateChain.Core.Chains;
using GateChain.Core.History;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Tests.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.History;

/// <summary>What is remembered of legs: from random runs, and from ones that are told here.</summary>
public class LegFoldTests
{
    const int Runs = 800;

    // Those that are held to the specification too, and as many more with other seeds.
    static IEnumerable<(int Seed, Play Play)> Plays()
    {
        var others = RandomChainTests.FirstSeed + SpecificationTests.Played.Value.Count;
        return SpecificationTests.Played.Value.Concat(
            Enumerable.Range(others, Runs).Select(seed => (seed, RandomChainTests.PlayOne(seed)))
        );
    }

    /// <summary>The legs of a journal, each as it was when it ended.</summary>
    static List<(LegHistory Leg, List<(DateTimeOffset At, RunEvent Event)> Events)> LegsOf(Play play)
    {
        var state = new RunState(1, play.Chain, _ => play.Chain);
        var legs = new SortedDictionary<int, (LegHistory, List<(DateTimeOffset, RunEvent)>)>();
        var events = new List<(DateTimeOffset, RunEvent)>();
        foreach (var decision in play.Journal)
        {
            if (decision.Events.Any(e => e is LegStarted))
                events = [];
            events.AddRange(decision.Events.Select(e => (decision.At, e)));
            state.Add(decision);
            if (state.HasEnded)
                legs[state.Leg] = (LegFold.Of(state), events);
        }
        return [.. legs.Values];
    }

    [Fact]
    public void OfRandomRunsEveryLegIsWhatItsEventsSayAndComesBackOutOfItsBytes()
    {
        var (legs, resumed, failures) = (0, 0, 0);
        foreach (var (seed, play) in Plays())
        {
            foreach (var (leg, events) in LegsOf(play))
            {
                legs++;
                resumed += leg.Leg > 1 ? 1 : 0;
                failures += leg.State == "failed" ? 1 : 0;
                Check(seed, leg, events);
            }
        }
        // It is about something.
        Assert.True(
            legs > 2 * Runs && resumed > 200 && failures > 200,
            $"{legs} legs, {resumed} resumed, {failures} failed"
        );
    }

    // A second reading, off the events alone.
    static void Check(int seed, LegHistory leg, List<(DateTimeOffset At, RunEvent Event)> events)
    {
        var at = $"seed {seed}, leg {leg.Leg}";
        var addresses = leg.Steps.Select(s => s.Address).ToArray();
        Assert.Equal(leg.Steps, LegPacking.Unpack(addresses, LegPacking.Pack(leg.Steps)));
        Assert.Equal(addresses.Distinct(), addresses);
        Assert.True(leg.Ended >= leg.Started, at);
        foreach (var step in leg.Steps)
        {
            var here = $"{at}, {step}";
            var own = events
                .Where(e => e.Event is IStepEvent s && new StepPath(s.Step).Address.Text == step.Address)
                .ToList();
            var last = own.Select(e => e.Event)
                .OfType<StepSettled>()
                .GroupBy(e => e.Step)
                .Select(g => g.Last())
                .ToList();
            // What was done again within the leg is there more than once; what was kept, not at all.
            Assert.True(step.Failed <= last.Count(e => e.Outcome == Outcome.Failed), here);
            Assert.True(step.Attempts <= own.Count(e => e.Event is AttemptStarted or ContainerReopened), here);
            Assert.True(step.Failed <= step.Count, here);
            Assert.True(step.State == "failed" || step.Failed == 0, here);
            if (step.Count == 0)
                Assert.Equal(new StepHistory(step.Address, step.State), step);
            // No time is counted twice for a step that has one instance.
            if (step.Count == 1)
                Assert.True(step.Work + step.Held + step.Queued + step.Rested <= step.Span + 4, here);
            Assert.True(step.Begin + step.Span <= (leg.Ended - leg.Started).TotalMilliseconds + 1, here);
        }
        // Nothing that failed in this leg is left out.
        var failed = events
            .Select(e => e.Event)
            .OfType<StepSettled>()
            .Where(e => e.Outcome == Outcome.Failed)
            .Select(e => new StepPath(e.Step).Address.Text)
            .ToHashSet();
        Assert.Subset(failed, leg.Steps.Where(s => s.Failed > 0).Select(s => s.Address).ToHashSet());
    }

    [Fact]
    public void IterationsAreOneStepWithTheWorstOfTheirEndsAndTheSumOfTheirRows()
    {
        var play = new Play(
            "chain: t\nsteps:\n  depots:\n    kind: each\n    over: \"['north', 'south', 'west']\"\n"
                + "    steps: { load: { kind: work } }\n",
            (path, _) =>
                new(
                    Value.Map(
                        ("rows_read", Value.Int(100)),
                        ("rows_rejected", Value.Int(path.Contains('2') ? 74 : 11))
                    ),
                    path.Contains('2') ? new("rejects", "too many") : null
                )
        );
        play.Run();
        var leg = Assert.Single(LegsOf(play)).Leg;
        Assert.Equal(("failed", 1), (leg.State, leg.Leg));
        var load = leg.Steps.Single(s => s.Address == "depots/load");
        Assert.Equal(
            ("failed", 3, 1, 3, 300L, 96L),
            (load.State, load.Count, load.Failed, load.Attempts, load.Read!.Value, load.Rejected!.Value)
        );
        Assert.Null(load.Written);
        Assert.Equal(("failed", 1), (leg.Steps[0].State, leg.Steps[0].Count));
    }

    [Theory]
    [InlineData(new byte[] { })]
    [InlineData(new byte[] { 64 })]
    [InlineData(new byte[] { 33, 1 })]
    [InlineData(new byte[] { 33, 1, 1, 1, 1, 1 })]
    [InlineData(new byte[] { 33, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 1 })]
    public void BytesThatAreNoHistoryAreRefused(byte[] bytes) =>
        Assert.Throws<FormatException>(() => LegPacking.Unpack(["a"], bytes));
}
