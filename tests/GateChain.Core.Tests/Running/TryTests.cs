using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class TryTests
{
    const string Chain = """
        chain: t
        vars: { n: { type: int, initial: 0 } }
        steps:
          a: { kind: work }
          b: { kind: work, assign: { vars.n: steps.a.?n.orValue(0) + 1 } }
          alarm: { kind: work }
          g:
            kind: group
            steps: { in: { kind: work }, out: { kind: work } }
            gates: [ { from: in, to: out } ]
          side: { kind: work }
        gates: [ { from: a, to: b }, { from: a, to: alarm, on: failure }, { from: b, to: g } ]
        """;

    static Play Try(TryPart part, string step, string[]? pause = null, params TakenStep[] known)
    {
        var play = new Play(Chain);
        play.Put(
            new StartInput(play.Now, "uid", "release", new Dictionary<string, Value>(), Value.EmptyMap, Ann)
            {
                Try = TryPlan.For(play.Chain, part, step, known.ToDictionary(k => k.Step), pause ?? []),
            }
        );
        return play.Continue();
    }

    [Theory]
    [InlineData(
        TryPart.Whole,
        "",
        "a b g/in g/out side",
        "a succeeded, b succeeded, alarm skipped, g succeeded, side succeeded"
    )]
    [InlineData(
        TryPart.From,
        "b",
        "b g/in g/out",
        "a succeeded, b succeeded, alarm succeeded, g succeeded, side succeeded"
    )]
    [InlineData(TryPart.Only, "b", "b", "a succeeded, b succeeded, alarm skipped, g skipped, side skipped")]
    [InlineData(TryPart.Only, "alarm", "alarm", "a succeeded, b skipped, alarm succeeded, g skipped, side skipped")]
    [InlineData(TryPart.UpTo, "b", "a b", "a succeeded, b succeeded, alarm skipped, g skipped, side skipped")]
    public void APartIsDoneAndTheRestIsTakenOrLeftOut(TryPart part, string step, string started, string words)
    {
        var play = Try(part, step);
        Assert.Equal(
            (started, "succeeded"),
            (string.Join(' ', play.Started.Order(StringComparer.Ordinal)), play.State.Word)
        );
        foreach (var word in words.Split(", "))
            Assert.Contains(word, play.Words);
    }

    [Fact]
    public void StepsBeforeItGiveWhatTheyGaveInTheRunTheyAreTakenFrom()
    {
        var play = Try(
            TryPart.From,
            "b",
            null,
            new TakenStep("a", Outcome.Succeeded, Value.Map(("n", Value.Int(41))), 7)
        );
        Assert.Equal(
            (Value.Int(42), "taken from run 7 for this try"),
            (play.State.Root.Variables["n"], play.State.Find("a")!.Note)
        );
        // A failure that was taken over opens what stands behind it, and does not count.
        var failed = Try(TryPart.From, "alarm", null, new TakenStep("a", Outcome.Failed, Value.EmptyMap, 7));
        Assert.Equal(("alarm", "succeeded"), (failed.StartedWords, failed.State.Word));
    }

    [Fact]
    public void AGateThatCannotBeDecidedWithoutTheOutputsDoesNotMatterToTheStepThatIsTried()
    {
        var play = new Play(
            "chain: t\nsteps: { a: { kind: work }, b: { kind: work } }\ngates: [ { from: a, to: b, when: "
                + "steps.a.n > 1 } ]"
        );
        play.Put(
            new StartInput(play.Now, "uid", "release", new Dictionary<string, Value>(), Value.EmptyMap, Ann)
            {
                Try = TryPlan.For(play.Chain, TryPart.Only, "b", new Dictionary<string, TakenStep>(), []),
            }
        );
        Assert.Equal(("b", "succeeded"), (play.Continue().StartedWords, play.State.Word));
    }

    [Fact]
    public void ItPausesBeforeTheStepsThatAreNamedAndEachOnlyOnce()
    {
        var play = Try(TryPart.Whole, "", ["b", "g/out"]);
        Assert.Equal(("paused", "before b, as the try was told to"), (play.State.Word, play.State.Pause!.Message));
        Assert.Equal("a side", string.Join(' ', play.Started.Order(StringComparer.Ordinal)));
        play.Resume().Continue();
        Assert.Equal(("paused", "g/out"), (play.State.Word, play.State.Pause!.Before));
        play.Resume().Continue();
        Assert.Equal("succeeded", play.State.Word);
        Assert.All(play.State.AllSteps, s => Assert.Equal(s.Path == "alarm" ? 0 : 1, s.Attempt));
    }
}
