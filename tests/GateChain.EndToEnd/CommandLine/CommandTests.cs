using System.Text.Json;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

public sealed class CommandTests : IAsyncLifetime
{
    Service _service = null!;

    public async ValueTask InitializeAsync() => _service = await Service.WithDemoAsync();

    public ValueTask DisposeAsync() => _service.DisposeAsync();

    [Fact]
    public async Task TheWholeStory()
    {
        var (exit, output, _) = await _service.CliAsync("run", "milk-intake", "--param", "day=2026-11-22", "--follow");
        Assert.Equal(1, exit);
        Assert.Contains("✕ failed    depots[2]/load", output);
        Assert.Contains(
            "run 1 failed: depots[2]/load (“west”): 74 of 1,265 lines were rejected; the limit is 50\n",
            output
        );
        Assert.Contains(
            "\n  log:    gatechain log 1 'depots[2]/load'\n  why:    gatechain why 1 'depots[2]/load'\n",
            output
        );
        Assert.Contains("✕ failed    depots after", output);
        Assert.Contains(
            ": iteration 3 of 3 (“west”) failed, and none may; 2 succeeded: depots[2]/load (“west”): ",
            output
        );
        // Of what ends at once the inner one is told first.
        Assert.True(
            output.IndexOf("failed    depots[2]/load ", StringComparison.Ordinal)
                < output.IndexOf("failed    depots ", StringComparison.Ordinal)
        );
        Assert.Contains("resume: gatechain resume 1 --follow", output);
        Assert.DoesNotContain("\u001b[", output);

        (exit, output, _) = await _service.CliAsync("why", "1", "price");
        Assert.Equal(0, exit);
        Assert.Contains("size(steps.depots.collected)  →  2", output);
        (_, output, _) = await _service.CliAsync("why", "1", "depots[2]/archive");
        Assert.Contains("It was skipped: “load” failed, and the gate asks for success: shut.", output);
        (_, output, _) = await _service.CliAsync("log", "1", "depots[0]/quality");
        Assert.Contains("above 6 degrees", output);
        (_, output, _) = await _service.CliAsync("show", "1");
        Assert.Contains("[2] west", output);
        (_, output, _) = await _service.CliAsync("runs");
        Assert.Contains("✕ failed", output);

        var effects = File.ReadAllText(Path.Combine(_service.Work, "office/inbox.txt"));
        (exit, output, _) = await _service.CliAsync("resume", "1", "--set", "max_bad=100", "--follow");
        Assert.Equal(0, exit);
        Assert.Contains(
            "continues inside: depots\nrepeated: depots[2]/load, depots[2]/archive, price, total, "
                + "tell_office, report\neverything else is kept\n",
            output
        );
        Assert.Contains("run 1 succeeded in leg 2", output);
        Assert.Contains("litres = 22678023.1", output);
        Assert.DoesNotContain("depots[0]", output);
        Assert.Equal(effects, File.ReadAllText(Path.Combine(_service.Work, "office/inbox.txt")));
        Assert.Equal(
            "4509|4509",
            _service.Warehouse("SELECT count(*) || '|' || count(DISTINCT pickup_id) FROM pickups")
        );

        (exit, _, var error) = await _service.CliAsync("resume", "1");
        Assert.Equal(
            (
                4,
                "run 1 can't be resumed: the run succeeded; there is nothing to resume\n"
                    + "How it stands: gatechain show 1\n"
            ),
            (exit, error)
        );
        (_, output, _) = await _service.CliAsync("show", "1", "--leg", "1");
        Assert.Contains("run 1 failed", output);
    }

    [Fact]
    public async Task JsonIsJsonEverywhere()
    {
        await _service.CliAsync("run", "warehouse-check", "--follow");
        string[][] commands =
        [
            ["check", Path.Combine(Place.Root, "demo/workspace")],
            ["push", Path.Combine(Place.Root, "demo/workspace")],
            ["run", "warehouse-check"],
            ["run", "warehouse-check", "--follow"],
            ["runs"],
            ["show", "1"],
            ["why", "1", "count"],
            ["log", "1", "count"],
            ["resume", "1"],
            ["stop", "1"],
            ["runs", "--state", "failed"],
        ];
        foreach (var command in commands)
        {
            var (_, output, _) = await _service.CliAsync([.. command, "--json"]);
            JsonDocument.Parse(output).Dispose();
        }
    }

