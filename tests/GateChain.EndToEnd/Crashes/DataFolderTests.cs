using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>
/// Folders that earlier versions left behind, with runs in every waiting state, are opened, and all of their runs go
/// on. See tests/data-folders.
/// </summary>
public class DataFolderTests
{
    public static TheoryData<string> Folders =>
        [
            .. Directory
                .GetDirectories(Path.Combine(Place.Root, "tests/data-folders"), "20*")
                .Select(f => Path.GetFileName(f)!),
        ];

    [Theory]
    [MemberData(nameof(Folders))]
    public async Task WhatAnEarlierVersionLeftGoesOn(string name)
    {
        await using var service = await Service.FromFolderAsync(
            Path.Combine(Place.Root, "tests/data-folders", name),
            $"/tmp/gatechain-folder-{name}"
        );
        File.SetLastWriteTimeUtc(
            Path.Combine(service.Work, "pickups.csv"),
            new(2026, 11, 22, 5, 0, 0, DateTimeKind.Utc)
        );
        // What rested, or was to be resumed by itself, is due by now: it continues at the start.
        Touch(service, "ready");
        await service.StartAsync();
        var client = service.Client;
        // It is a copy: whatever had not ended waits until somebody says that nobody else works with it.
        await client.HoldAsync(new(false, "", null));
        var runs = (await client.RunsAsync(limit: 100)).ToLookup(r => r.Chain);
        long Only(string chain) => runs[chain].Single().Id;

        // What waited continues with what it waited for.
        Assert.Equal("held", (await client.RunAsync(Only("held"))).Steps.Single().State);
        Assert.Equal(["queued", "running"], runs["queued"].Select(r => r.State).Order());
        foreach (var file in (string[])["one-1.csv", "queue-1.csv", "north.csv", "south.csv"])
            Touch(service, $"inbox/{file}");
        foreach (var chain in (string[])["held", "resting", "waiting", "parent"])
            Assert.Equal("succeeded", (await service.EndAsync(Only(chain))).State);
        foreach (var run in runs["queued"].Concat(runs["child"]))
            Assert.Equal("succeeded", (await service.EndAsync(run.Id)).State);

        // Folders of the workspace came with the second of these data folders.
        if (runs.Contains("foldered"))
        {
            Touch(service, "inbox/fold-1.csv");
            Assert.Equal("succeeded", (await service.EndAsync(Only("foldered"))).State);
            Assert.True(File.Exists(Path.Combine(service.Work, "prices.db")));
            Assert.Equal("sales/daily", (await client.ChainsAsync()).Single(c => c.Name == "foldered").Area);
        }

        // What was running is done again, or asked about, as its step says.
        Assert.Equal("succeeded", (await service.EndAsync(Only("crashed"))).State);
        Assert.Equal(["once"], (await client.RunAsync(Only("asks"))).Status.PausedSteps);
        await client.AnswerAsync(Only("asks"), new("once", "skip"));
        Assert.Equal("succeeded", (await service.EndAsync(Only("asks"))).State);

        // The load continues behind what it has in its stage.
        var staged = await service.EndAsync(Only("staged"));
        Assert.Equal(
            ("succeeded", "40000", "40000"),
            (
                staged.State,
                staged.Outputs.GetProperty("rows").ToString(),
                Dairy(service, "SELECT count(DISTINCT id) FROM pickups")
            )
        );
        Assert.Contains("continuing after", (await client.LogAsync(staged.Id, "load")).Text);

        // What people have to decide about.
        await client.AnswerAsync(Only("paused"), new("p", "retry"));
        Assert.Equal("succeeded", (await service.EndAsync(Only("paused"))).State);
        await client.ResumeAsync(Only("pausing"), new());
        Assert.Equal("succeeded", (await service.EndAsync(Only("pausing"))).State);
        await client.ResumeAsync(Only("failed"), new());
        Assert.Equal("succeeded", (await service.EndAsync(Only("failed"))).State);
        for (var i = 0; (await client.RunAsync(Only("recovers"))).State != "succeeded"; i++)
        {
            Assert.True(i < 1200, "the automatic resume does not come");
            await Task.Delay(25);
        }

        // Releases, the draft, the connection and the secret.
        Assert.Equal([2, 1], (await client.ReleasesAsync("numbered")).Select(r => r.Number));
        Assert.Contains("title: Draft", (await client.DraftAsync("numbered")).Source);
        Assert.True((await client.CheckConnectionAsync("db")).Works);
        Assert.Contains((await client.SecretsAsync()).Select(s => s.Name), n => n == "laboratory");
        Assert.Equal("kept", File.ReadLines(Path.Combine(service.Work, "effects")).First());
        foreach (
            var word in (string[])
                [
                    "held",
                    "resting",
                    "paused",
                    "pausing",
                    "waiting",
                    "child north",
                    "child south",
                    "failed",
                    "recovers",
                    "crashed",
                    "kept",
                ]
        )
        {
            Assert.Single(File.ReadLines(Path.Combine(service.Work, "effects")), word);
        }
    }

    static void Touch(Service service, string name)
    {
        var path = Path.Combine(service.Work, name);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllText(path, "x");
    }

    static string Dairy(Service service, string sql) => service.Ask("dairy.db", sql);
}
