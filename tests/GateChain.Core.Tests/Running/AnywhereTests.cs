using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>
/// A crash after every single decision, and a failure at every single step, of chains that together use every feature.
/// </summary>
public class AnywhereTests
{
    public static TheoryData<string> Chains =>
        new(
            """
            chain: gates
            vars: { n: { type: int, initial: 0 } }
            steps:
              a: { kind: work, assign: { vars.n: vars.n + 1 } }
              b: { kind: work, retry: { limit: 1, wait: 5s } }
              pick: { kind: decide, branches: [ { name: low, when: vars.n < 5 }, { name: high, otherwise: true } ] }
              low: { kind: work, assign: { vars.n: vars.n + 10 } }
              high: { kind: work }
              rest: { kind: wait, set: { for: 3s } }
              any: { kind: work, join: any }
              some: { kind: work, join: some }
              two: { kind: work, join: 2 }
              off: { kind: work, disabled: true }
              last: { kind: work }
            gates:
              - { from: a, to: pick }
              - { from: pick, to: low, branch: low }
              - { from: pick, to: high, branch: high }
              - { from: low, to: rest }
              - { from: a, to: any }
              - { from: b, to: any }
              - { from: high, to: some, on: always }
              - { from: b, to: some }
              - { from: a, to: two }
              - { from: b, to: two }
              - { from: high, to: two }
              - { from: two, to: off }
              - { from: off, to: last, when: vars.n > 0 }
            outputs: { n: vars.n }
            """,
            """
            chain: containers
            vars: { sum: { type: int, initial: 0 } }
            steps:
              before: { kind: work }
              loop:
                kind: each
                over: "[1, 2, 3, 4]"
                parallel: 2
                collect: vars.own
                vars: { own: { type: int, initial: 0 } }
                steps:
                  first: { kind: work, assign: { vars.own: item * 10, vars.sum: vars.sum + item } }
                  inner:
                    kind: group
                    steps:
                      x: { kind: work }
                      y: { kind: work }
                    gates: [ { from: x, to: y } ]
                  last: { kind: work }
                gates: [ { from: first, to: inner }, { from: inner, to: last } ]
              after: { kind: work }
            gates: [ { from: before, to: loop }, { from: loop, to: after } ]
            outputs: { sum: vars.sum, all: steps.loop.collected }
            """,
            """
            chain: nested
            steps:
              outer:
                kind: each
                over: "[[1, 2], [], [3]]"
                steps:
                  inner:
                    kind: each
                    over: item
                    parallel: 3
                    steps:
                      a: { kind: work }
                      w: { kind: wait, set: { for: 1s } }
                    gates: [ { from: a, to: w } ]
              whole: { kind: group, resumeAs: whole, steps: { p: { kind: work }, q: { kind: work } } }
            """,
            """
            chain: thresholds
            lane: narrow
            dueIn: 10h
            vars: { n: { type: int, initial: 0 } }
            steps:
              held: { kind: work, guard: { probes: { p: { kind: eye } }, rules: [ { when: probes.p.n > 2, verdict: proceed } ], otherwise: { verdict: hold, recheck: 5m, limit: 9 } } }
              looped:
                kind: repeat
                until: vars.n >= 3
                limit: 9
                pause: 1m
                vars: { own: { type: int, initial: 0 } }
                steps: { r: { kind: work, assign: { vars.n: vars.n + 1, vars.own: vars.own + round } }, s: { kind: work } }
                gates: [ { from: r, to: s } ]
              called: { kind: call, chain: other, inputs: { n: vars.n } }
              away: { kind: call, chain: other, wait: false }
              seen: { kind: wait, set: { runs: "${[steps.away.run]}" } }
              expected: { kind: work, expect: [ { when: result.n > 5, verdict: fail }, { when: result.n == 1, verdict: warn } ] }
            gates: [ { from: held, to: looped }, { from: looped, to: called }, { from: away, to: seen }, { from: called, to: expected } ]
            handlers:
              success: { steps: { ok: { kind: work } } }
              failure: { steps: { bad: { kind: work } } }
              end: { steps: { last: { kind: work } } }
            outputs: { n: vars.n }
            """,
            """
            chain: deep
            onFailure: halt
            steps:
              e:
                kind: each
                over: "[1, 2]"
                steps:
                  g: { kind: group, steps: { r: { kind: repeat, while: round <= 2, limit: 5, steps: { c: { kind: call, chain: other }, w: { kind: work } }, gates: [ { from: c, to: w } ] } } }
              after: { kind: work }
            gates: [ { from: e, to: after } ]
            """
        );

    // The probe sees more with each look; it is the world outside that changes, not the run.
    static Play Of(string yaml, Func<string, int, AttemptResult?>? outcome = null)
    {
        var looks = 0;
        return new(yaml, outcome) { Sees = (_, _) => ++looks };
    }

