using System.Text.Json;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>Rehearsals as people meet them: by command line without a service, and by the API.</summary>
public sealed class RehearseCommandTests : IDisposable
{
    readonly TempFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    static string Demo(string chain) => Path.Combine(Place.Root, $"demo/workspace/{chain}.chain.yaml");

    Task<(int Exit, string Out, string Err)> CliAsync(params string[] arguments) =>
        Place.RunAsync(Place.Program, _folder.Path, null, arguments);

    [Fact]
    public async Task ShowsWhichWayTheDemoGoes()
    {
        var (exit, output, _) = await CliAsync(
            "rehearse",
            Demo("milk-intake"),
            "-p",
            "day=2026-11-22",
            "--fail",
            "depots[1]/load",
            "--give",
            "depots[0]/load.rows_rejected=12"
        );
        Assert.Equal(0, exit);
        Assert.Contains(
            "✕ failed  nothing was done, outcomes are made up",
            output
                .ReplaceLineEndings(" ")
                .Replace("  ", " ", StringComparison.Ordinal)
                .Replace("✕ failed nothing", "✕ failed  nothing", StringComparison.Ordinal)
        );
        Assert.Contains("made to fail by the rehearsal", output);
        Assert.Contains("depots[1]/load → archive     ┃ stays shut (on success)", output);
        Assert.Contains("\"rows_rejected\": 12", output);

        (exit, output, _) = await CliAsync(
            "rehearse",
            Demo("quality-week"),
            "-p",
            "day=2026-11-22",
            "--give",
            "depots/samples/submit.value={\"job\": \"j1\"}",
            "--give",
            "depots/samples/until_ready/ask.value={\"state\": \"ready\"}",
            "--json"
        );
        Assert.Equal(0, exit);
        using var json = JsonDocument.Parse(output);
        Assert.Contains(
            "depots[0]/samples/until_ready[1]/ask",
            json.RootElement.GetProperty("trace").EnumerateArray().Select(l => l.GetProperty("path").GetString())
        );
        Assert.Equal(3, json.RootElement.GetProperty("children").GetArrayLength());

        (_, output, _) = await CliAsync(
            "rehearse",
            Demo("milk-intake"),
            "-p",
            "day=2026-11-22",
            "--all",
            "--most",
            "3"
        );
        Assert.Contains("3 ways through it, and there are more", output.ReplaceLineEndings(" "));
        Assert.Contains("prepare fails", output);
    }

    [Theory]
    [InlineData("the parameter “day” (timestamp, Day of collection) is missing")]
    [InlineData("there is no step “lod”", "--fail", "lod", "-p", "day=2026-11-22")]
    [InlineData(
        "there is no step “depots/lod”; did you mean “depots/load”?",
        "--fail",
        "depots/lod",
        "-p",
        "day=2026-11-22"
    )]
    [InlineData(
        "“depots” is a step of kind each: it fails by itself or when something inside fails",
        "--fail",
        "depots",
        "-p",
        "day=2026-11-22"
    )]
    [InlineData(
        "“depots/load:x”: after the colon comes how many attempts fail, for example depots/load:2",
        "--fail",
        "depots/load:x",
        "-p",
        "day=2026-11-22"
    )]
    [InlineData(
        "“depots/load” gives no “rows_rejectd”; did you mean “rows_rejected”?",
        "--give",
        "depots/load.rows_rejectd=3",
        "-p",
        "day=2026-11-22"
    )]
    [InlineData(
        "“depots/load.rows_rejected”: expected an int, and this is “many”",
        "--give",
        "depots/load.rows_rejected=many",
        "-p",
        "day=2026-11-22"
    )]
    [InlineData(
        "“load” is written STEP.output, or STEP.probes.NAME.field for what a guard sees",
        "--give",
        "load=3",
        "-p",
        "day=2026-11-22"
    )]
    [InlineData("there is no parameter or variable “nothing”", "--set", "nothing=1", "-p", "day=2026-11-22")]
    [InlineData("ways is 0 to 200", "--all", "--most", "1000", "-p", "day=2026-11-22")]
    public async Task WhatCantBeRehearsedIsToldInASentence(string sentence, params string[] arguments)
    {
        var (exit, _, error) = await CliAsync(["rehearse", Demo("milk-intake"), .. arguments]);
        Assert.Equal((2, sentence + "\n"), (exit, error));
    }

