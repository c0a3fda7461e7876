using System.Diagnostics;
using System.Text.Json;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>A backup is all of one moment, whatever is written meanwhile, and what is made of it is the same.</summary>
public sealed class BackupTests : IAsyncLifetime
{
    const string Quick = """
        chain: quick
        params: { n: { type: int } }
        steps: { a: { kind: command, set: { run: [echo, "${string(params.n)}"] } } }
        outputs: { n: params.n }
        """;
    const string Held = """
        chain: held
        steps:
          a:
            kind: command
            set: { run: [echo, through] }
            guard:
              probes: { go: { kind: file, path: go } }
              rules: [ { when: probes.go.count > 0, verdict: proceed } ]
              otherwise: { verdict: hold, recheck: 1h, limit: 3, then: fail }
        """;

    readonly Service _service = Service.Nothing();
    readonly Service _restored = Service.Nothing();

    public ValueTask InitializeAsync() => new(_service.StartAsync());

    public async ValueTask DisposeAsync()
    {
        await _service.DisposeAsync();
        await _restored.DisposeAsync();
    }

    static Task<(int Exit, string Out, string Err)> CliAsync(params string[] arguments) =>
        Place.RunAsync(Place.Program, Path.GetTempPath(), null, arguments);

    static async Task<string> MustAsync(params string[] arguments)
    {
        var (exit, output, error) = await CliAsync(arguments);
        Assert.True(exit == 0, $"{string.Join(' ', arguments)} gave {exit}: {output}{error}");
        return output;
    }

    static async Task<string> TellAsync(Service service, long run) =>
        JsonSerializer.Serialize(await service.Client.RunAsync(run));

    [Fact]
    public async Task ABackupWhileRunsAreWrittenIsAllOfOneMoment()
    {
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["quick.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Quick),
                ["held.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Held),
            }
        );
        await _service.Client.SetSecretAsync("warehouse", "in the vault");
        var held = (await _service.Client.StartAsync(new("held"))).Id;
        using var ending = new CancellationTokenSource();
        var enough = new TaskCompletionSource();
        var writing = Task.Run(async () =>
        {
            for (var n = 0; !ending.IsCancellationRequested; n++)
            {
                var given = new Dictionary<string, JsonElement> { ["n"] = JsonSerializer.SerializeToElement(n) };
                await _service.Client.StartAsync(new("quick", given));
                if (n == 40)
                    enough.SetResult();
            }
        });
        await enough.Task;
        var file = Path.Combine(_service.Work, "all.backup");
        await MustAsync("backup", file, "--data", _service.Data, "--logs");
        Assert.Equal(4, (await CliAsync("backup", file, "--data", _service.Data)).Exit);
        await ending.CancelAsync();
        await writing;
        // Nobody else may read it.
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(file));
        Assert.Contains("runs read", await MustAsync("verify", file));

        await MustAsync("restore", file, _restored.Data);
        Assert.Equal(4, (await CliAsync("restore", file, _restored.Data)).Exit);
        await _restored.StartAsync();
        var runs = await _restored.Client.RunsAsync(limit: 500);
        var ended = runs.Where(r => r.Ended is not null).ToList();
        Assert.True(ended.Count >= 30, $"only {ended.Count} runs had ended");
        foreach (var run in ended)
            Assert.Equal(await TellAsync(_service, run.Id), await TellAsync(_restored, run.Id));
        Assert.Equal(["warehouse"], (await _restored.Client.SecretsAsync()).Select(s => s.Name));

        // What had not ended waits, and is told; then it goes on.
        await File.WriteAllTextAsync(Path.Combine(_restored.Work, "go"), "");
        var health = await _restored.Client.HealthAsync();
        Assert.Contains("copy", Assert.Single(health.Stranded, s => s.Run == held).Why);
        Assert.Null((await _restored.Client.RunAsync(held)).Ended);
        await _restored.Client.HoldAsync(new(false, "", null));
        Assert.Equal("succeeded", (await _restored.EndAsync(held)).State);
        Assert.EndsWith("through\n", (await _restored.Client.LogAsync(held, "a")).Text);
    }

    [Fact]
    public async Task ADamagedBackupIsToldAndRestoresNothing()
    {
        await _service.PushAsync(Quick);
        var given = new Dictionary<string, JsonElement> { ["n"] = JsonSerializer.SerializeToElement(1) };
        await _service.EndAsync((await _service.Client.StartAsync(new("quick", given))).Id);
        var file = Path.Combine(_service.Work, "all.backup");
        await MustAsync("backup", file, "--data", _service.Data);
        var whole = await File.ReadAllBytesAsync(file);
        var chance = new Random(20261130);
        for (var i = 0; i < 12; i++)
        {
            var broken = (byte[])whole.Clone();
            // A flipped bit, or an end that is missing.
            if (i % 3 == 0)
                Array.Resize(ref broken, chance.Next(broken.Length));
            else
                broken[chance.Next(broken.Length)] ^= (byte)(1 << chance.Next(8));
            await File.WriteAllBytesAsync(file, broken);
            var (exit, output, error) = await CliAsync("restore", file, _restored.Data);
            Assert.True(exit == 4 && !Directory.Exists(_restored.Data), $"{i}: {exit} {output}{error}");
        }
        Assert.Equal(1, (await CliAsync("verify", file)).Exit);
        Assert.Equal(2, (await CliAsync("verify", file + ".none")).Exit);
        await File.WriteAllBytesAsync(file, whole);
        await MustAsync("restore", file, _restored.Data);
    }

    // Whoever is killed in the middle leaves nothing that is taken for whole, and nothing in the way of the next.
    [Fact]
    public async Task ABackupAndARestoreThatAreKilledCanBeBegunAgain()
    {
        await _service.PushAsync(Quick);
        var file = Path.Combine(_service.Work, "all.backup");
        await MustAsync("backup", file, "--data", _service.Data);
        var chance = new Random(20261130);
        var whole = await File.ReadAllBytesAsync(file);
        for (var i = 0; i < 3; i++)
        {
            File.Delete(file);
            await KillAsync(chance, "backup", file, "--data", _service.Data);
            if (File.Exists(file))
                await MustAsync("verify", file);
            else
                await MustAsync("backup", file, "--data", _service.Data);
        }
        Assert.Equal(["all.backup"], Directory.GetFiles(_service.Work, "all.*").Select(Path.GetFileName));
        await File.WriteAllBytesAsync(file, whole);
        for (var i = 0; i < 3; i++)
        {
            await KillAsync(chance, "restore", file, _restored.Data);
            if (Directory.Exists(_restored.Data))
            {
                await MustAsync("verify", "--data", _restored.Data);
                Directory.Delete(_restored.Data, recursive: true);
            }
        }
        await MustAsync("restore", file, _restored.Data);
        Assert.False(Directory.Exists(_restored.Data + ".restoring"));
    }

    static async Task KillAsync(Random chance, params string[] arguments)
    {
        using var process = Process.Start(
            new ProcessStartInfo(Place.Program, arguments)
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        // It needs some 300 ms to its first work; wherever it is then.
        await Task.Delay(chance.Next(150, 900));
        process.Kill();
        await process.WaitForExitAsync();
    }
}
