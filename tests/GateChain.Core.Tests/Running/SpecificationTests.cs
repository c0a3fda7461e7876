using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>
/// Random runs keep to the specification, and each of its rules catches the fault that is planted for it.
/// </summary>
public class SpecificationTests
{
    static readonly int Runs =
        1500 * (int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_RANDOM"), out var times) ? times : 1);

    internal static readonly Lazy<List<(int Seed, Play Play)>> Played = new(() =>
    {
        var first = RandomChainTests.FirstSeed;
        return [.. Enumerable.Range(first, Runs).AsParallel().Select(seed => (seed, PlayOne(seed)))];
    });

    static Play PlayOne(int seed)
    {
        try
        {
            return RandomChainTests.PlayOne(seed);
        }
        catch (Exception e)
        {
            throw new InvalidOperationException(
                $"seed {seed} (GATECHAIN_SEED repeats): {e}\n{RandomChainTests.YamlOf(seed)}"
            );
        }
    }

    [Fact]
    public void EveryRunKeepsToIt()
    {
        foreach (var (seed, play) in Played.Value)
        {
            var broken = Specification.BrokenBy(play.Chain, play.Events);
            if (broken.Count == 0)
                continue;
            var first = Enumerable
                .Range(1, play.Events.Count())
                .First(n => Specification.BrokenBy(play.Chain, play.Events.Take(n)).Count > 0);
            Assert.Fail(
                $"seed {seed} (GATECHAIN_SEED repeats): {string.Join("; ", broken)}\nat "
                    + $"{string.Join("\n   ", play.Events.Take(first).TakeLast(5))}\n"
                    + $"{RandomChainTests.YamlOf(seed)}"
            );
        }
    }

    /// <summary>Changes a journal so that it breaks one rule; null when there is no place for it.</summary>
    public delegate List<RunEvent>? Fault(Chain chain, List<RunEvent> events);

    public static TheoryData<string> Rules => new(Faults.Keys);

    static readonly Dictionary<string, Fault> Faults = new()
    {
        [Specification.SettlesOnce] = (_, es) => Again<StepSettled>(es, s => s.Outcome != Outcome.Stopped),
        [Specification.GateOnce] = (_, es) => Again<GateDecided>(es, _ => true),
        [Specification.GateFollowsOutcome] = (c, es) =>
            Changed<GateDecided>(
                es,
                g => g.Scope.Length == 0 && c.Root.Gates[g.Gate] is { When: null, IsElse: false },
                g => g with { Open = !g.Open }
            ),
        [Specification.ElseComesLast] = (c, es) =>
            Changed<GateDecided>(
                es,
                g => g.Scope.Length == 0 && c.Root.Gates[g.Gate].IsElse,
                g => g with { Open = !g.Open }
            ),
        [Specification.GateAfterSource] = (_, es) =>
            es.FindIndex(e => e is GateDecided) is > 0 and var gate && es[0] is RunStarted ? Moved(es, gate, 1) : null,
        [Specification.StartsReleased] = (c, es) =>
            Changed<GateDecided>(
                es,
                g =>
                    g.Open
                    && !es.Exists(e => e is LegStarted or PauseAnswered)
                    && Target(c, g) is { Join.Mode: JoinMode.All } target
                    && es.OfType<AttemptStarted>().Any(s => s.Step == PathOf(g, target)),
                g => g with { Open = false }
            ),
        [Specification.SkippedUnreleased] = (c, es) =>
            es.FindIndex(e =>
                e is AttemptStarted s && !s.Step.Contains('/') && c.Root.Find(s.Step)!.Incoming.Count == 0
            )
                is >= 0
                    and var at
                ?
                [
                    .. es[..at],
                    new StepSettled(((AttemptStarted)es[at]).Step, Outcome.Skipped, Value.EmptyMap),
                    .. es[at..],
                ]
                : null,
        [Specification.AttemptsCount] = (_, es) =>
            Changed<AttemptStarted>(es, _ => true, s => s with { Attempt = s.Attempt + 1 }),
        [Specification.RetriesEnd] = (_, es) => Again<AttemptFailed>(es, _ => true, times: 4),
        [Specification.Parallel] = (_, es) => Again<IterationOpened>(es, _ => true, times: 4),
        [Specification.RoundsCount] = (_, es) =>
            Changed<RoundOpened>(es, _ => true, r => r with { Round = r.Round + 1 }),
        [Specification.RoundsEnd] = (_, es) => Again<RoundOpened>(es, _ => true, times: 6),
        [Specification.NothingStartsPaused] = (_, es) =>
            es.FindIndex(e => e is AttemptStarted s && s.Step[0] != '@') is > 0 and var at
            && !es[..at].Exists(e => e is AttemptLost)
                ? [.. es[..at], new PauseAsked(Ann, null), .. es[at..]]
                : null,
        [Specification.NothingStartsStopped] = (_, es) =>
            es.FindIndex(e => e is AttemptStarted s && s.Step[0] != '@') is > 0 and var at
            && !es[..at].Exists(e => e is HandlerOpened)
                ? [.. es[..at], new StopAsked(Ann, null), .. es[at..]]
                : null,
        [Specification.SuccessIsKept] = (_, es) =>
            Changed<LegStarted>(
                es,
                l =>
                    l.Reset.Count > 0
                    && es.IndexOf(l) is var at
                    && at == es.FindLastIndex(e => e is LegStarted)
                    && l.Reset.Any(r =>
                        !r.Contains('/')
                        && es[..at].OfType<StepSettled>().LastOrDefault(s => s.Step == r)?.Outcome == Outcome.Succeeded
                        && es[at..].OfType<AttemptStarted>().Any(s => s.Step == r)
                        && !es[at..].OfType<PauseAnswered>().Any()
                    ),
                l => l with { Reset = [] }
            ),
        [Specification.OutcomeFollows] = (_, es) =>
            Changed<RunSettled>(
                es,
                r => !es.Exists(e => e is RootSettled),
                r => r with { Outcome = r.Outcome == Outcome.Succeeded ? Outcome.Failed : Outcome.Succeeded }
            ),
        [Specification.ContainerFollows] = (c, es) =>
            Changed<StepSettled>(
                es,
                s =>
                    s.Outcome == Outcome.Failed
                    && !s.Step.Contains('[')
                    && c.AllSteps.FirstOrDefault(x => x.Address == s.Step)
                        is { Inner: not null, Each: null, Repeat: null }
                    && s.Error!.Code == "test",
                s => s with { Outcome = Outcome.Succeeded }
            ),
        [Specification.HoldsEnd] = (c, es) =>
            Again<GuardLooked>(
                es,
                g =>
                    g.Next is not null
                    && c.Root.Find(g.Step)?.Guard!.Rules[g.Rule].Hold!.Times is not null
                    && es[..es.IndexOf(g)].OfType<GuardAsked>().LastOrDefault(a => a.Step == g.Step)
                        is not { Woken: true },
                times: 4
            ),
        [Specification.HandlersFit] = (_, es) =>
            Changed<HandlerOpened>(
                es,
                h => h.Occasion is Occasion.Success,
                h => h with { Occasion = Occasion.Failure }
            ),
        [Specification.AssignsOnSuccess] = (_, es) =>
            es.FindIndex(e => e is VariableSet) is > 0 and var at
                ? [.. es[..at], es[at], new RunWarned("x", "between"), .. es[(at + 1)..]]
                : null,
        [Specification.NothingAfterEnd] = (_, es) => es[^1] is RunSettled ? [.. es, new RunWarned("x", "late")] : null,
        [Specification.EndsWhenSettled] = (c, es) =>
            Without<StepSettled>(es, s =>
                !s.Step.Contains('/')
                && s.Step[0] != '@'
                && c.Root.Find(s.Step)!.Outgoing.Count == 0
                && es.IndexOf(s) > es.FindLastIndex(e => e is LegStarted)
            ),
        [Specification.CancelHolds] = (_, es) =>
            Changed<StepCancelled>(
                es,
                c =>
                    c is { Index: null, As: not Outcome.Succeeded }
                    && !es.Exists(e => e is StopAsked or CancelAsked { Reason: CancelReason.Timeout })
                    && es.OfType<StepCancelled>().Count() == 1
                    && es[es.IndexOf(c)..].OfType<StepSettled>().Any(s => s.Step == c.Step && s.Outcome == c.As),
                c => c with { As = c.As == Outcome.Failed ? Outcome.Skipped : Outcome.Failed }
            ),
        [Specification.IterationCancelHolds] = (_, es) =>
            Changed<StepCancelled>(
                es,
                c =>
                    c is { Index: not null, As: not Outcome.Succeeded }
                    && !es.Exists(e => e is StopAsked or CancelAsked { Reason: CancelReason.Timeout })
                    && es.OfType<StepCancelled>().Count() == 1
                    && es[es.IndexOf(c)..].OfType<IterationSettled>().Any(s => s.Step == c.Step && s.Index == c.Index),
                c => c with { As = c.As == Outcome.Failed ? Outcome.Skipped : Outcome.Failed }
            ),
        [Specification.ChildOfCall] = (_, es) =>
            es.FindIndex(e => e is ChildStarted) is > 0 and var at ? Moved(es, at, 1) : null,
    };

    static Step Target(Chain chain, GateDecided gate) =>
        gate.Scope.Length == 0 ? chain.Root.Gates[gate.Gate].To : chain.AllSteps.First();

    static string PathOf(GateDecided gate, Step target) => gate.Scope.Length == 0 ? target.Id : "";

    static List<RunEvent> Moved(List<RunEvent> events, int from, int to)
    {
        var moved = events.ToList();
        moved.RemoveAt(from);
        moved.Insert(to, events[from]);
        return moved;
    }

    static List<RunEvent>? Again<T>(List<RunEvent> events, Func<T, bool> which, int times = 1)
        where T : RunEvent =>
        events.FindIndex(e => e is T t && which(t)) is >= 0 and var at
            ? [.. events[..at], .. Enumerable.Repeat(events[at], times), .. events[at..]]
            : null;

    static List<RunEvent>? Changed<T>(List<RunEvent> events, Func<T, bool> which, Func<T, RunEvent> change)
        where T : RunEvent =>
        events.FindIndex(e => e is T t && which(t)) is >= 0 and var at
            ? [.. events[..at], change((T)events[at]), .. events[(at + 1)..]]
            : null;

    static List<RunEvent>? Without<T>(List<RunEvent> events, Func<T, bool> which)
        where T : RunEvent =>
        events.FindIndex(e => e is T t && which(t)) is >= 0 and var at
            ? [.. events[..at], .. events[(at + 1)..]]
            : null;

    [Theory]
    [MemberData(nameof(Rules))]
    public void APlantedFaultIsCaught(string rule)
    {
        int planted = 0,
            caught = 0;
        foreach (var (_, play) in Played.Value)
        {
            if (Faults[rule](play.Chain, [.. play.Events]) is not { } faulty)
                continue;
            planted++;
            try
            {
                caught += Specification.BrokenBy(play.Chain, faulty).Contains(rule) ? 1 : 0;
            }
            // A journal so broken that it can't be read on has been found out too, but by no rule.
            catch (Exception e)
                when (e
                        is KeyNotFoundException
                            or InvalidOperationException
                            or ArgumentException
                            or NullReferenceException
                            or FormatException
                )
            {
                planted--;
            }
        }
        Assert.True(planted >= 5, $"the fault found a place in {planted} of {Runs} runs only");
        // Now and then a planted change happens to make another journal that is right.
        Assert.InRange(caught, Math.Ceiling(planted * 0.98), planted);
    }

    [Fact]
    public void EveryRuleHasAFault() =>
        Assert.Empty(
            typeof(Specification)
                .GetFields()
                .Where(f => f.IsLiteral)
                .Select(f => (string)f.GetRawConstantValue()!)
                .Except(Faults.Keys)
        );
}
