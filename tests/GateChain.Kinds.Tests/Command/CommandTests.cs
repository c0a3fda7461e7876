using System.Diagnostics;
using GateChain.Core.Values;
using GateChain.Kinds.Command;

namespace GateChain.Kinds.Tests.Command;

public sealed class CommandTests : IDisposable
{
    readonly Bench _bench = new();
    readonly CommandKind _kind = new();

    public void Dispose() => _bench.Dispose();

    [Theory]
    [InlineData("""{"run": ["printf", "a b\\n"]}""", "\"a b\"")]
    [InlineData("""{"run": ["printf", "%s", "$HOME; echo x"]}""", "\"$HOME; echo x\"")]
    [InlineData("""{"shell": "echo $GREETING | tr a-z A-Z", "env": {"GREETING": "moo"}}""", "\"MOO\"")]
    [InlineData("""{"shell": "printf 'a\nb\n'", "output": "lines"}""", "[\"a\", \"b\"]")]
    [InlineData("""{"shell": "echo '{\"n\": 1.5}'", "output": "json"}""", "{\"n\": 1.5}")]
    [InlineData("""{"run": ["cat"], "input": "from outside"}""", "\"from outside\"")]
    [InlineData("""{"run": ["pwd"], "folder": "inner"}""", "inner")]
    [InlineData("""{"run": ["echo", "x"], "output": "none"}""", "null")]
    public async Task TakesTheOutput(string settings, string expected)
    {
        Directory.CreateDirectory(_bench["inner"]);
        var result = await _bench.RunAsync(_kind, settings);
        Assert.Null(result.Error);
        Assert.Contains(expected, result.Outputs.AsMap.Find("value").ToString());
    }

    [Theory]
    [InlineData(
        """{"run": ["sh", "-c", "echo oh >&2; exit 3"]}""",
        "exit-code",
        "the program ended with exit code 3: oh"
    )]
    [InlineData("""{"run": ["no-such-program"]}""", "no-program", "there is no program “no-such-program”")]
    [InlineData("""{"run": ["./missing.sh"]}""", "no-program", "there is no program “./missing.sh”")]
    [InlineData("""{"run": ["echo"], "folder": "nowhere"}""", "no-folder", "the folder")]
    [InlineData("""{"run": ["echo", "no json"], "output": "json"}""", "output", "the program's output is not JSON")]
    [InlineData(
        """{"shell": "yes | head -c 2000000"}""",
        "output",
        "the program's output is larger than 1048576 bytes"
    )]
    [InlineData(
        """{"shell": "echo 123456789", "maxOutput": 5}""",
        "output",
        "the program's output is larger than 5 bytes"
    )]
    [InlineData("""{}""", "setting", "a command step needs one of “run”, “shell” and “script”")]
    [InlineData(
        """{"shell": "true", "script": "x.sh"}""",
        "setting",
        "a command step needs one of “run”, “shell” and “script”"
    )]
    [InlineData("""{"script": "gone.sh"}""", "no-file", "the attachment “gone.sh” is missing")]
    [InlineData("""{"script": "query.sql"}""", "setting", "nothing is known to run “query.sql” by its ending")]
    [InlineData(
        """{"run": ["true"], "env": {"PASSWORD": "secret:nobody"}}""",
        "no-secret",
        "there is no secret “nobody”"
    )]
    [InlineData(
        """{"run": ["cat"], "input": "a", "json": 1}""",
        "setting",
        "standard input is either “input” or “json”"
    )]
    [InlineData(
        """{"run": ["node", "-e", "globalThis.b = Buffer.alloc(300_000_000, 1); setTimeout(() => 0, 20_000)"], "maxMemory": 150}""",
        "memory",
        "the program used"
    )]
    [InlineData(
        """{"run": ["echo"], "output": "xml"}""",
        "setting",
        "setting “output”: \"xml\" is not one of none, text, lines, json"
    )]
    public async Task SaysWhatWentWrong(string settings, string code, string message)
    {
        var result = await _bench.RunAsync(_kind, settings);
        Assert.Equal(code, result.Error!.Code);
        Assert.StartsWith(message, result.Error.Message);
    }

    [Fact]
    public async Task ALongLineIsKeptWholeAndAnEndlessOneIsCutOff()
    {
        var json = await _bench.RunAsync(
            _kind,
            """{"shell": "printf '{\"n\": \"'; head -c 300000 /dev/zero | tr '\\0' x; printf '\"}'", "output": "json"}"""
        );
        Assert.Null(json.Error);
        Assert.Equal(300_000, json.Outputs.AsMap.Find("value")!.Value.AsMap.Find("n")!.Value.AsString.Length);
        Assert.EndsWith("(line cut)", Assert.Single(_bench.Log));
        Assert.Equal(
            "output",
            (await _bench.RunAsync(_kind, """{"shell": "head -c 5000000 /dev/zero | tr '\\0' x"}""")).Error!.Code
        );
    }

    [Fact]
    public async Task ProgramsThatEndAtOnceAreNoTrouble()
    {
        foreach (
            var result in await Task.WhenAll(
                Enumerable.Range(0, 100).Select(_ => _bench.RunAsync(_kind, """{"run": ["true"]}"""))
            )
        )
        {
            Assert.Null(result.Error);
        }
    }

