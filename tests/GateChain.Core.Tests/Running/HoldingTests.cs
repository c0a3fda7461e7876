using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>What a held step says it waits for: where it looks, and what its rules ask of what is seen there.</summary>
public sealed class HoldingTests
{
    static string WaitsFor(string rule, string settings, params (string Name, Value Value)[] seen)
    {
        var play = new Play(
            $"chain: t\nsteps:\n  a:\n    kind: work\n    guard:\n      probes: {{ clock: {{ kind: "
                + $"eye{settings} }} }}\n      rules: [ {{ when: \"{rule}\", verdict: "
                + $"proceed }} ]\n      otherwise: {{ verdict: hold, recheck: 1m, limit: 3, then: skip }}"
        ).Begin();
        play.Put(new ProbesTakenInput(play.Now, "a", 1, Value.Map(("clock", Value.Map(seen)))));
        return HoldDescription.WaitsFor(play.State.Find("a")!);
    }

    [Fact]
    public void TheValuesThatTheRulesAskForAreTold() =>
        Assert.Equal(
            "Europe/London (n 4)",
            WaitsFor(
                "probes.clock.n >= 6 || probes.clock.n == 0",
                ", at: Europe/London",
                ("ok", Value.True),
                ("error", Value.String("")),
                ("year", Value.Int(2026)),
                ("month", Value.Int(11)),
                ("n", Value.Int(4))
            )
        );

    [Fact]
    public void WhereTheRulesNameNothingTheFirstNumbersAreTold() =>
        Assert.Equal(
            "clock (n 9)",
            WaitsFor(
                "size(probes) > 3",
                "",
                ("ok", Value.True),
                ("size", Value.Int(77)),
                ("n", Value.Int(9)),
                ("word", Value.String("x"))
            )
        );

    [Fact]
    public void WhatCouldNotBeLookedAtSaysWhy() =>
        Assert.Equal(
            "here (no such table)",
            WaitsFor("size(probes) > 3", ", at: here", ("ok", Value.False), ("error", Value.String("no such table")))
        );
}
