using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Tests.Triggers;
using GateChain.Storage;

namespace GateChain.Engine.Tests;

/// <summary>Chains that are taken out of use, and brought back, on a real engine.</summary>
public class RetirementTests
{
    const string Chains =
        "chain: t\nsteps: { a: { kind: count } }\n---\n" + "chain: caller\nsteps: { c: { kind: call, chain: t } }";

    const string Triggers = """
        nightly: { chain: t, schedule: { every: day, at: "02:30", zone: UTC } }
        """;

    static readonly Dictionary<string, Value> Nothing = [];

    static Task<long> StartAsync(House house, string chain) =>
        house.Engine.Starter.StartAsync(chain, Nothing, null, Ann);

    [Fact]
    public async Task NothingStartsARetiredChainWhoeverAsks()
    {
        await using var at = await TriggerHouse.OpenAsync(Triggers, Chains, "2026-11-29T00:00:00Z");
        var house = at.House;
        var run = await StartAsync(house, "t");
        await house.EndAsync(run);
        var retired = await house.Engine.Retirement.RetireAsync("t", " merged into\nintake \u001b", Ann);
        Assert.Equal(("ann", "merged into intake"), (retired.By, retired.Why));
        const string refusal = "“t” was retired by ann: merged into intake; nothing starts it until it is brought back";
        foreach (
            var start in (Func<Task<long>>[])
                [
                    () => StartAsync(house, "t"),
                    () => house.Engine.Starter.RestartAsync(run, latest: false, Ann),
                    () => house.Engine.Starter.RestartAsync(run, latest: true, Ann),
                ]
        )
        {
            var refused = await Assert.ThrowsAsync<RefusedException>(start);
            Assert.Equal((RefusalKind.Conflict, refusal), (refused.Kind, refused.Message));
        }
        // A call fails as one of a chain that is not there, and its run can be resumed.
        var caller = await StartAsync(house, "caller");
        Assert.Equal("failed: c failed", await house.EndAsync(caller));
        await at.TurnToAsync("2026-11-29T03:00:00Z");
        var fires = await at.WaitForAsync(1, "nightly");
        Assert.Contains($"Refused: {refusal}", Assert.Single(fires), StringComparison.Ordinal);
        Assert.Equal(
            ["“t” is retired: fires of this trigger are refused"],
            Assert.Single(await at.Engine.TriggerService.ListAsync()).Troubles
        );
        var problems = (await house.Engine.Drafts.CheckAsync("caller", Chains.Split("---\n")[1])).Problems;
        Assert.Equal("“t” is retired: the call fails", Assert.Single(problems).Message.ToString());

        await house.Engine.Retirement.BringBackAsync("t", Bob);
        await house.Engine.Commands.ResumeAsync(caller, Bob, new ResumeOptions());
        Assert.Equal("succeeded: c succeeded", await house.EndAsync(caller));
        Assert.Empty(Assert.Single(await at.Engine.TriggerService.ListAsync()).Troubles);
        Assert.Empty((await house.Engine.Drafts.CheckAsync("caller", Chains.Split("---\n")[1])).Problems);
        Assert.Equal(
            ["bob: bring back chain t", "ann: retire chain t merged into intake"],
            (await house.Store.Audit.ListAsync())
                .Select(e => e.Line)
                .Where(l => l.Action is "retire" or "bring back")
                .Select(l => $"{l.By.Name}: {l.Action} {l.Object} {l.Detail}".Trim())
        );
    }

    [Fact]
    public async Task WhatHasBegunContinuesAndADraftCanStillBeTried()
    {
        await using var house = new House();
        house.Count.Failing["a"] = true;
        await house.PushAsync(Chains.Split("---\n"));
        var run = await StartAsync(house, "t");
        await house.EndAsync(run);
        await house.Engine.Retirement.RetireAsync("t", null, Ann);
        // It is on disk.
        await house.EndEngineAsync();
        house.Start();
        var refused = await Assert.ThrowsAsync<RefusedException>(() => StartAsync(house, "t"));
        Assert.Equal("“t” was retired by ann; nothing starts it until it is brought back", refused.Message);
        house.Count.Failing.Clear();
        await house.Engine.Commands.ResumeAsync(run, Bob, new ResumeOptions());
        Assert.Equal("succeeded: a succeeded", await house.EndAsync(run));
        var tried = await house.Engine.Starter.TryAsync(
            "t",
            new("chain: t\nsteps: { b: { kind: count } }", Nothing, null, TryPart.Whole, null, null, Nothing, []),
            Ann
        );
        Assert.Equal("succeeded: b succeeded", await house.EndAsync(tried));
        // A push of the same workspace, and a changed one, leave it retired.
        await house.PushAsync("chain: t\nsteps: { b: { kind: count } }");
        await Assert.ThrowsAsync<RefusedException>(() => StartAsync(house, "t"));
    }

    [Fact]
    public async Task WhatCanNotBeRetiredOrBroughtBackIsSaid()
    {
        await using var house = new House();
        await house.PushAsync(Chains.Split("---\n"));
        var retirement = house.Engine.Retirement;
        async Task RefusedAsync(RefusalKind kind, string sentence, Func<Task> ask)
        {
            var refused = await Assert.ThrowsAsync<RefusedException>(ask);
            Assert.Equal((kind, sentence), (refused.Kind, refused.Message));
        }
        await RefusedAsync(RefusalKind.Conflict, "“t” is not retired", () => retirement.BringBackAsync("t", Ann));
        await RefusedAsync(RefusalKind.NotFound, "there is no chain “callr”; did you mean “caller”?", () =>
            retirement.RetireAsync("callr", null, Ann)
        );
        await RefusedAsync(RefusalKind.Invalid, "a reason has at most 1,000 characters", () =>
            retirement.RetireAsync("t", new string('x', 1001), Ann)
        );
        await retirement.RetireAsync("t", "", Ann);
        await RefusedAsync(
            RefusalKind.Conflict,
            "“t” was retired by ann; nothing starts it until it is brought back",
            () => retirement.RetireAsync("t", null, Bob)
        );
        // A push that brings a caller is told.
        var pushed = await house.Engine.Workspace.ReadAsync(
            new Dictionary<string, byte[]>
            {
                ["t.chain.yaml"] = "chain: t\nsteps: { a: { kind: count } }"u8.ToArray(),
                ["u.chain.yaml"] = "chain: u\nsteps: { c: { kind: call, chain: t } }"u8.ToArray(),
            }
        );
        Assert.Equal("“t” is retired: the call fails", Assert.Single(pushed.Problems).Message.ToString());
        Assert.False(pushed.HasErrors);
    }
}
