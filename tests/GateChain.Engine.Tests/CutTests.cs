using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Engine.Tests;

/// <summary>
/// The engine is cut off at every single journal write, before it and after it, and another one takes over.
/// </summary>
public sealed class CutTests
{
    // What is due later is a limit that no story gets to.
    static readonly TimeSpan Soon = TimeSpan.FromSeconds(1);

    /// <summary>
    /// Passes appends on until the one at which everything stops: as if the process had been killed there.
    /// </summary>
    sealed class CutJournal(IJournal inner, int cutAt, bool after) : IJournal
    {
        readonly Lock _lock = new();
        readonly TaskCompletionSource _cut = new(TaskCreationOptions.RunContinuationsAsynchronously);
        volatile bool _dead;

        public int Appends { get; private set; }
        public Task Cut => _cut.Task;
        public WriterState Writer => inner.Writer;

        public IAsyncEnumerable<JournalRow> ReadAsync(long run, long after, CancellationToken cancel) =>
            inner.ReadAsync(run, after, cancel);

        public void Die()
        {
            lock (_lock)
            {
                _dead = true;
            }
        }

        public void Append(JournalAppend append)
        {
            lock (_lock)
            {
                if (_dead)
                    return;
                var last = ++Appends == cutAt;
                if (!last || after)
                    inner.Append(append with { Listener = new Listener(append.Listener, this, last) });
                _dead |= last;
                if (last && !after)
                    _cut.SetResult();
            }
        }

        // News of what is on disk does not reach a dead process.
        sealed class Listener(IAppendListener listener, CutJournal journal, bool last) : IAppendListener
        {
            public void Appended(JournalAppend append, AppendOutcome outcome)
            {
                if (last)
                    journal._cut.SetResult();
                else if (!journal._dead)
                    listener.Appended(append, outcome);
            }
        }
    }

    public static TheoryData<string, string[]> Chains =>
        new()
        {
            {
                "gates, loops, variables, handlers",
                [
                    """
                        chain: t
                        vars: { n: { type: int, initial: 0 } }
                        dueIn: 1h
                        lane: narrow
                        steps:
                          a: { kind: count, set: { once: true }, assign: { vars.n: vars.n + 1 } }
                          pick: { kind: decide, branches: [ { name: few, when: vars.n < 5 }, { name: many, otherwise: true } ] }
                          few: { kind: count, set: { once: true }, assign: { vars.n: vars.n + 10 }, expect: [ { when: result.n > 5, verdict: fail }, { when: result.n > 0, verdict: warn } ] }
                          many: { kind: count, set: { once: true } }
                          nap: { kind: wait, set: { for: 15ms } }
                          loop: { kind: repeat, until: round == 3, limit: 5, pause: 5ms, steps: { r: { kind: count, set: { once: true }, assign: { vars.n: vars.n + 100 } } } }
                          all:
                            kind: each
                            over: "[1, 2, 3]"
                            parallel: 2
                            collect: item * 2
                            steps: { x: { kind: count, set: { once: true } }, y: { kind: count, set: { once: true }, guard: { probes: { c: { kind: clock } }, rules: [ { when: probes.c.ok, verdict: proceed } ], otherwise: { verdict: fail } } } }
                            gates: [ { from: x, to: y } ]
                          bad: { kind: decide, ifFails: absorb, retry: { limit: 1, wait: 5ms }, branches: [ { name: never, when: "false" } ] }
                          last: { kind: count, set: { once: true }, join: some }
                        gates:
                          - { from: a, to: pick }
                          - { from: pick, to: few, branch: few }
                          - { from: pick, to: many, branch: many }
                          - { from: few, to: nap }
                          - { from: nap, to: loop }
                          - { from: loop, to: all }
                          - { from: all, to: last }
                          - { from: bad, to: last, on: failure }
                          - { from: many, to: last, on: always, when: vars.n > 0 }
                        handlers:
                          success: { steps: { ok: { kind: count, set: { once: true } } } }
                          end: { steps: { bye: { kind: count, set: { once: true } } } }
                        outputs: { n: vars.n, all: steps.all.collected }
                        """,
                ]
            },
            {
                "children",
                [
                    """
                        chain: t
                        steps:
                          each: { kind: each, over: "[1, 2]", parallel: 2, collect: steps.c.total, steps: { c: { kind: call, chain: child1, inputs: { n: item } } } }
                          away: { kind: call, chain: child2, wait: false }
                          seen: { kind: wait, set: { runs: "${[steps.away.run]}" } }
                          last: { kind: count, set: { once: true } }
                        gates: [ { from: each, to: away }, { from: away, to: seen }, { from: seen, to: last } ]
                        outputs: { all: steps.each.collected, seen: "steps.seen.outcomes.map(o, o.outcome)" }
                        """,
                    "chain: child1\nparams: { n: { type: int } }\nvars: { sum: { type: int, initial: "
                        + "0 } }\nsteps:\n  first: { kind: count, set: { once: true } }\n  deep: { kind: call, "
                        + "chain: child2 }\n  loop: { kind: repeat, while: round <= 2, limit: 5, steps: { w: "
                        + "{ kind: count, set: { once: true }, assign: { vars.sum: vars.sum + params.n } } } "
                        + "}\ngates: [ { from: first, to: deep }, { from: deep, to: loop } ]\noutputs: "
                        + "{ total: vars.sum }",
                    "chain: child2\nwhenBusy: queue\nsteps: { leaf: { kind: count, set: { once: true }, lane: wide } }",
                ]
            },
        };

