using GateChain.Core.Triggers;
using GateChain.Engine.Triggers;
using GateChain.Kinds.Arrivals;

namespace GateChain.Engine.Tests.Triggers;

/// <summary>Files that come: each version of each starts one run.</summary>
public class ArrivalTests
{
    const string Pickups = """
        come: { chain: t, arrival: { path: "in/*.csv", quiet: 2s, existing: take }, params: { x: event.path } }
        """;

    static string Gathered =>
        """
            come:
              chain: t
              arrival: { path: "in/*.csv", quiet: 2s, together: 30s }
              params: { x: "event.files.map(f, f.name)" }
            """;

    static Task<TriggerHouse> OpenAsync(string triggers) => TriggerHouse.OpenAsync(triggers);

    static void Write(TriggerHouse house, string name, string text)
    {
        Directory.CreateDirectory(Path.Combine(house.House.Work, "in"));
        File.WriteAllText(Path.Combine(house.House.Work, "in", name), text);
    }

    // The clock stands still but for these seconds; then there was a look.
    static async Task PassAsync(TriggerHouse house, double seconds)
    {
        house.House.Clock.Advance(TimeSpan.FromSeconds(seconds));
        var now = house.House.Clock.GetUtcNow();
        await TriggerHouse.UntilAsync(
            () =>
            {
                var watch = house.Engine.Sources.Find("come") as ArrivalWatch;
                watch?.Ring();
                return Task.FromResult(watch?.LookedAt >= now);
            },
            "files have been looked for"
        );
    }

    [Fact]
    public async Task EachVersionOfAFileStartsOneRunWhenItIsQuiet()
    {
        await using var house = await OpenAsync(Pickups);
        Write(house, "a.csv", "1");
        await PassAsync(house, 1);
        Assert.Empty(await house.FiresAsync());
        Write(house, "a.csv", "12");
        await UntilTurnedAsync(house, 1);
        Write(house, "b.csv", "1");
        await UntilTurnedAsync(house, 2);
        Write(house, "a.csv", "123");
        await UntilTurnedAsync(house, 3);
        Assert.Equal(
            ["\"in/a.csv\" run 1", "\"in/b.csv\" run 2", "\"in/a.csv\" run 3"],
            await house.FiresAsync("come", "path")
        );
        // What was there is not new for the next service.
        await house.House.EndEngineAsync();
        Write(house, "c.csv", "1");
        house.House.Start();
        await house.Engine.StartAsync();
        await UntilTurnedAsync(house, 4);
        Assert.Equal("\"in/c.csv\" run 4", (await house.FiresAsync("come", "path"))[^1]);
    }

    // Turns the clock a little, as often as it takes.
    static async Task UntilTurnedAsync(TriggerHouse house, int fires)
    {
        await TriggerHouse.UntilAsync(
            async () =>
            {
                await PassAsync(house, 1);
                return (await house.FiresAsync()).Count >= fires;
            },
            $"{fires} fires"
        );
        Assert.Equal(fires, (await house.FiresAsync()).Count);
    }

    [Fact]
    public async Task WhatIsThereWhenItIsArmedIsLeftUnlessItIsTaken()
    {
        await using var house = await TriggerHouse.OpenAsync(
            "none: { chain: t, schedule: { every: day, at: \"00:00\" } }"
        );
        Write(house, "old.csv", "1");
        await house.PushAsync(
            Gathered
                .Replace(", together: 30s", "", StringComparison.Ordinal)
                .Replace("event.files.map(f, f.name)", "event.name", StringComparison.Ordinal)
        );
        // Who has brought it is answered when it is armed.
        Write(house, "new.csv", "1");
        await UntilTurnedAsync(house, 1);
        Assert.Equal("\"new.csv\"", (await house.ParamAsync(1)).ToString());
    }

    [Fact]
    public async Task FilesThatComeTogetherAreOneFireAndTheWindowIsNotMoved()
    {
        await using var house = await OpenAsync(Gathered);
        // It is armed.
        await PassAsync(house, 1);
        Write(house, "a.csv", "1");
        await PassAsync(house, 10);
        Write(house, "b.csv", "1");
        await PassAsync(house, 10);
        Assert.Empty(await house.FiresAsync());
        await UntilTurnedAsync(house, 1);
        Assert.Equal("[\"a.csv\", \"b.csv\"]", (await house.ParamAsync(1)).ToString());
    }

    [Fact]
    public async Task AFolderThatIsNotThereAndALinkThatLeadsOutAreTold()
    {
        await using var house = await OpenAsync(Pickups);
        await ToldAsync(house, "there is no folder");
        Directory.CreateDirectory(Path.Combine(house.House.Work, "in"));
        File.CreateSymbolicLink(Path.Combine(house.House.Work, "in", "out.csv"), "/etc/hostname");
        await ToldAsync(house, "outside of the folders");
        Write(house, "a.csv", "1");
        await UntilTurnedAsync(house, 1);
        // Gone and back: what was dealt with is not new.
        Directory.Move(Path.Combine(house.House.Work, "in"), Path.Combine(house.House.Work, "away"));
        await ToldAsync(house, "there is no folder");
        Directory.Move(Path.Combine(house.House.Work, "away"), Path.Combine(house.House.Work, "in"));
        await ToldAsync(house, "outside of the folders");
        Assert.Single(await house.FiresAsync());
    }

