using System.Text.Json;
using GateChain.EndToEnd.House;
using GateChain.StandIns;

namespace GateChain.EndToEnd.Kinds;

/// <summary>Kinds and connections, from the workspace to what other systems got.</summary>
public class KindTests
{
    static string InRepo(string path) => Path.Combine(Place.Root, path);

    [Fact]
    public async Task TheExamplesOfTheDocsRun()
    {
        await using var service = await Service.EmptyAsync();
        await using var world = await World.StartAsync();
        using var ssh = SshServer.Start();
        await Place.CopyDemoDataAsync(service.Work);
        var examples = InRepo("docs/kinds/examples");
        await service.ConnectAsync(examples, world, ssh);
        Directory.CreateDirectory("/tmp/gatechain-example");
        var outputs = new Dictionary<string, string>();
        foreach (
            var chain in Directory
                .EnumerateFiles(examples, "*.chain.yaml")
                .Select(f => Path.GetFileName(f)[..^".chain.yaml".Length])
                .Order(StringComparer.Ordinal)
        )
        {
            var run = await service.EndAsync((await service.Client.StartAsync(new(chain))).Id);
            Assert.True(
                run.State == "succeeded",
                $"{chain}: {run.Error}\n{string.Join("\n", run.Steps.Select(s => $"{s.Path} {s.State} {s.Message}"))}"
            );
            outputs[chain] = JsonSerializer.Serialize(run.Outputs);
        }
        Assert.Equal("""{"tankers":3}""", outputs["command"]);
        Assert.Equal("""{"rejected":74,"written":1191}""", outputs["load"]);
        Assert.Equal("""{"samples":47}""", outputs["http"]);
        Assert.Equal("""{"asked":3}""", outputs["control"]);
        Assert.Contains(world.Mails, m =>
            m.Text.Contains($"is through: {service.Address}runs/", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task TheLaboratorysResultsComeThoughItIsDownAndAJobIsLost()
    {
        await using var service = await Service.WithDemoAsync();
        await using var world = await World.StartAsync();
        await service.ConnectAsync(InRepo("demo/workspace"), world);
        world.Knobs.Set(new("lab", 2, null, JobMs: 500, null, LoseJobs: 1));
        var run = await service.EndAsync(
            (
                await service.Client.StartAsync(
                    new(
                        "lab-results",
                        new Dictionary<string, JsonElement>
                        {
                            ["day"] = JsonSerializer.SerializeToElement("2026-11-22"),
                        }
                    )
                )
            ).Id
        );
        Assert.Equal("succeeded", run.State);
        Assert.Equal(
            "47",
            service.Warehouse("SELECT count(*) FROM samples WHERE grade IN ('good', 'poor') AND day LIKE '2026-11-22%'")
        );
        var mail = Assert.Single(world.Mails).Text;
        Assert.Contains(
            $"47 samples, {service.Warehouse("SELECT count(*) FROM samples WHERE grade = 'poor'")} of them poor.",
            mail
        );
        Assert.Contains($"{service.Address}runs/{run.Id}", mail);
        Assert.Single(run.Steps, s => s is { Path: "model", State: "succeeded" });
        // The same day again: every row stands there already.
        var again = await service.EndAsync(
            (
                await service.Client.StartAsync(
                    new(
                        "lab-results",
                        new Dictionary<string, JsonElement>
                        {
                            ["day"] = JsonSerializer.SerializeToElement("2026-11-22"),
                        },
                        "dev"
                    )
                )
            ).Id
        );
        Assert.Equal("succeeded", again.State);
        Assert.Contains("dev@larkmoor.example", world.Mails[^1].To);
    }

    [Fact]
    public void TheDemoUsesEveryKind()
    {
        var text = string.Join(
            "\n",
            Directory.EnumerateFiles(InRepo("demo/workspace"), "*.chain.yaml").Select(File.ReadAllText)
        );
        Assert.All(
            new[]
            {
                "command",
                "sql",
                "load",
                "file",
                "transfer",
                "http",
                "remote",
                "notify",
                "assign",
                "decide",
                "wait",
                "call",
                "each",
                "repeat",
                "group",
                "stop",
            },
            k => Assert.Contains($"kind: {k}", text, StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task AKindOfOnesOwnIsMadeBuiltAndRun()
    {
        using var folder = new TempFolder();
        async Task OutAsync(string program, params string[] arguments)
        {
            var (exit, output, error) = await Place.RunAsync(
                program,
                folder.Path,
                new Dictionary<string, string> { ["CI"] = "" },
                arguments
            );
            Assert.True(exit == 0, $"{program} {string.Join(' ', arguments)}: {output} {error}");
        }
        await OutAsync(Place.Program, "new-kind", "weigh-tankers");
        await OutAsync(
            "dotnet",
            "build",
            "weigh-tankers",
            "-o",
            "plugins/weigh-tankers",
            "-v",
            "quiet",
            "-warnaserror"
        );
        await OutAsync(Place.Program, "new-kind", "weigh", "--program");
        Directory.Move(folder["weigh"], folder["plugins/weigh"]);
        // Whatever language the machine has: this one is in a shell's.
        File.WriteAllText(folder["plugins/weigh/weigh.sh"], "cat > /dev/null; echo '{\"kilograms\": 7}'");
        File.WriteAllText(
            folder["plugins/weigh/kind.yaml"],
            File.ReadAllText(folder["plugins/weigh/kind.yaml"])
                .Replace("[python3, weigh.py]", "[sh, weigh.sh]", StringComparison.Ordinal)
        );
        await OutAsync(Place.Program, "kinds", "weigh-tankers", "--plugins", "plugins");
        await using var service = await Service.EmptyAsync("--plugins", folder["plugins"]);
        await service.PushAsync(
            "chain: t\nsteps:\n  a: { kind: weigh-tankers, set: { litres: [100, 200], density: "
                + "2 } }\n  b: { kind: weigh, set: { litres: [1] } }\ngates: [ { from: a, to: b } ]\noutputs: "
                + "{ kilograms: steps.a.kilograms + steps.b.kilograms }"
        );
        var run = await service.EndAsync((await service.Client.StartAsync(new("t"))).Id);
        Assert.True(run.State == "succeeded", run.Error);
        Assert.Equal("607", run.Outputs.GetProperty("kilograms").ToString());
        // A service without it neither runs the chain with a step less, nor tells half of the run.
        await service.TerminateAsync();
        service.Options = [];
        await service.StartAsync();
        foreach (
            var command in (string[][])
                [
                    ["run", "t"],
                    ["show", "1"],
                    ["resume", "1"],
                ]
        )
        {
            var (exit, output, error) = await service.CliAsync(command);
            Assert.Equal((4, ""), (exit, output));
            Assert.Contains(
                "“t” can't be run, nor its runs be read: there is no kind “weigh-tankers”. "
                    + "Start the service with the plug-in that has it",
                error,
                StringComparison.Ordinal
            );
        }
        Assert.Single(await service.Client.ChainsAsync());
        // Checks know it too, and without it the chain can't be read.
        File.WriteAllText(
            folder["x.chain.yaml"],
            "chain: x\nsteps:\n  a: { kind: weigh-tankers, set: { liters: [1] } }\n"
        );
        Assert.Contains(
            "did you mean “litres”?",
            (
                await Place.RunAsync(Place.Program, folder.Path, null, "check", "x.chain.yaml", "--plugins", "plugins")
            ).Out
        );
        Assert.Contains(
            "there is no kind “weigh-tankers”",
            (await Place.RunAsync(Place.Program, folder.Path, null, "check", "x.chain.yaml")).Out
        );
    }
}
