using System.Text.Json;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>
/// A service whose data are in PostgreSQL: moved there, killed, and with the database gone for a while.
/// </summary>
public sealed class PostgresServiceTests
{
    static Dictionary<string, JsonElement> Given(string name, object value) =>
        new() { [name] = JsonSerializer.SerializeToElement(value) };

    [Fact]
    public async Task WhatFailedOnAFileGoesOnOnPostgresThroughKillsOfBoth()
    {
        using var server = PostgreSqlServer.Start();
        var database = server.To("larkmoor");
        await using var service = await Service.WithDemoAsync();
        var run = (await service.Client.StartAsync(new("milk-intake", Given("day", "2026-11-22")))).Id;
        Assert.Equal("failed", (await service.EndAsync(run)).State);
        var before = await TellAsync(service, run);

        // Not while a service works with it.
        var (exit, _, err) = await service.CliAsync("move", "--from", service.Data, "--to", database);
        Assert.Equal(4, exit);
        Assert.Contains("another service", err, StringComparison.Ordinal);
        await service.TerminateAsync();
        (exit, var said, err) = await service.CliAsync("move", "--from", service.Data, "--to", database);
        Assert.True(exit == 0, err);
        Assert.Contains("journal", said, StringComparison.Ordinal);

        service.Options = ["--database", database];
        await service.StartAsync();
        Assert.Equal(before, await TellAsync(service, run));
        await using (var second = await Service.FromFolderAsync(service.Work, TempName()))
        {
            Directory.CreateDirectory(second.Work);
            (exit, _, err) = await service.CliAsync(
                "serve",
                "--listen",
                "http://127.0.0.1:0",
                "--data",
                second.Data,
                "--work",
                second.Work,
                "--database",
                database
            );
            Assert.Equal(5, exit);
            Assert.Contains("another service works with this database", err, StringComparison.Ordinal);
        }

        await service.Client.ResumeAsync(run, new(Given("max_bad", 100)));
        await service.KillAsync();
        await service.StartAsync();
        Assert.Equal("succeeded", (await service.EndAsync(run)).State);

        // A backup while it works; what is made of it, in a file or another database, tells the same.
        var backup = Path.Combine(service.Work, "all.backup");
        (exit, _, err) = await service.CliAsync("backup", backup, "--data", service.Data, "--database", database);
        Assert.True(exit == 0, err);
        var now = await TellAsync(service, run);
        foreach (var to in (string[])["", server.To("postgres")])
        {
            await using var restored = Service.Nothing();
            string[] where = to.Length == 0 ? [] : ["--database", to];
            (exit, _, err) = await service.CliAsync(["restore", backup, restored.Data, .. where]);
            Assert.True(exit == 0, err);
            restored.Options = where;
            await restored.StartAsync();
            Assert.Equal(now, await TellAsync(restored, run));
        }
        var loaded = JsonDocument.Parse(File.ReadAllText(Path.Combine(service.Work, "expected.json"))).RootElement;
        Assert.Equal(loaded.GetProperty("pickups").ToString(), service.Warehouse("SELECT count(*) FROM pickups"));
        Assert.Equal("0", service.Warehouse("SELECT count(*) - count(DISTINCT pickup_id) FROM pickups"));

        // Runs hold still while the database is away, and say so.
        server.Kill();
        await UntilAsync(async () =>
        {
            try
            {
                await service.Client.StartAsync(new("milk-intake", Given("day", "2026-11-23")));
                return false;
            }
            catch (GateChainException e)
            {
                return e.Status is 503 or 507;
            }
        });
        server.Restart();
        await UntilAsync(async () =>
        {
            try
            {
                await service.Client.HealthAsync();
                return (await service.Client.RunsAsync(new RunFilter())).Count > 0;
            }
            catch (GateChainException)
            {
                return false;
            }
        });
        Assert.Equal("succeeded", (await service.Client.RunAsync(run)).State);
        var next = (await service.Client.StartAsync(new("milk-intake", Given("day", "2026-11-22")))).Id;
        Assert.Equal("failed", (await service.EndAsync(next)).State);
    }

    // But for how long ago it was.
    static async Task<string> TellAsync(Service service, long run) =>
        string.Join(
            '\n',
            (await service.CliAsync("show", run.ToString()))
                .Out.Split('\n')
                .Where(l => !l.Contains(" ago", StringComparison.Ordinal))
        );

    static string TempName() => Path.Combine(Path.GetTempPath(), $"gatechain-second-{Guid.NewGuid():N}");

    static async Task UntilAsync(Func<Task<bool>> holds)
    {
        for (var i = 0; !await holds(); i++)
        {
            Assert.True(i < 600, "it does not come to that");
            await Task.Delay(50);
        }
    }
}