    [Fact]
    public async Task OfTenThousandFilesAtOnceNoneIsLostAndNoneComesTwice()
    {
        const int Files = 10_000;
        await using var house = await OpenAsync(
            Gathered.Replace("together: 30s", "together: 1s", StringComparison.Ordinal)
        );
        await PassAsync(house, 1);
        for (var i = 0; i < Files; i++)
        {
            Write(house, $"{i:00000}.csv", "1");
            // Some of them are gathered before the others are there.
            if (i == 3000)
                await PassAsync(house, 3);
        }
        await PassAsync(house, 3);
        await house.House.EndEngineAsync();
        house.House.Start();
        await house.Engine.StartAsync();
        var seen = new List<string>();
        await TriggerHouse.UntilAsync(
            async () =>
            {
                await PassAsync(house, 1);
                seen.Clear();
                foreach (var fire in await house.House.Store.Triggers.ListAsync(new("come", Limit: 1000)))
                    seen.AddRange((await house.ParamAsync(fire.Run!.Value)).AsList.Select(n => n.AsString));
                return seen.Count >= Files;
            },
            "all of them have come"
        );
        Assert.Equal(Enumerable.Range(0, Files).Select(i => $"{i:00000}.csv"), seen.Order(StringComparer.Ordinal));
    }

    static Task ToldAsync(TriggerHouse house, string what) =>
        TriggerHouse.UntilAsync(
            async () =>
            {
                await PassAsync(house, 30);
                return (await house.Engine.TriggerService.ListAsync()).Any(t =>
                    t.Troubles.Any(s => s.Contains(what, StringComparison.Ordinal))
                );
            },
            what
        );

    static readonly DateTimeOffset Start = new(2026, 11, 23, 6, 0, 0, TimeSpan.Zero);

    static SeenFile File_(string name, int version = 1) => new($"/in/{name}", name, 1, Start, $"v{version}");

    static ArrivalTracker Memory(string? ready = null, int? together = null) =>
        new(
            new(
                "in/*",
                null,
                TimeSpan.FromSeconds(30),
                TimeSpan.FromSeconds(2),
                ready,
                together is { } s ? TimeSpan.FromSeconds(s) : null,
                false
            )
        );

    static string Look(ArrivalTracker memory, double second, params SeenFile[] files)
    {
        var step = memory.Look(new(files, [], true), Start.AddSeconds(second));
        return string.Join(" | ", step.Fires.Select(f => string.Join(" ", f.Select(x => $"{x.Name}{x.Version}"))))
            + (step.Next is { } next ? $" next {(next - Start).TotalSeconds}" : "")
            + string.Concat(step.Restless.Select(r => $" ! {r}"));
    }

    [Fact]
    public void AFileThatChangesBeginsToBeQuietAnew()
    {
        var memory = Memory();
        Assert.Equal(" next 2", Look(memory, 0, File_("a")));
        Assert.Equal(" next 3.5", Look(memory, 1.5, File_("a", 2)));
        Assert.Equal("av2", Look(memory, 3.5, File_("a", 2)));
        Assert.Equal("", Look(memory, 9, File_("a", 2)));
        Assert.Equal(" next 12", Look(memory, 10, File_("a", 3)));
        // One that never gets quiet is told of.
        Assert.Contains("a has been changing since", Look(memory, 700, File_("a", 4)), StringComparison.Ordinal);
    }

    [Fact]
    public void AMarkerSaysThatAFileIsComplete()
    {
        var memory = Memory(ready: "{name}.done");
        Assert.Equal("", Look(memory, 0, File_("a")));
        Assert.Equal("", Look(memory, 100, File_("a")));
        // The marker itself is no file.
        Assert.Equal("av1", Look(memory, 101, File_("a"), File_("a.done")));
        Assert.Equal("", Look(memory, 200, File_("a"), File_("a.done")));
    }

    [Fact]
    public void AWindowRunsFromTheFirstQuietFileAndHoldsAtMostTenThousand()
    {
        var memory = Memory(together: 10);
        Assert.Equal(" next 2", Look(memory, 0, File_("a")));
        Assert.Equal(" next 12", Look(memory, 3, File_("a")));
        Assert.Equal(" next 12", Look(memory, 11, File_("a"), File_("b")));
        // What is not quiet yet is in the next one.
        Assert.Equal("av1 next 13", Look(memory, 12, File_("a"), File_("b")));
        SeenFile[] many = [.. Enumerable.Range(0, 25_000).Select(i => File_($"{i}"))];
        Look(memory, 20, many);
        var fires = memory.Look(new(many, [], true), Start.AddSeconds(30)).Fires;
        Assert.Equal([10_000, 10_000, 5_000], fires.Select(f => f.Count));
    }

    [Fact]
    public void AFileThatIsGoneIsRememberedForADay()
    {
        var memory = Memory();
        Look(memory, 0, File_("a"));
        Assert.Equal("av1", Look(memory, 2, File_("a")));
        Assert.Equal("", Look(memory, 100));
        Assert.Equal("", Look(memory, 3_600, File_("a")));
        Assert.Equal("", Look(memory, 4_000));
        var gone = memory.Look(new([], [], true), Start.AddDays(2)).Gone;
        Assert.Equal(["file:v1:/in/a"], gone);
        // Where nothing could be looked at, nothing is gone.
        Assert.Empty(Memory().Look(new([], ["no folder"], false), Start).Gone);
    }
}
