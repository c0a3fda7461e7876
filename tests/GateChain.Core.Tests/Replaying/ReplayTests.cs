using GateChain.Core.Replaying;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Tests.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Replaying;

/// <summary>Past runs, played again as they were and under another content.</summary>
public class ReplayTests
{
    static int Runs =>
        400 * (int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_RANDOM"), out var times) ? times * 8 : 1);

    // Random runs, with crashes, stops and resumes: unchanged they part nowhere, and those that nobody has meddled with
    // go as they went.
    [Fact]
    public void ARunOfAnUnchangedReleasePartsNowhere()
    {
        var first = RandomChainTests.FirstSeed;
        var (plain, other) = (0, new List<string>());
        for (var seed = first; seed < first + Runs; seed++)
        {
            var play = RandomChainTests.PlayOne(seed);
            var past = PastRun.Of(play.Chain, play.Journal)!;
            var replay = Replay.Of(past, play.Chain);
            Assert.True(
                replay.Differences.Count == 0 && !replay.IsCut,
                $"seed {seed}: {replay.Differences.FirstOrDefault()}"
            );
            var meddled =
                past.Persons
                || play.Journal.SelectMany(d => d.Events)
                    .TakeWhile(e => e is not LegStarted { Leg: > 1 })
                    .Any(e => e is AttemptLost or AttemptSuspended or DecisionCut);
            if (meddled)
                continue;
            plain++;
            if (replay.Unlike is { } unlike)
                other.Add($"seed {seed}: {unlike}");
        }
        TestContext.Current.TestOutputHelper?.WriteLine($"{plain} of {Runs} runs by themselves, {other.Count} unlike");
        Assert.True(plain > Runs / 8, $"{plain} of {Runs}");
        Assert.True(other.Count <= plain / 50, string.Join("\n", other.Take(10)));
    }

    const string Night = """
        chain: night
        vars: { rows: { type: int, initial: 0 } }
        steps:
          load: { kind: work, set: { text: "SELECT 1" }, assign: { vars.rows: vars.rows + result.n } }
          price: { kind: work }
          tell: { kind: work, ifFails: absorb, set: { text: "${vars.rows} rows" } }
        gates:
          - { from: load, to: price, when: vars.rows > 10 }
          - { from: load, to: tell, on: always }
        outputs: { rows: vars.rows }
        """;

    static Replay Of(string changed, long rows = 12)
    {
        var play = new Play(Night, (path, _) => AttemptResult.Done(("n", Value.Int(path == "load" ? rows : 1)))).Run();
        return Replay.Of(PastRun.Of(play.Chain, play.Journal)!, Play.Read(changed));
    }

    static string Told(Replay replay) =>
        string.Join("; ", replay.Differences.Select(d => $"{d.What} {d.Path} {d.Name}: {d.Was} > {d.WouldBe}"))
        + string.Concat(replay.Unknown.Select(u => $" ? {u}"));

    [Theory]
    [InlineData("when: vars.rows > 10", "when: vars.rows > 11", "", true)]
    [InlineData(
        "when: vars.rows > 10",
        "when: vars.rows > 20",
        "gate  load → price: open > shut; step price : succeeded > skipped",
        false
    )]
    [InlineData(
        "SELECT 1",
        "SELECT 2",
        "setting load text: \"SELECT 1\" > \"SELECT 2\" ? “load” would be given other settings: "
            + "it is taken to give what it gave then",
        true
    )]
    [InlineData(
        "${vars.rows} rows",
        "${vars.rows} lines",
        "setting tell text: \"12 rows\" > \"12 lines\" ? “tell” would be given other settings: "
            + "it is taken to give what it gave then",
        true
    )]
    [InlineData(
        "price: { kind: work }",
        "price: { kind: work }\n  more: { kind: work }",
        "step more : null > succeeded ? “more” did not run then: "
            + "it is taken to succeed, with the sample outputs of its kind",
        false
    )]
    [InlineData("outputs: { rows: vars.rows }", "outputs: { rows: vars.rows * 2 }", "output  rows: 12 > 24", true)]
    [InlineData(
        "- { from: load, to: tell, on: always }",
        "- { from: price, to: tell, on: skipped }",
        "gate  load → tell: open > null; gate  price → tell: null > shut; step tell : succeeded > skipped",
        false
    )]
    public void WhatWouldHaveBeenOtherwiseIsTold(string was, string isNow, string told, bool sameWay)
    {
        var replay = Of(Night.Replace(was, isNow, StringComparison.Ordinal));
        Assert.Null(replay.Unlike);
        Assert.Equal(told.Replace("null", "", StringComparison.Ordinal), Order(Told(replay), told));
        Assert.Equal(sameWay, replay.SameWay);
    }

    // Gates and steps come in the order of the chain as it would be; a table is easier to read in its own.
    static string Order(string found, string told) =>
        found.Split("; ").Order().SequenceEqual(told.Replace("null", "", StringComparison.Ordinal).Split("; ").Order())
            ? told.Replace("null", "", StringComparison.Ordinal)
            : found;

    [Fact]
    public void WhatAPersonHasContinuedIsNotPlayed()
    {
        var play = Play.Failing(Night, "load").Run();
        Assert.Null(Replay.Of(PastRun.Of(play.Chain, play.Journal)!, play.Chain).Unlike);
        Assert.Null(PastRun.Of(play.Chain, []));
    }
}
