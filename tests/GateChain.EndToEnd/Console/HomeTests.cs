using System.Text.Json;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>What an operator sees first, the history of a chain, and two runs beside each other.</summary>
public sealed class HomeTests : BrowserTests
{
    private protected override Task<Service> ServiceAsync() => Service.WithDemoAsync();

    ILocator Link(string name) => _page.GetByRole(AriaRole.Link, new() { Name = name, Exact = true });

    async Task<long> RunAsync(string day)
    {
        var values = new Dictionary<string, JsonElement> { ["day"] = JsonSerializer.SerializeToElement(day) };
        var run = (await _service.Client.StartAsync(new("milk-intake", values, "dev"))).Id;
        await _service.EndAsync(run);
        return run;
    }

    /// <summary>
    /// A night in which the west depot sent what the south depot sends, with 11 broken lines; then the files of the
    /// next day come.
    /// </summary>
    async Task<long> RunNightBeforeAsync()
    {
        string[] depots = ["north", "south", "west"];
        string Inbox(string depot, string day) => Path.Combine(_service.Work, $"inbox/{depot}/pickups-{day}.csv");
        var files = depots.ToDictionary(d => d, d => File.ReadAllText(Inbox(d, "2026-11-22")));
        foreach (var depot in depots)
        {
            var text = files[depot == "west" ? "south" : depot];
            File.Move(Inbox(depot, "2026-11-22"), Inbox(depot, "2026-11-21"));
            File.WriteAllText(
                Inbox(depot, "2026-11-21"),
                text.Replace("2026-11-22", "2026-11-21", StringComparison.Ordinal)
            );
        }
        var run = await RunAsync("2026-11-21");
        foreach (var depot in depots)
        {
            File.WriteAllText(Inbox(depot, "2026-11-22"), files[depot]);
            // The chain takes the newest one.
            File.SetLastWriteTimeUtc(Inbox(depot, "2026-11-21"), new(2026, 11, 22, 1, 0, 0, DateTimeKind.Utc));
        }
        return run;
    }

    async Task HistoryHasAsync(int legs)
    {
        for (var tries = 0; (await _service.Client.HistoryAsync("milk-intake")).Legs.Count < legs; tries++)
        {
            Assert.True(tries < 600, "history lags behind for more than thirty seconds");
            await Task.Delay(50);
        }
    }

    [Fact]
    public async Task FromHomeTwoClicksLeadToWhatWasDifferentTonight()
    {
        var good = await RunNightBeforeAsync();
        var bad = await RunAsync("2026-11-22");
        await _page.GotoAsync("/");
        var needs = _page.GetByRole(AriaRole.Listitem).Filter(new() { HasText = "Milk intake of one day" });
        await Expect(needs.First).ToContainTextAsync("74 of 1,265 lines were rejected; the limit is 50");
        await Browser.CheckAccessAsync(_page, "home");
        // One click is enough.
        await Link("what was different?").First.ClickAsync();
        await Expect(_page.Locator(".parts"))
            .ToContainTextAsync("They part at Load the pickups: west: failed, succeeded before");
        await Expect(_page.Locator(".parts")).ToContainTextAsync("74 rows rejected, 11 before");
        await Expect(_page.GetByText($"run {good}").First).ToBeVisibleAsync();
        await Browser.CheckAccessAsync(_page, "what was different");
        // The step that they part at is shown as it ran.
        await _page.Locator(".parts").GetByRole(AriaRole.Link).ClickAsync();
        await Expect(_page.Locator(".panel h2").First).ToHaveTextAsync("Load the pickups");
        Assert.Contains($"/runs/{bad}", _page.Url, StringComparison.Ordinal);
        // The same on the command line.
        var (exit, output, _) = await _service.CliAsync("diff", $"{bad}");
        Assert.Equal(0, exit);
        Assert.Contains("they part at depots/load", output);
        Assert.Matches(@"west\s+✓ succeeded\s+✕ failed .* 1,512\s+1,265\s+11\s+74", output);
        (_, output, _) = await _service.CliAsync("home");
        Assert.Contains($"what was different: gatechain diff {bad}", output);
    }

    [Fact]
    public async Task AChainsHistoryHasARowForEachStepAndAColumnForEachRun()
    {
        var run = await RunAsync("2026-11-22");
        await RunAsync("2026-11-22");
        await HistoryHasAsync(2);
        await _page.GotoAsync("/chains/milk-intake");
        await Link("History").ClickAsync();
        var grid = _page.GetByRole(AriaRole.Region, new() { Name = "Steps by runs" });
        await Expect(grid.GetByRole(AriaRole.Link, new() { Name = $"Run {run}, failed" })).ToBeVisibleAsync();
        await Expect(_page.Locator(".charts canvas").First).ToBeVisibleAsync();
        await Browser.CheckAccessAsync(_page, "history");
        await grid.GetByRole(AriaRole.Button, new() { Name = "Load the pickups" }).ClickAsync();
        // Its rows are drawn, too.
        await Expect(_page.Locator(".charts figure")).ToHaveCountAsync(2);
        await grid.GetByRole(AriaRole.Link, new() { NameRegex = new($"^Run {run}: Load the pickups failed") })
            .ClickAsync();
        await Expect(_page.Locator(".panel h2").First).ToHaveTextAsync("Load the pickups");
        // Of the three the one that failed is chosen.
        await Expect(_page.Locator(".panel .mono").First).ToHaveTextAsync("depots[2] / load");
    }

    [Fact]
    public async Task ARunInVainTellsThatNothingNeedsAPerson()
    {
        await _page.GotoAsync("/");
        await Expect(_page.GetByRole(AriaRole.Heading, new() { Name = "Nothing needs you" })).ToBeVisibleAsync();
        await _page.GotoAsync("/runs/99/difference");
        await Expect(_page.GetByText("there is no run 99")).ToBeVisibleAsync();
        await _page.GotoAsync("/chains/no-such-chain/history");
        await Expect(_page.GetByText("None of its runs has ended yet.")).ToBeVisibleAsync();
        var run = await RunAsync("2026-11-22");
        await _page.GotoAsync($"/runs/{run}/difference");
        await Expect(_page.GetByText("name one to compare with")).ToBeVisibleAsync();
    }
}
