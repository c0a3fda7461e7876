using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Slots;

namespace GateChain.Engine.Tests;

/// <summary>Child runs, lanes, queues, guards, pauses and everything people decide, on a real engine.</summary>
public sealed partial class ControlTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    static readonly Dictionary<string, Value> Nothing = [];

    Task<long> StartAsync(string chain = "t") => _house.Engine.Starter.StartAsync(chain, Nothing, null, Ann);

    Task<string> WordAsync(long run) => _house.Engine.Reader.ReadAsync(run, (s, _) => s.Word);

    static async Task UntilAsync(Func<Task<bool>> holds)
    {
        for (var i = 0; !await holds(); i++)
        {
            Assert.True(i < 6000, "it does not come to that");
            await Task.Delay(5);
        }
    }

    Task UntilAsync(long run, string word) => UntilAsync(async () => await WordAsync(run) == word);

    const string Parent =
        "chain: t\nparams: { n: { type: int, default: 1 } }\nsteps:\n  each:\n    kind: each\n    over: "
        + "'[1, 2]'\n    collect: steps.ask.total\n    steps:\n      ask: { kind: call, chain: child1, "
        + "inputs: { n: item * params.n } }\n  after: { kind: count }\ngates: [ { from: each, to: "
        + "after } ]\noutputs: { all: steps.each.collected }";
    const string Child =
        "chain: child1\nparams: { n: { type: int } }\nvars: { sum: { type: int, initial: "
        + "0 } }\nsteps:\n  first: { kind: count }\n  loop: { kind: repeat, until: round == 3, limit: 5, "
        + "steps: { work: { kind: count, assign: { vars.sum: vars.sum + params.n } }, two: { kind: "
        + "count } }, gates: [ { from: work, to: two } ] }\ngates: [ { from: first, to: loop } ]\noutputs: "
        + "{ total: vars.sum }";

    [Fact]
    public async Task AChildRunGivesItsOutputsAndIsLinkedBothWays()
    {
        await _house.PushAsync(Parent, Child);
        var run = await StartAsync();
        await _house.EndAsync(run);
        Assert.Equal("""{"all": [3, 6]}""", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString()));
        var child = await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("each[1]/ask")!.Child!.Run);
        var link = await _house.Engine.Reader.ReadAsync(child, (s, _) => s.Parent!);
        Assert.Equal((run, "each[1]/ask", 1), (link.Run, link.Step, link.Depth));
        Assert.Equal(2, (await _house.Store.Runs.ListAsync(new(Parent: run))).Count);
    }

    [Fact]
    public async Task AFailureThreeLevelsDownIsResumedByOneCommandAndRedoesOneStep()
    {
        _house.Count.Failing["loop[2]/two"] = true;
        await _house.PushAsync(Parent, Child);
        var run = await StartAsync();
        await _house.EndAsync(run);
        Assert.Equal("failed", await WordAsync(run));
        Assert.Equal(1, _house.Count.Effects["first"]);
        _house.Count.Failing.Clear();
        Assert.Equal(2, await _house.Engine.Commands.ResumeAsync(run, Bob, new()));
        await _house.EndAsync(run);
        Assert.Equal("""{"all": [3, 6]}""", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString()));
        // The first child had done first, loop[1] and loop[2]/work before; only loop[2]/two and what follows was left
        // of it.
        Assert.Equal(
            ("2 2 2", 3),
            (
                string.Join(
                    ' ',
                    new[] { "first", "loop[1]/work", "loop[2]/work" }.Select(s => _house.Count.Effects[s])
                ),
                _house.Count.Effects["loop[3]/two"] + _house.Count.Effects["after"]
            )
        );
        var children = (await _house.Store.Runs.ListAsync(new(Parent: run))).OrderBy(c => c.Id).Select(c => c.Leg);
        Assert.Equal([2, 1], children);
    }

    [Fact]
    public async Task CorrectionsReachTheChildThroughItsInputs()
    {
        _house.Count.Failing["loop[1]/work"] = true;
        await _house.PushAsync(Parent, Child);
        var run = await StartAsync();
        await _house.EndAsync(run);
        _house.Count.Failing.Clear();
        await _house.Engine.Commands.ResumeAsync(
            run,
            Bob,
            new() { Set = new Dictionary<string, Value> { ["n"] = Value.String("10") } }
        );
        await _house.EndAsync(run);
        Assert.Equal(
            """{"all": [30, 60]}""",
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString())
        );
    }

    [Fact]
    public async Task AChildThatSomebodyResumedByItselfIsJoined()
    {
        _house.Count.Failing["loop[1]/work"] = true;
        await _house.PushAsync(Parent, Child);
        var run = await StartAsync();
        await _house.EndAsync(run);
        _house.Count.Failing.Clear();
        var child = await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("each[0]/ask")!.Child!.Run);
        await _house.Engine.Commands.ResumeAsync(child, Bob, new());
        await _house.EndAsync(child);
        await _house.Engine.Commands.ResumeAsync(run, Bob, new());
        await _house.EndAsync(run);
        Assert.Equal(
            ("succeeded", 2),
            (await WordAsync(run), await _house.Engine.Reader.ReadAsync(child, (s, _) => s.Leg))
        );
    }

    [Fact]
    public async Task AStopReachesTheChildrenAndAPathLeadsIntoThem()
    {
        _house.Count.Hanging["loop[1]/work"] = true;
        await _house.PushAsync(Parent, Child);
        var run = await StartAsync();
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("each[0]/ask")?.Child) is not null
        );
        var child = await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("each[0]/ask")!.Child!.Run);
        await _house.InFlightAsync(child, "loop[1]/work");
        await _house.Engine.Commands.StopAsync(run, Ann, null);
        await _house.EndAsync(run);
        Assert.Equal(("stopped", "stopped"), (await WordAsync(run), await WordAsync(child)));
        _house.Count.Hanging.Clear();
        await _house.Engine.Commands.ResumeAsync(run, Bob, new() { From = ["each[0]/ask/first"] });
        await _house.EndAsync(run);
        Assert.Equal(("succeeded", 3), (await WordAsync(run), _house.Count.Effects["first"]));
    }

    [Fact]
    public async Task AChainThatIsNotThereFailsTheCall()
    {
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count }\n  c: { kind: call, chain: t }\n  d: { kind: decide, "
                + "branches: [ { name: x, when: 'false' }, { name: y, otherwise: true } ] }\ngates: [ { from: "
                + "a, to: d }, { from: d, to: c, branch: x } ]"
        );
        Assert.Equal("succeeded: a succeeded, c skipped, d succeeded", await _house.EndAsync(await StartAsync()));
    }

    [Fact]
    public async Task AWaitKnowsWhenDetachedRunsHaveEnded()
    {
        _house.Count.Hanging["slow"] = true;
        await _house.PushAsync(
            """
            chain: t
            steps:
              one: { kind: call, chain: child1, wait: false }
              two: { kind: call, chain: child2, wait: false }
              any: { kind: wait, set: { runs: "${[steps.one.run, steps.two.run]}", need: any } }
              all: { kind: wait, set: { runs: "${[steps.one.run, steps.two.run]}" } }
            gates: [ { from: one, to: two }, { from: two, to: any }, { from: any, to: all } ]
            outputs: { first: "steps.any.outcomes[0].chain", both: "steps.all.outcomes.map(o, o.outcome)", failed: steps.all.failed }
            """,
            "chain: child1\nsteps: { quick: { kind: count } }",
            "chain: child2\nsteps: { slow: { kind: count } }"
        );
        var run = await StartAsync();
        await UntilAsync(async () => await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("any")!.IsSettled));
        Assert.Equal("running", await WordAsync(run));
        _house.Count.Release();
        await _house.EndAsync(run);
        Assert.Equal(
            """{"first": "child1", "both": ["succeeded", "succeeded"], "failed": 0}""",
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString())
        );
    }

    [Fact]
    public async Task AWaitForARunThatIsNotThereFails()
    {
        await _house.PushAsync("chain: t\nsteps: { w: { kind: wait, set: { runs: [77] } } }");
        Assert.Equal("failed: w failed", await _house.EndAsync(await StartAsync()));
    }

    [Fact]
    public async Task AFailedRunResumesByItself()
    {
        await _house.Engine.StartAsync();
        _house.Count.Failing["a"] = true;
        await _house.PushAsync("chain: t\nrecover: { attempts: 500, wait: 1h }\nsteps: { a: { kind: count } }");
        var run = await StartAsync();
        await UntilAsync(async () =>
        {
            await _house.TurnAsync();
            return await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Leg) >= 2;
        });
        await _house.EndEngineAsync();
        _house.Count.Failing.Clear();
        _house.Start();
        await _house.Engine.StartAsync();
        Assert.StartsWith("succeeded", await _house.TurnToEndAsync(run), StringComparison.Ordinal);
        Assert.All(await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Resumes.ToList()), r =>
            Assert.True(r.Automatic)
        );
    }

    [Fact]
    public async Task AutomaticResumesCanBeCalledOff()
    {
        _house.Count.Failing["a"] = true;
        await _house.PushAsync("chain: t\nrecover: { attempts: 5, wait: 1h }\nsteps: { a: { kind: count } }");
        var run = await StartAsync();
        await _house.EndAsync(run);
        Assert.NotNull((await _house.Store.Runs.FindAsync(run))!.ResumeAt);
        await _house.Engine.Commands.StopAsync(run, Ann, null);
        Assert.Null((await _house.Store.Runs.FindAsync(run))!.ResumeAt);
        Assert.Equal(("failed", null), await _house.Engine.Reader.ReadAsync(run, (s, _) => (s.Word, s.ResumeAt)));
    }

    [Fact]
    public async Task ARestartIsANewRunAsTheOldOneWas()
    {
        await _house.PushAsync(
            "chain: t\nparams: { n: { type: int, default: 1 } }\nsteps: { a: { kind: count } }\noutputs: "
                + "{ n: params.n }"
        );
        var run = await _house.Engine.Starter.StartAsync(
            "t",
            new Dictionary<string, Value> { ["n"] = Value.Int(7) },
            null,
            Ann
        );
        await _house.EndAsync(run);
        await _house.PushAsync(
            "chain: t\nparams: { n: { type: int, default: 1 } }\nsteps: { b: { kind: count } }\noutputs: "
                + "{ n: params.n * 2 }"
        );
        var same = await _house.Engine.Starter.RestartAsync(run, latest: false, Bob);
        var latest = await _house.Engine.Starter.RestartAsync(run, latest: true, Bob);
        Assert.Equal("succeeded: a succeeded", await _house.EndAsync(same));
        Assert.Equal("succeeded: b succeeded", await _house.EndAsync(latest));
        Assert.Equal(
            (run, """{"n": 7}"""),
            await _house.Engine.Reader.ReadAsync(same, (s, _) => (s.RestartOf!.Value, s.Outputs.ToString()))
        );
    }

    [Fact]
    public async Task ARunThatIsLateSaysSoInItsHead()
    {
        await _house.PushAsync(
            "chain: t\ndueIn: 1h\nsteps: { w: { kind: wait, set: { for: 3h } } }\nhandlers: { late: "
                + "{ steps: { tell: { kind: count } } } }"
        );
        var run = await StartAsync();
        await _house.TurnToEndAsync(run);
        Assert.True((await _house.Store.Runs.FindAsync(run))!.Late);
        Assert.Equal(1, _house.Count.Effects["@late[1]/tell"]);
    }
}