    [Theory]
    [MemberData(nameof(Chains))]
    public async Task ACutAtAnyWriteChangesNothing(string what, string[] chains)
    {
        Assert.NotEmpty(what);
        var (undisturbed, effects, appends) = await StoryAsync(chains, 0, after: false);
        Assert.True(appends is > 20 and < 200, $"{appends} writes: {undisturbed}");
        Assert.DoesNotContain("failed:", undisturbed, StringComparison.Ordinal);
        foreach (var after in new[] { false, true })
        {
            for (var cut = 1; cut <= appends; cut++)
            {
                var (words, done, _) = await StoryAsync(chains, cut, after);
                Assert.True(
                    undisturbed == words,
                    $"cut {(after ? "after" : "before")} write {cut}:\n{words}\nand undisturbed:\n{undisturbed}"
                );
                Assert.True(
                    effects == done,
                    $"cut {(after ? "after" : "before")} write {cut}:\n{done}\nand undisturbed:\n{effects}"
                );
            }
        }
    }

    [Theory]
    [MemberData(nameof(Chains))]
    public async Task ACutAtAnyWriteOfAResumedLegChangesNothing(string what, string[] chains)
    {
        Assert.NotEmpty(what);
        var failing = chains.Length == 1 ? "loop[2]/r" : "loop[2]/w";
        var (undisturbed, effects, appends) = await ResumedAsync(chains, failing, 0, after: false);
        foreach (var after in new[] { false, true })
        {
            for (var cut = 1; cut <= appends; cut++)
            {
                var (words, done, _) = await ResumedAsync(chains, failing, cut, after);
                Assert.True(
                    undisturbed == words,
                    $"cut {(after ? "after" : "before")} write {cut} of the second leg:\n{words}\nand "
                        + $"undisturbed:\n{undisturbed}"
                );
                Assert.True(
                    effects == done,
                    $"cut {(after ? "after" : "before")} write {cut} of the second leg:\n{done}\nand "
                        + $"undisturbed:\n{effects}"
                );
            }
        }
    }

    // With cut 0 nothing is cut, and the writes are counted.
    static async Task<(string Words, string Effects, int Appends)> StoryAsync(string[] chains, int cut, bool after)
    {
        CutJournal? journal = null;
        await using var house = new House(store => journal = new(store, cut, after));
        await house.PushAsync(chains);
        var starting = house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        if (cut > 0)
            await CutOffAsync(house, journal!, starting);
        else
            await starting;
        // A run that never got to the disk is started again by whoever wanted it.
        var run = (await house.Store.Runs.FindAsync(1))?.Id
            ?? await house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        return await EndAsync(house, run, journal!);
    }

    static async Task<(string Words, string Effects, int Appends)> ResumedAsync(
        string[] chains,
        string failing,
        int cut,
        bool after
    )
    {
        await using var house = new House();
        house.Count.Failing[failing] = true;
        await house.PushAsync(chains);
        var run = await house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        await house.TurnToEndAsync(run, Soon);
        house.Count.Failing.Clear();
        await house.EndEngineAsync();
        CutJournal? journal = null;
        house.Start(store => journal = new(store, cut, after));
        await house.Engine.StartAsync();
        var resuming = house.Engine.Commands.ResumeAsync(run, Bob, new());
        if (cut > 0)
        {
            await CutOffAsync(house, journal!, resuming.ContinueWith(_ => run, TaskScheduler.Default));
            if ((await house.Store.Runs.FindAsync(run))!.Leg == 1)
                await house.Engine.Commands.ResumeAsync(run, Bob, new());
        }
        else
        {
            await resuming;
        }
        return await EndAsync(house, run, journal!);
    }

    static async Task CutOffAsync(House house, CutJournal journal, Task<long> begun)
    {
        // Runs side by side do not always need the same number of writes: a story may be over before the write it was
        // to be cut at.
        await Task.WhenAny(journal.Cut, OverAsync()).WaitAsync(TimeSpan.FromSeconds(60));
        journal.Die();

        // Attempts in flight at the cut end unheard, as a program's would that continues for a moment.
        for (var i = 0; house.Count.Working.Values.Sum() > 0; i++)
            await Task.Delay(1);
        // A dead process writes nothing any more: what was handed over before the cut is let through first.
        await house.Store.Catalogue.PushAsync(
            new([], new Dictionary<string, string>(), new(house.Clock.GetUtcNow(), Ann, "push", "nothing"))
        );
        house.Start();
        await house.Engine.StartAsync();

        async Task OverAsync()
        {
            await house.TurnToEndAsync(await begun, Soon);
            while (house.Engine.Runs.Count > 0)
                await Task.Delay(1);
        }
    }

    static async Task<(string, string, int)> EndAsync(House house, long run, CutJournal journal)
    {
        var words = await house.TurnToEndAsync(run, Soon);
        var outputs = await house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString());
        // Children may have been started in another order; their ends must be the same.
        var children = new List<string>();
        foreach (var child in (await house.Store.Runs.ListAsync(new(Limit: 100))).Where(h => h.Id != run))
            children.Add($"{child.Chain} {await house.TurnToEndAsync(child.Id, Soon)}");
        return (
            $"{words}\n{outputs}\n{string.Join("\n", children.Order())}",
            string.Join(", ", house.Count.Effects.OrderBy(e => e.Key).Select(e => $"{e.Key} {e.Value}")),
            journal.Appends
        );
    }
}