    static readonly (int Exit, string Message, string[] Command)[] Refusals =
    [
        (2, "there is no parameter “dya”", ["run", "milk-intake", "--param", "dya=2026-11-22"]),
        (
            2,
            "“day”: expected a timestamp such as 2026-11-22 or 2026-11-22T05:00:00Z, and this is “soon”",
            ["run", "milk-intake", "-p", "day=soon"]
        ),
        (2, "“day” is not written name=value", ["run", "milk-intake", "-p", "day"]),
        (4, "there is no chain “milk-intaek”; did you mean “milk-intake”?", ["run", "milk-intaek"]),
        (4, "there is no run 99", ["show", "99"]),
        (4, "there is no run 99", ["stop", "99"]),
        (2, "which chain? its name is missing", ["run"]),
        (2, "there is no command “dance”\n", ["dance"]),
        (2, "there is no command “shwo”; did you mean “show”?\nHelp: gatechain --help", ["shwo", "1"]),
        (2, "the folder nowhere is not there", ["push", "nowhere"]),
        (2, "nowhere.chain.yaml is not there", ["check", "nowhere.chain.yaml"]),
        (5, "no service answers at http://127.0.0.1:9/", ["runs", "--service", "http://127.0.0.1:9"]),
    ];

    [Fact]
    public Task RefusalsAreSentencesWithAnExitCode() =>
        Cases.AllAsync(Refusals, c => RefusalsAreSentencesWithAnExitCodeOneAsync(c.Exit, c.Message, c.Command));

    async Task RefusalsAreSentencesWithAnExitCodeOneAsync(int exit, string message, string[] command)
    {
        var (code, output, error) = await _service.CliAsync(command);
        Assert.Equal("", output);
        Assert.StartsWith(message, error);
        Assert.DoesNotContain("   at ", error);
        Assert.Equal(exit, code);
    }

    [Fact]
    public async Task ProblemsAreToldAsFileLineColumn()
    {
        var broken = Path.Combine(_service.Work, "broken.chain.yaml");
        File.WriteAllText(
            broken,
            "chain: broken\nsteps:\n  a: { kind: wrok }\n  b: { kind: wait, set: { for: "
                + "5s } }\ngates:\n  - { from: b, to: c, when: 1 + 'x' }\n"
        );
        var (exit, output, _) = await _service.CliAsync("check", "broken.chain.yaml");
        Assert.Equal(2, exit);
        Assert.Equal(
            [
                "broken.chain.yaml:3:14: error GC1101: there is no kind “wrok” (kinds: assign, decide, "
                    + "wait, group, each, repeat, call, stop, check, command, file, http, load, notify, remote, sql, "
                    + "transfer)",
                "broken.chain.yaml:6:20: error GC1102: a gate leads to “c”, "
                    + "and there is no such step in this scope (did you mean “b”?)",
                "examples and fixes: docs/problems.md#gc1101 #gc1102",
                "1 chain checked: 2 errors",
            ],
            output.TrimEnd().Split('\n')
        );
        (exit, _, var error) = await _service.CliAsync("push", ".");
        Assert.Equal(2, exit);
        Assert.Contains("broken.chain.yaml:3:14: error GC1101", error);
        Assert.EndsWith("the workspace has 2 errors; nothing was stored\n", error);
    }

    [Fact]
    public async Task StopIsToldByItsOwnExitCode()
    {
        await _service.PushAsync("chain: slow\nsteps:\n  a: { kind: command, set: { run: [sleep, '60'] } }\n");
        var following = _service.CliAsync("run", "slow", "--follow");
        while ((await _service.Client.RunsAsync(chain: "slow", state: "running")).Count == 0)
            await Task.Delay(50);
        await Task.Delay(200);
        Assert.Equal(0, (await _service.CliAsync("stop", "1", "--message", "enough for today")).Exit);
        var (exit, output, _) = await following;
        Assert.Equal(3, exit);
        Assert.Contains("run 1 stopped: enough for today", output);
    }

    [Fact]
    public async Task HelpTellsCommandsAndExitCodes()
    {
        var (exit, output, _) = await _service.CliAsync("--help");
        Assert.Equal(0, exit);
        foreach (
            var word in (string[])
                [
                    "serve",
                    "check",
                    "push",
                    "run",
                    "runs",
                    "show",
                    "why",
                    "log",
                    "resume",
                    "stop",
                    "1 the run failed",
                    "2 wrong usage",
                    "\nDecide\n  resume RUN",
                    "  kinds [KIND]",
                ]
        )
        {
            Assert.Contains(word, output);
        }
    }

    [Fact]
    public async Task OneServiceAtATimeWorksOnADataFolder()
    {
        var (exit, _, error) = await _service.CliAsync(
            "serve",
            "--listen",
            "http://127.0.0.1:0",
            "--data",
            _service.Data
        );
        Assert.Equal((5, $"another service is working on the data folder {_service.Data}\n"), (exit, error));
        (exit, _, error) = await _service.CliAsync("serve", "--listen", "http://0.0.0.0:0", "--data", "other");
        Assert.Equal(2, exit);
        Assert.Contains("passwords would cross the network in the clear", error);
    }
}