    [Fact]
    public async Task NothingOfItIsDone()
    {
        File.WriteAllText(
            _folder["t.chain.yaml"],
            $"chain: t\nsteps:\n  touch: {{ kind: command, set: {{ run: [touch, "
                + $"'{_folder["touched"]}'] }} }}\n  move: {{ kind: file, set: {{ action: delete, path: "
                + $"'{_folder["t.chain.yaml"]}' }} }}\n"
        );
        var (exit, output, _) = await CliAsync("rehearse", _folder["t.chain.yaml"]);
        Assert.Equal(0, exit);
        Assert.Contains("✓ succeeded", output);
        Assert.Equal(["t.chain.yaml"], Directory.EnumerateFileSystemEntries(_folder.Path).Select(Path.GetFileName));
        File.WriteAllText(_folder["bad.chain.yaml"], "chain: bad\nsteps: { a: { kind: laod } }");
        (exit, _, var error) = await CliAsync("rehearse", _folder["bad.chain.yaml"]);
        Assert.Equal(2, exit);
        Assert.Contains("has errors; gatechain check", error);
    }

    // Whatever method runs is compiled first, and the runtime can list what it compiles, as long as it takes nothing
    // that was compiled before.
    [Fact]
    public async Task NoKindIsEvenConstructed()
    {
        var list = _folder["compiled.txt"];
        var environment = new Dictionary<string, string>
        {
            ["DOTNET_JitStdOutFile"] = list,
            ["DOTNET_JitDisasmSummary"] = "1",
            ["DOTNET_ReadyToRun"] = "0",
        };
        var (exit, _, _) = await Place.RunAsync(
            Place.Program,
            _folder.Path,
            environment,
            "rehearse",
            Demo("night-close"),
            "-p",
            "day=2026-11-22",
            "--all"
        );
        Assert.Equal(0, exit);
        var compiled = File.ReadAllText(list);
        Assert.Contains("GateChain.Kinds.KindDescriptions:.cctor", compiled);
        Assert.Contains("GateChain.Core.Rehearsing.Rehearsal:Play", compiled);
        Assert.DoesNotMatch(@"GateChain\.Kinds\.\w+\.\w+(Kind|Probe):(\.ctor|RunAsync|LookAsync)", compiled);
        Assert.DoesNotContain("GateChain.Kinds.AllKinds", compiled);
    }

    [Fact]
    public async Task TheServiceRehearsesWhatWasPushed()
    {
        await using var service = await Service.WithDemoAsync();
        var day = new Dictionary<string, JsonElement> { ["day"] = JsonSerializer.SerializeToElement("2026-11-22") };
        var result = await service.Client.RehearseAsync("night-close", new(day, Fail: ["closing_list"], Ways: 10));
        Assert.Equal(("failed", false), (result.Run.State, result.Cut));
        Assert.NotEmpty(result.Ways);
        Assert.Empty(await service.Client.RunsAsync());
        Assert.Equal(
            404,
            (await Assert.ThrowsAsync<GateChainException>(() => service.Client.RehearseAsync("nothing", new()))).Status
        );
        Assert.Equal(
            422,
            (
                await Assert.ThrowsAsync<GateChainException>(() => service.Client.RehearseAsync("night-close", new()))
            ).Status
        );
    }

    [Fact]
    public async Task ChecksAreWrittenAsSarif()
    {
        File.WriteAllText(
            _folder["t.chain.yaml"],
            "chain: t\nsteps:\n  a: { kind: laod }\n  b: { kind: command, disabled: true, set: { run: "
                + "[a] } }\n  c: { kind: command, set: { run: [a] } }\ngates: [ { from: b, to: c, on: "
                + "failure } ]"
        );
        var (exit, output, _) = await CliAsync("check", _folder["t.chain.yaml"], "--sarif");
        Assert.Equal(2, exit);
        using var json = JsonDocument.Parse(output);
        var run = json.RootElement.GetProperty("runs")[0];
        Assert.Equal("2.1.0", json.RootElement.GetProperty("version").GetString());
        var rules = run.GetProperty("tool").GetProperty("driver").GetProperty("rules");
        foreach (var found in run.GetProperty("results").EnumerateArray())
        {
            Assert.Equal(
                found.GetProperty("ruleId").GetString(),
                rules[found.GetProperty("ruleIndex").GetInt32()].GetProperty("id").GetString()
            );
        }

        Assert.Equal(
            ["error", "note", "warning", "warning"],
            run.GetProperty("results").EnumerateArray().Select(r => r.GetProperty("level").GetString())
        );
        var region = run.GetProperty("results")[0]
            .GetProperty("locations")[0]
            .GetProperty("physicalLocation")
            .GetProperty("region");
        Assert.Equal(
            (3, 14),
            (region.GetProperty("startLine").GetInt32(), region.GetProperty("startColumn").GetInt32())
        );
    }
}
