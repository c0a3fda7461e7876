using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>
/// The service is killed at random moments; the run ends as if it had not been, and every row is there exactly once.
/// </summary>
public class KillTests
{
    static int Rounds => int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_KILLS"), out var n) ? n : 4;

    [Fact]
    public async Task ARunThatIsCutOffEndsAsIfItHadNotBeen()
    {
        var seed = int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var given)
            ? given
            : Environment.TickCount & 0xffff;
        TestContext.Current.TestOutputHelper?.WriteLine(
            $"seed {seed}; GATECHAIN_SEED={seed} repeats, GATECHAIN_KILLS sets how often"
        );
        var chance = new Random(seed);
        var undisturbed = await StoryAsync(null, null);
        var quiet = (await WeekAsync(null)).Words;
        var lost = 0;
        for (var round = 0; round < Rounds; round++)
        {
            // Both legs are met: the run, and the resume.
            var (first, second) = (chance.Next(0, 1500), chance.Next(0, 900));
            var story = round % 3 == 2 ? await StoryAsync(null, second) : await StoryAsync(first, null);
            if (round % 2 == 1)
            {
                var week = await WeekAsync(chance.Next(0, 1500));
                Assert.True(
                    quiet == week.Words,
                    $"seed {seed}, round {round}:\n{week.Words}\nand undisturbed:\n{quiet}"
                );
                lost += week.Lost;
            }
            Assert.True(
                undisturbed.Words == story.Words,
                $"seed {seed}, round {round}, killed after {first}/{second} ms:\n{story.Words}\nand "
                    + $"undisturbed:\n{undisturbed.Words}"
            );
            lost += story.Lost;
        }
        TestContext.Current.TestOutputHelper?.WriteLine($"{Rounds} kills cut {lost} attempts off");
        // A few rounds may miss all of them.
        Assert.True(Rounds < 10 || lost > 0, "no kill ever met an attempt in flight");
    }

    static async Task<(string Words, int Lost)> StoryAsync(int? killFirst, int? killSecond)
    {
        await using var service = await Service.WithDemoAsync();
        var run = await service.Client.StartAsync(
            new(
                "milk-intake",
                new Dictionary<string, System.Text.Json.JsonElement>
                {
                    ["day"] = System.Text.Json.JsonSerializer.SerializeToElement("2026-11-22"),
                }
            )
        );
        await KillAfterAsync(service, killFirst);
        var failed = await service.EndAsync(run.Id);
        await service.Client.ResumeAsync(
            run.Id,
            new(
                new Dictionary<string, System.Text.Json.JsonElement>
                {
                    ["max_bad"] = System.Text.Json.JsonSerializer.SerializeToElement(100),
                }
            )
        );
        await KillAfterAsync(service, killSecond);
        var ended = await service.EndAsync(run.Id);
        Assert.Equal(
            File.ReadAllText(Path.Combine(service.Work, "expected.json")).Trim(),
            $$"""{"day":"2026-11-22","pickups":{{service.Warehouse("SELECT count(*) FROM pickups")}},"litres":{{service.Warehouse("SELECT round(sum(litres), 1) FROM pickups")}}}"""
        );
        Assert.Equal("0", service.Warehouse("SELECT count(*) - count(DISTINCT pickup_id) FROM pickups"));
        return ($"{Words(failed)}\n{Words(ended)}", ended.Attempts.Count(a => a.Result == "lost"));
    }

    // Three child runs that poll, in one lane; all of them are cut off at once.
    static async Task<(string Words, int Lost)> WeekAsync(int? kill)
    {
        await using var service = await Service.WithDemoAsync();
        var run = await service.Client.StartAsync(
            new(
                "quality-week",
                new Dictionary<string, System.Text.Json.JsonElement>
                {
                    ["day"] = System.Text.Json.JsonSerializer.SerializeToElement("2026-11-22"),
                }
            )
        );
        await KillAfterAsync(service, kill);
        var ended = await service.EndAsync(run.Id);
        var runs = await service.Client.RunsAsync();
        Assert.Equal(4, runs.Count);
        Assert.All(runs, r => Assert.Equal("succeeded", r.State));
        var children = new List<RunDetail>();
        foreach (var child in runs.Where(r => r.Parent is not null))
            children.Add(await service.EndAsync(child.Id));
        // A question to the laboratory that was cut off may have been asked twice: then it is through a round earlier.
        return (
            $"{Words(ended)} {ended.Outputs}\n"
                + string.Join(
                    "\n",
                    children.Select(c => $"{c.Params} {c.State} {c.Outputs}").Order(StringComparer.Ordinal)
                ),
            children.Append(ended).Sum(c => c.Attempts.Count(a => a.Result == "lost"))
        );
    }

    static string Words(RunDetail run) =>
        $"{run.State} {run.Error}: {string.Join(", ", run.Steps.Select(s => $"{s.Path} {s.State}"))}; "
        + $"{run.Vars}; {string.Join("", run.Gates.Select(g => g.State[0]))}";

    static async Task KillAfterAsync(Service service, int? milliseconds)
    {
        if (milliseconds is null)
            return;
        await Task.Delay(milliseconds.Value);
        await service.KillAsync();
        await service.StartAsync();
    }

    [Fact]
    public async Task AServiceThatIsAskedToEndGoesOnAfterwards()
    {
        await using var service = await Service.EmptyAsync();
        await service.PushAsync(
            "chain: t\nsteps:\n  a: { kind: command, set: { run: [sleep, '1'] } }\n  w: { kind: wait, "
                + "set: { for: 2s } }\n  b: { kind: command, set: { shell: 'echo once >> effects' } }\ngates:\n"
                + "  - { from: a, to: b }\n"
        );
        var run = await service.Client.StartAsync(new("t"));
        await Task.Delay(400);
        await service.TerminateAsync();
        await service.StartAsync();
        Assert.Equal("succeeded", (await service.EndAsync(run.Id)).State);
        Assert.Equal("once\n", File.ReadAllText(Path.Combine(service.Work, "effects")));
    }
}
