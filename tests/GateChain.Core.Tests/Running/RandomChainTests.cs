using System.Globalization;
using System.Text;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>
/// Random chains with random outcomes, crashes, stops and resumes; the machine's invariants hold throughout.
/// </summary>
public class RandomChainTests
{
    /// <summary>The same in every build; the long suite goes where none has been.</summary>
    internal static int FirstSeed { get; } =
        int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var given) ? given
        : Environment.GetEnvironmentVariable("GATECHAIN_RANDOM") is null ? 20261123
        : Environment.TickCount & 0xffffff;

    static int Runs =>
        400 * (int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_RANDOM"), out var times) ? times : 1);

    [Fact]
    public void TheInvariantsHold()
    {
        var first = FirstSeed;
        TestContext.Current.TestOutputHelper?.WriteLine($"seeds {first} to {first + Runs - 1}; GATECHAIN_SEED repeats");
        for (var seed = first; seed < first + Runs; seed++)
        {
            try
            {
                PlayOne(seed);
            }
            catch (Exception e)
            {
                throw new InvalidOperationException($"seed {seed}: {e}\n{new ChainMaker(new(seed)).Make()}");
            }
        }
    }

    /// <summary>The chain of a seed.</summary>
    internal static string YamlOf(int seed) => new ChainMaker(new(seed)).Make();

    /// <summary>Plays a random run through up to three resumes; asserts the invariants on the way.</summary>
    internal static Play PlayOne(int seed)
    {
        var chance = new Random(seed);
        // The play itself asserts after every input that the fold of the journal equals the live state.
        var play = new Play(new ChainMaker(new(seed)).Make(), (_, _) =>
            chance.Next(5) == 0
                ? AttemptResult.Fail("test", "broke")
                : AttemptResult.Done(("n", Value.Int(chance.Next(4))))
        )
        {
            Sees = (_, _) => chance.Next(5),
            // Some are cut into many small decisions.
            Bounds = seed % 3 == 0 ? Bounds.Default with { DecisionEvents = 4 } : Bounds.Default,
        };
        play.Begin();
        Work(play, chance);
        for (var leg = 0; leg < 3 && play.State.Outcome is Outcome.Failed or Outcome.Stopped; leg++)
        {
            play.Started.Clear();
            Resume(play, chance);
            Work(play, chance);
        }
        try
        {
            CheckLegs(play);
        }
        catch (Exception) when (Environment.GetEnvironmentVariable("GATECHAIN_TRACE") is { } file)
        {
            File.WriteAllLines(file, play.Journal.SelectMany(d => d.Events.Select(e => $"{d.At:HH:mm:ss.fff} {e}")));
            throw;
        }
        return play;
    }

    static void Resume(Play play, Random chance)
    {
        var before = Succeeded(play.State);
        var journal = play.Journal.Count;
        play.Started.Clear();
        play.Put(
            new ResumeInput(play.Now, Bob, new Dictionary<string, Value>(), new Dictionary<string, Value>(), [], [])
            {
                Automatic = chance.Next(2) == 0,
            }
        );
        var reset = play.Journal[journal].Events.OfType<LegStarted>().Single().Reset;
        // 5: what succeeded starts again only if the resume named it, or a container it lies in.
        foreach (var path in play.Started.Where(before.Contains).Where(p => !RetriedInside(p, play.State)))
        {
            Assert.True(
                reset.Any(r =>
                    path == r
                    || path.StartsWith(r + "/", StringComparison.Ordinal)
                    || path.StartsWith(r + "[", StringComparison.Ordinal)
                ),
                $"{path} ran again"
            );
        }
    }

    static HashSet<string> Succeeded(RunState state) =>
        [.. state.AllSteps.Where(s => s is { IsSettled: true, Outcome: Outcome.Succeeded }).Select(s => s.Path)];

    // A container that retries, by itself or because a person said so, does all of it again within a leg.
    static bool RetriedInside(string path, RunState state) =>
        state.AllSteps.Any(s =>
            s.Step.Inner is not null
            && (s.Step.Retry is not null || s.Answered is not null)
            && (
                path.StartsWith(s.Path + "/", StringComparison.Ordinal)
                || path.StartsWith(s.Path + "[", StringComparison.Ordinal)
            )
        );

    static void Work(Play play, Random chance)
    {
        var stops = chance.Next(12) == 0 ? chance.Next(10) : -1;
        var pauses = chance.Next(8) == 0 ? chance.Next(10) : -1;
        for (var i = 0; !play.State.HasEnded; i++)
        {
            Assert.True(
                i < 5_000,
                $"the run does not end: {play.State.Word}, {play.Words}; asked for "
                    + $"{string.Join(", ", play.InFlight)}; last {string.Join(" | ", play.Events.TakeLast(6))}"
            );
            var paused = play.State.AllSteps.Where(s => s.Phase == StepPhase.Paused).Select(s => s.Path).ToList();
            if (i == stops)
            {
                play.Put(new StopInput(play.Now, Ann, null));
            }
            else if (i == pauses)
            {
                play.Put(new PauseInput(play.Now, Ann, null));
            }
            else if (chance.Next(25) == 0)
            {
                play.Crash();
            }
            else if (paused.Count > 0 && chance.Next(4) == 0)
            {
                var step = play.State.Find(paused[chance.Next(paused.Count)])!;
                var answer = Enum.GetValues<PauseAnswer>()[chance.Next(chance.Next(4) == 0 ? 5 : 4)];
                (string, Value)[] outputs = [("n", Value.Int(1))];
                // A kind that gives no “n” is not settled with one.
                var fit = ManualOutputs.Wrong(step.Step, Value.Map(outputs)).Count == 0;
                Assert.True(play.Answer(step.Path, answer, fit ? outputs : []), play.Refusal);
            }
            else if (
                play.State.IsPaused
                && chance.Next(20) == 0
                && RunMachine.PlanResume(play.State, ResumeSelection.Plain).Refusal is null
            )
            {
                Resume(play, chance);
            }
            else if (
                chance.Next(6) == 0
                && play.State.AllSteps.FirstOrDefault(s => s.Phase == StepPhase.Held) is { } held
                && play.Put(new HoldInput(play.Now, held.Path, (HoldAnswer)chance.Next(2), Bob))
            ) { }
            else if (chance.Next(40) == 0 && Cancel(play, chance)) { }
            else if (play.InFlight.Count > 0 && play.EndOne(chance.Next(play.InFlight.Count))) { }
            else if (play.State.NextDue is not null)
            {
                play.LetTimePass();
            }
            else if (chance.Next(30) == 0)
            {
                play.Put(
                    new WakeInput(
                        play.Now,
                        play.State.AllSteps.FirstOrDefault(s => s.Phase == StepPhase.Held)?.Path ?? "none"
                    )
                );
            }
            else
            {
                // 3: nothing in flight and nothing due would mean that the run hangs, unless it is paused.
                Assert.True(play.State.IsPaused || play.InFlight.Count > 0, $"the run hangs: {play.Words}");
                if (
                    paused.Count == 0
                    && play.State.IsPaused
                    && RunMachine.PlanResume(play.State, ResumeSelection.Plain).Refusal is null
                )
                {
                    Resume(play, chance);
                }
            }
        }
    }

    // Any step or iteration that can be: what can't is refused, and changes nothing.
    static bool Cancel(Play play, Random chance)
    {
        var paths = play
            .State.AllSteps.Where(s => s.Phase is not (StepPhase.Pending or StepPhase.Settled))
            .SelectMany(s => s.InnerScopes.Where(i => s.Each is not null).Select(i => i.Path).Prepend(s.Path))
            .ToList();
        var said = new[] { Outcome.Failed, Outcome.Skipped, Outcome.Succeeded }[chance.Next(3)];
        return paths.Count > 0
            && play.Put(new CancelInput(play.Now, paths[chance.Next(paths.Count)], said, Bob, Value.EmptyMap));
    }

    static void CheckLegs(Play play)
    {
        var settled = new HashSet<string>();
        var decided = new HashSet<(string, int)>();
        foreach (var e in play.Events)
        {
            switch (e)
            {
                case LegStarted:
                    settled.Clear();
                    decided.Clear();
                    break;
                case PauseAnswered { Inside: { } inside }:
                    // What is done again in a container that is retried settles again, and so do containers that
                    // continue.
                    settled.RemoveWhere(s =>
                        inside
                            .Reset.Concat(inside.Reopened)
                            .Any(p =>
                                s == p
                                || (
                                    inside.Reset.Contains(p)
                                    && (
                                        s.StartsWith(p + "/", StringComparison.Ordinal)
                                        || s.StartsWith(p + "[", StringComparison.Ordinal)
                                    )
                                )
                            )
                    );
                    decided.RemoveWhere(g =>
                        inside.Undecided.Contains(new(g.Item1, g.Item2))
                        || inside
                            .Reset.Concat(inside.Reopened)
                            .Any(p =>
                                play.State.Find(p) is not { } at
                                || g.Item1.StartsWith(p + "/", StringComparison.Ordinal)
                                || g.Item1.StartsWith(p + "[", StringComparison.Ordinal) && inside.Reset.Contains(p)
                                || g.Item1 == p && inside.Reset.Contains(p)
                                || (at.Scope.Path == g.Item1 && at.Step.Outgoing.Any(o => o.Index == g.Item2))
                            )
                    );
                    break;
                case AttemptStarted started:
                    // A container that opens again has new instances inside.
                    settled.RemoveWhere(p =>
                        p.StartsWith(started.Step + "/", StringComparison.Ordinal)
                        || p.StartsWith(started.Step + "[", StringComparison.Ordinal)
                    );
                    decided.RemoveWhere(g =>
                        g.Item1 == started.Step
                        || g.Item1.StartsWith(started.Step + "/", StringComparison.Ordinal)
                        || g.Item1.StartsWith(started.Step + "[", StringComparison.Ordinal)
                    );
                    Assert.DoesNotContain(started.Step, settled);
                    break;
                case StepSettled x:
                    Assert.True(settled.Add(x.Step), $"{x.Step} settled twice");
                    break;
                case GateDecided x:
                    Assert.True(decided.Add((x.Scope, x.Gate)), $"gate {x.Gate} of “{x.Scope}” decided twice");
                    break;
                default:
                    break;
            }
        }
        foreach (var step in play.State.AllSteps)
        {
            Assert.True(step.IsSettled, $"{step.Path} never settled");
            // The gates of kept steps may be others by now: a step before them was done again for others.
            if (
                // One that was to continue may have settled at once: a gate that was decided again was in error.
                step.Record
                    is null
                || step.Record.Leg != play.State.Leg
                || play.State.Stop is not null
                || step.Scope.IsHandler
                || step.Leg != play.State.Leg
                || step.Outcome is Outcome.Skipped or Outcome.Stopped
            )
            {
                continue;
            }
            // 2: what started was released by its gates, as they are decided for good.
            Assert.True(
                Core.Running.Machine.Joins.Verdict(step) != Core.Running.Machine.JoinVerdict.Skip,
                $"{step.Path} started and its join says skip"
            );
        }
    }
}