    // Handlers of another number and child runs of another number are the same.
    static string Unnumbered(string words) =>
        System.Text.RegularExpressions.Regex.Replace(
            System.Text.RegularExpressions.Regex.Replace(words, @"(@\w+)\[\d+\]", "$1"),
            @"run"": \d+",
            "run"
        );

    static string Words(Play play) =>
        Unnumbered(
            $"{play.State.Word} {play.State.Outputs} "
                + string.Join(
                    ", ",
                    play.State.AllSteps.Where(s => !s.Scope.IsHandler || s.Leg == play.State.Leg)
                        .Select(s => $"{s.Path} {s.Word}")
                )
        );

    [Theory]
    [MemberData(nameof(Chains))]
    public void ACrashAfterAnyDecisionChangesNothing(string yaml)
    {
        var undisturbed = Of(yaml).Run();
        for (var cut = 1; cut < undisturbed.Journal.Count; cut++)
        {
            var play = Of(yaml).Begin();
            var crashed = false;
            while (!play.State.HasEnded)
            {
                if (!crashed && play.Journal.Count >= cut)
                {
                    crashed = true;
                    play.Crash();
                }
                else if (play.InFlight.Count > 0)
                {
                    play.EndOne();
                }
                else
                {
                    play.LetTimePass();
                }
            }
            Assert.Equal(Words(undisturbed), Words(play));
            // What had been journaled as done is not done again.
            Assert.All(play.Events.OfType<StepSettled>().GroupBy(e => e.Step), g => Assert.Single(g));
        }
    }

    [Theory]
    [MemberData(nameof(Chains))]
    public void AfterAFailureAtAnyStepOneResumeDoesExactlyWhatHangsOnIt(string yaml)
    {
        var undisturbed = Of(yaml).Run();
        foreach (var failing in undisturbed.Started.Distinct().ToList())
        {
            // A handler's failure changes no outcome, and a call that is not waited for can't fail.
            if (failing[0] == '@' || undisturbed.State.Find(failing)!.Step.Call is { Wait: false })
                continue;
            var broken = true;
            var play = Of(yaml, (path, _) =>
                    broken && path == failing
                        ? AttemptResult.Fail("test", "broke")
                        : AttemptResult.Done(("n", Value.Int(1)))
                )
                .Run();
            Assert.True(play.State.Word == "failed", $"{failing}: {play.Words}");
            var done = play
                .State.AllSteps.Where(s => s is { Outcome: Outcome.Succeeded, IsSettled: true })
                .Select(s => s.Path)
                .ToHashSet();
            var behind = Behind(play.State.Find(failing)!);
            broken = false;
            play.Resume();
            Assert.Equal(Words(undisturbed), Words(play));
            Assert.Contains(failing, play.Started);
            Assert.Equal(play.Started.Count, play.Started.Distinct().Count());
            foreach (var again in play.Started.Where(p => p[0] != '@' && done.Contains(p)))
            {
                Assert.True(
                    behind.Contains(again),
                    $"{failing} failed, and {again} ran again although it does not hang on it"
                );
            }
        }
    }

    // What stands behind a step, inside its scope and behind the containers around it; with resumeAs: whole, all of the
    // container.
    static HashSet<string> Behind(StepState step)
    {
        var found = new HashSet<string>();
        for (StepState? at = step; at is not null; at = at.Scope.Owner)
        {
            foreach (var next in Scopes.FromHereOn(at.Step).Where(s => s != at.Step))
                AddAll(at.Scope.Steps[next.Index]);
            if (at.Step.ResumeWhole)
                AddAll(at);
        }
        return found;

        void AddAll(StepState at)
        {
            found.Add(at.Path);
            foreach (var inner in at.InnerScopes.SelectMany(s => s.Steps))
                AddAll(inner);
        }
    }

    [Theory]
    [MemberData(nameof(Chains))]
    public void AStopAfterAnyDecisionAndAResumeEndAsUndisturbed(string yaml)
    {
        var undisturbed = Of(yaml).Run();
        for (var cut = 1; cut < undisturbed.Journal.Count; cut++)
        {
            var play = Of(yaml).Begin();
            while (!play.State.HasEnded)
            {
                // A stop while handlers run ends them and keeps the outcome; RunLifeTests has that.
                if (play.Journal.Count >= cut && !play.State.IsStopping && play.State.RootEnd is null)
                    play.Put(new StopInput(play.Now, Ann, null));
                else if (play.InFlight.Count > 0)
                    play.EndOne();
                else
                    play.LetTimePass();
            }
            if (play.State.Word == "stopped")
                play.Resume();
            Assert.Equal(Words(undisturbed), Words(play));
        }
    }
}