    [Fact]
    public async Task ExitCodesMeanWhatTheSettingsSay()
    {
        Assert.Null((await _bench.RunAsync(_kind, """{"shell": "exit 2", "success": [2]}""")).Error);
        var warned = await _bench.RunAsync(_kind, """{"shell": "exit 4", "warning": [4]}""");
        Assert.Equal("exit code 4", Assert.Single(warned.Warnings!));
        Assert.Equal(Value.Int(4), warned.Outputs.AsMap.Find("exit_code"));
    }

    [Fact]
    public async Task CancellingEndsTheProgramAndAllThatItStarted()
    {
        using var cancel = new CancellationTokenSource();
        var running = _bench.RunAsync(
            _kind,
            """{"shell": "sleep 300 & echo $! > child; echo up; wait"}""",
            cancel: cancel.Token
        );
        while (!_bench.Log.Contains("out up"))
            await Task.Delay(20);
        cancel.Cancel();
        Assert.Equal("stopped", (await running.WaitAsync(TimeSpan.FromSeconds(10))).Error!.Code);
        await GoneAsync(int.Parse(File.ReadAllText(_bench["child"])));
    }

    [Fact]
    public async Task AnOrphanOfALostAttemptIsEndedBeforeTheWorkIsDoneAgain()
    {
        _ = _bench.RunAsync(_kind, """{"run": ["sleep", "300"]}""");
        while (new FileInfo(_bench["steps/1/s/process"]) is not { Exists: true, Length: > 0 })
            await Task.Delay(20);
        var id = int.Parse(File.ReadAllText(_bench["steps/1/s/process"]).Split(' ')[0]);
        await _kind.SweepAsync(_bench.Context());
        await GoneAsync(id);
        Assert.Contains(_bench.Log, l => l.Contains("was still running"));
    }

    [Fact]
    public async Task AChildThatKeepsTheOutputOpenDoesNotHoldTheStep()
    {
        var clock = Stopwatch.StartNew();
        var result = await _bench.RunAsync(_kind, """{"shell": "sleep 600 & echo done"}""");
        Assert.Equal("\"done\"", result.Outputs.AsMap.Find("value").ToString());
        Assert.True(clock.Elapsed < TimeSpan.FromMinutes(5));
    }

    [Fact]
    public async Task AScriptRunsWithItsFilesAndAsAFunctionOfJson()
    {
        _bench.Attachments["sum.js"] =
            "const { litres } = JSON.parse(require('fs').readFileSync(0)); "
            + "console.log(JSON.stringify({ cents: litres.reduce((a, b) => a + b) * require('./prices.js') "
            + "}));";
        _bench.Attachments["prices.js"] = "module.exports = 41;\n";
        var result = await _bench.RunAsync(
            _kind,
            """{"script": "sum.js", "files": ["prices.js"], "json": {"litres": [2, 3]}, "output": "json"}"""
        );
        Assert.Null(result.Error);
        Assert.Equal("{\"cents\": 205}", result.Outputs.AsMap.Find("value").ToString());
        _bench.Attachments["tell.sh"] = "echo $1 in $(basename $PWD) beside $(ls $GATECHAIN_FOLDER | tail -1)";
        Assert.Equal(
            $"\"moo in {Path.GetFileName(_bench.Folder)} beside tell.sh\"",
            (await _bench.RunAsync(_kind, """{"script": "tell.sh", "args": ["moo"]}""", work: "w/2"))
                .Outputs.AsMap.Find("value")
                .ToString()
        );
        Assert.Equal(
            "no-program",
            (await _bench.RunAsync(_kind, """{"script": "tell.sh", "interpreter": "no-such-shell"}""")).Error!.Code
        );
    }

    [Fact]
    public async Task SecretsReachTheProgramAndTheKeyToThemDoesNot()
    {
        _bench.Secrets["warehouse"] = "made-up-password";
        Environment.SetEnvironmentVariable("GATECHAIN_SECRET_KEY", "the key");
        var result = await _bench.RunAsync(
            _kind,
            """{"shell": "echo $PASSWORD-$GATECHAIN_SECRET_KEY", "env": {"PASSWORD": "secret:warehouse"}}"""
        );
        Environment.SetEnvironmentVariable("GATECHAIN_SECRET_KEY", null);
        Assert.Equal("\"made-up-password-\"", result.Outputs.AsMap.Find("value").ToString());
    }

    [Theory]
    [InlineData("sleep 300 & echo $! > child; true", false)]
    [InlineData("setsid sleep 300 & sleep 0.3; pgrep -n -f 'sleep 300' > child; echo up; wait; sleep 300", true)]
    public async Task NothingThatItStartedIsLeftOver(string shell, bool stopped)
    {
        using var cancel = new CancellationTokenSource();
        var running = _bench.RunAsync(_kind, $$"""{"shell": "{{shell}}"}""", cancel: cancel.Token);
        if (stopped)
        {
            while (!_bench.Log.Contains("out up"))
                await Task.Delay(20);
            cancel.Cancel();
        }
        await running.WaitAsync(TimeSpan.FromSeconds(20));
        await GoneAsync(int.Parse(File.ReadAllText(_bench["child"])));
    }

    static async Task GoneAsync(int process)
    {
        for (var i = 0; i < 200; i++)
        {
            if (!File.Exists($"/proc/{process}/stat") || File.ReadAllText($"/proc/{process}/stat").Contains(") Z "))
                return;
            await Task.Delay(20);
        }
        Assert.Fail($"process {process} is still there");
    }
}
