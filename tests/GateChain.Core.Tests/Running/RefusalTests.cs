using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>
/// What a person's command meets is said by the machine, and by it alone; a refused one changes nothing.
/// </summary>
public sealed class RefusalTests
{
    const string Yaml =
        "chain: t\nsteps:\n  load: { kind: work, ifFails: pause }\n  each:\n    kind: each\n    over: '[1]'\n"
        + "    steps: { in: { kind: work } }\n  next: { kind: work }\n"
        + "gates: [ { from: load, to: next }, { from: each, to: next } ]\n"
        + "handlers: { end: { steps: { last: { kind: work } } } }";

    static readonly DateTimeOffset Later = Play.Start0.AddMinutes(1);

    static Play Begun() => Play.Failing(Yaml).Begin();

    static Play Paused() => Play.Failing(Yaml, "load").Run();

    static Play Ended() => Play.Failing(Yaml).Run();

    static AnswerInput Answer(string step, PauseAnswer answer = PauseAnswer.Skip, Value? outputs = null) =>
        new(Later, step, answer, Bob, outputs ?? Value.EmptyMap);

    static ResumeInput Resume(string? from = null, string? skip = null) =>
        new(
            Later,
            Bob,
            new Dictionary<string, Value>(),
            new Dictionary<string, Value>(),
            from is null ? [] : [from],
            skip is null ? [] : [skip]
        );

    static Play With(Play play, params RunInput[] inputs)
    {
        foreach (var input in inputs)
            Assert.True(play.Put(input), play.Refusal);
        return play;
    }

    static readonly StopInput Stop = new(Later, Ann, null);
    static readonly PauseInput Pause = new(Later, Ann, null);

    public static TheoryData<string, string, RefusalKind, string> Cases =>
        new()
        {
            { "ended", "stop", RefusalKind.Conflict, "run 1 has already ended: it succeeded at " },
            { "ended", "pause", RefusalKind.Conflict, "run 1 has already ended: it succeeded at " },
            { "ended", "answer", RefusalKind.Conflict, "run 1 has ended (succeeded); “load” is not paused; it is " },
            { "ended", "gone", RefusalKind.Conflict, "run 1 is not running" },
            { "ended", "resume", RefusalKind.Conflict, "run 1 can't be resumed: the run succeeded; there is nothing" },
            { "stopped", "stop", RefusalKind.Conflict, "run 1 has already ended: it was stopped at " },
            { "going", "resume", RefusalKind.Conflict, "run 1 is still going since 2026-" },
            { "going", "answer", RefusalKind.Conflict, "“load” is not paused; it is running" },
            { "going", "gone", RefusalKind.Conflict, "“load” does not wait for anything of a lost attempt" },
            { "second leg", "resume", RefusalKind.Conflict, "run 1 is already running: leg 2 was begun by bob" },
            { "paused by ann", "pause", RefusalKind.Conflict, "run 1 was already paused by ann" },
            { "being stopped", "pause", RefusalKind.Conflict, "run 1 is being stopped by ann" },
            { "ending", "pause", RefusalKind.Conflict, "run 1 is ending: only its handlers still run" },
            { "paused", "answer far", RefusalKind.NotFound, "there is no step “laod” in run 1; did you mean “load”?" },
            { "paused", "answer each[0]", RefusalKind.NotFound, "“each[0]” is an iteration of “each”, not a step" },
            { "paused", "settle", RefusalKind.Invalid, "“load” can't be settled so: “n”: " },
            { "paused", "settle list", RefusalKind.Invalid, "outputs are a mapping of names to values" },
            { "paused", "resume both", RefusalKind.Invalid, "“load” can't be both repeated and skipped" },
            { "answered", "answer", RefusalKind.Conflict, "“load” is not paused any more: bob answered “skip” at " },
        };

    [Theory, MemberData(nameof(Cases))]
    public void ACommandThatDoesNotFitIsRefusedInASentence(string when, string what, RefusalKind kind, string sentence)
    {
        var play = when switch
        {
            "ended" => Ended(),
            "stopped" => With(Begun(), Stop).Continue(),
            "going" => Begun(),
            "second leg" => With(Paused(), Resume()),
            "paused by ann" => With(Begun(), Pause),
            "being stopped" => With(Begun(), Stop),
            "ending" => Ending(),
            "answered" => With(Paused(), Answer("load")),
            _ => Paused(),
        };
        RunInput command = what switch
        {
            "stop" => Stop,
            "pause" => Pause,
            "gone" => new ConfirmGoneInput(Later, "load", Bob),
            "resume" => Resume(),
            "resume both" => Resume("load", "load"),
            "answer far" => Answer("laod"),
            "answer each[0]" => Answer("each[0]"),
            "settle" => Answer("load", PauseAnswer.Settle, Value.Map(("n", Value.String("many")))),
            "settle list" => Answer("load", PauseAnswer.Settle, Value.List([])),
            _ => Answer("load"),
        };
        var before = Play.Dump(play.State);
        var refused = Assert.IsType<Refused>(RunMachine.Decide(play.State, command));
        Assert.Equal(kind, refused.Kind);
        Assert.StartsWith(sentence, refused.Sentence, StringComparison.Ordinal);
        Assert.Equal(before, Play.Dump(play.State));
        // Asked beforehand it says the same.
        Assert.Equal(refused.Sentence, RunMachine.RefusalOf(play.State, command)?.Sentence);
    }

    [Fact]
    public void WhatIsNotFromAPersonIsNeverRefused()
    {
        var play = Ended();
        Assert.Same(
            Unchanged.Instance,
            RunMachine.Decide(play.State, new AttemptEndedInput(Later, "load", 1, AttemptResult.Done()))
        );
        Assert.Same(Unchanged.Instance, RunMachine.Decide(play.State, new TimeInput(Later)));
        // To stop what is being stopped is no mistake.
        Assert.Same(Unchanged.Instance, RunMachine.Decide(With(Begun(), Stop).State, Stop));
    }

    static Play Ending()
    {
        var play = Begun();
        while (play.State.RootEnd is null)
            Assert.True(play.EndOne(0));
        return play;
    }
}
