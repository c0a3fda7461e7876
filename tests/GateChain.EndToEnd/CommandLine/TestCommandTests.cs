using System.Text.Json;
using System.Xml.Linq;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary><c>gatechain test</c>: offline, on the demo and on files that are wrong.</summary>
public sealed class TestCommandTests
{
    static readonly string Demo = Path.Combine(Place.Root, "demo/workspace");

    static Task<(int Exit, string Out, string Err)> TestAsync(string folder, params string[] arguments) =>
        Place.RunAsync(Place.Program, folder, null, ["test", .. arguments]);

    [Fact]
    public async Task TheTestsOfTheDemoPass()
    {
        using var folder = new TempFolder();
        var report = folder["report.xml"];
        var (exit, output, error) = await TestAsync(Demo, "--json", "--junit", report);
        Assert.True(exit == 0, output + error);
        var files = JsonDocument.Parse(output).RootElement.EnumerateArray().ToList();
        var cases = files.Sum(f => f.GetProperty("cases").GetArrayLength());
        // Each chain of the demo has some.
        Assert.Equal(Directory.GetFiles(Demo, "*.chain.yaml").Length, files.Count);
        var suites = XDocument.Load(report).Root!;
        Assert.Equal((cases, 0), ((int)suites.Attribute("tests")!, (int)suites.Attribute("failures")!));
        Assert.Equal(cases, suites.Descendants("testcase").Count());
    }

    [Fact]
    public async Task WhatIsWrongIsToldWithItsPlace()
    {
        using var folder = new TempFolder();
        await File.WriteAllTextAsync(
            folder["t.chain.yaml"],
            "chain: t\nsteps:\n  a: { kind: command, set: { run: [x] } }\n  b: { kind: command, set: { run: [y] } }\n"
                + "gates: [ { from: a, to: b } ]"
        );
        const string tests =
            "tests: t\nfloor: 60\ncases:\n  it fails & says so:\n    steps: { a: { fails: exit-code } }\n";
        await File.WriteAllTextAsync(folder["t.test.yaml"], tests + "    expect: { steps: { b: succeeded } }\n");
        var (exit, output, _) = await TestAsync(folder[""], "--junit", "r.xml");
        Assert.Equal(1, exit);
        Assert.Contains("t.test.yaml:6:27: “b” is expected succeeded, and it is skipped", output);
        Assert.Contains("1 of 2 ways through its gates gone, 50 %; the floor is 60 %", output);
        Assert.Contains("never open: a → b", output);
        Assert.Contains("1 case: 0 passed, 1 failed", output);
        var report = XDocument.Load(folder["r.xml"]);
        Assert.Equal("it fails & says so", (string?)report.Descendants("testcase").First().Attribute("name"));
        Assert.Equal(2, report.Descendants("failure").Count());

        await File.WriteAllTextAsync(folder["t.test.yaml"], tests + "    expect: { steps: { c: failed } }\n");
        (exit, output, _) = await TestAsync(folder[""]);
        Assert.Equal(2, exit);
        Assert.Contains("t.test.yaml:6:24: error GC1801: there is no step “c”", output);
        (exit, output, _) = await TestAsync(folder[""], "--only", "nothing like it");
        Assert.Equal(2, exit);
        var (usage, _, why) = await TestAsync(folder[""], "t.chain.yaml");
        Assert.Equal(2, usage);
        Assert.Contains("they end in .test.yaml", why);
        File.Delete(folder["t.test.yaml"]);
        (exit, output, _) = await TestAsync(folder[""]);
        Assert.Equal(0, exit);
        Assert.Contains("there are no tests", output);
    }

    const string Night =
        "chain: night\nparams: { n: { type: int } }\nsteps:\n"
        + "  load: { kind: command, set: { run: [sh, -c, 'exit $0', \"${params.n}\"] } }\n"
        + "  tell: { kind: command, set: { run: [echo, told] } }\n"
        + "gates: [ { from: load, to: tell, on: failure } ]";

    // A change is held against the nights that were: those that would have gone another way are told, with where.
    [Fact]
    public async Task PastRunsArePlayedAgainUnderAChange()
    {
        await using var service = await Service.EmptyAsync();
        await service.PushAsync(Night);
        foreach (var n in (int[])[0, 1, 0])
        {
            var given = new Dictionary<string, JsonElement> { ["n"] = JsonSerializer.SerializeToElement(n) };
            await service.EndAsync((await service.Client.StartAsync(new("night", given))).Id);
        }
        var (exit, told, error) = await service.CliAsync("replay", "night", "--release", "1");
        Assert.True(exit == 0, told + error);
        Assert.Contains("3 of 3 runs would have gone the same way", told);
        var changed = Path.Combine(service.Work, "changed.chain.yaml");
        await File.WriteAllTextAsync(changed, Night.Replace("on: failure", "on: always", StringComparison.Ordinal));
        (exit, told, _) = await service.CliAsync("replay", "night", "--file", changed);
        Assert.Equal(1, exit);
        Assert.Contains("1 of 3 runs would have gone the same way", told);
        Assert.Contains("gate load → tell: shut → open", told);
        Assert.Contains("step tell: skipped → succeeded", told);
        Assert.Contains("“tell” did not run then", told);
        // And one of them is gone through, decision by decision.
        var (_, moments, _) = await service.CliAsync("moments", "1");
        Assert.Contains("load  begins", moments);
        Assert.Contains("load → tell  stays shut", moments);
        var (_, then, _) = await service.CliAsync("show", "1", "--moment", "1");
        Assert.Contains("running", then);
        Assert.Equal(4, (await service.CliAsync("show", "1", "--moment", "0")).Exit);
        (exit, told, _) = await service.CliAsync("replay", "night", "--file", changed, "--last", "1");
        Assert.Contains("0 of 1 run would", told);
        await File.WriteAllTextAsync(changed, Night.Replace("to: tell", "to: nobody", StringComparison.Ordinal));
        (exit, _, error) = await service.CliAsync("replay", "night", "--file", changed);
        Assert.NotEqual(0, exit);
        Assert.Contains("nobody", error);
        Assert.Equal(3, (await service.Client.RunsAsync()).Count);
    }
}
