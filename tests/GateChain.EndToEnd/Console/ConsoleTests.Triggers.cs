using System.Text.RegularExpressions;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

public sealed partial class ConsoleTests
{
    [Fact]
    public async Task TriggersAreSeenSwitchedFiredAndEdited()
    {
        await _page.GotoAsync("/triggers");
        // The demo of the tests is held, so that nothing starts in the middle of others.
        await Expect(_page.Locator(".notice")).ToContainTextAsync("Nothing starts by itself");
        await _page
            .GetByRole(AriaRole.Navigation, new() { Name = "Triggers by chain" })
            .GetByRole(AriaRole.Link, new() { Name = "nightly" })
            .ClickAsync();
        await Expect(_page.Locator(".sentence"))
            .ToHaveTextAsync("Starts milk-intake every day at 02:30 Dublin time, except dairy-holidays.");
        await Expect(_page.Locator(".times li")).ToHaveCountAsync(5);
        await CheckAccessAsync("the triggers");
        await _page.GetByRole(AriaRole.Switch, new() { Name = "nightly is on" }).PressAsync("Space");
        await Expect(_page.GetByText("says on")).ToBeVisibleAsync();

        // By hand it fires all the same, and leads to its run and back.
        await _page.GetByRole(AriaRole.Button, new() { Name = "Fire now" }).ClickAsync();
        await _page.Locator(".fires").GetByRole(AriaRole.Link, new() { Name = "run 1" }).ClickAsync();
        await Expect(_page.Locator(".runhead")).ToContainTextAsync("by trigger nightly");
        await _page.Locator(".runhead").GetByRole(AriaRole.Link, new() { Name = "nightly" }).ClickAsync();

        // The form says what it would do before it is saved; what it does not know stays in the file.
        await _page.GetByRole(AriaRole.Button, new() { Name = "Edit…" }).ClickAsync();
        await _page.GetByLabel("How often").SelectOptionAsync("weekday");
        await _page.GetByLabel("At", new() { Exact = true }).FillAsync("25:00");
        // The service is asked a moment after the typing.
        await Expect(_page.Locator(".triggerform .errorbox"))
            .ToContainTextAsync("“25:00” is no time of the day", new() { Timeout = 20_000 });
        await _page.GetByLabel("At", new() { Exact = true }).FillAsync("03:15");
        await Expect(_page.Locator(".preview"))
            .ToContainTextAsync(
                "Fires every weekday at 03:15 Dublin time, except dairy-holidays.",
                new() { Timeout = 20_000 }
            );
        await _page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await Expect(_page.Locator(".sentence")).ToContainTextAsync("every weekday at 03:15 Dublin time");
        var file = System.Text.Encoding.UTF8.GetString((await _service.Client.ExportAsync())["triggers.yaml"]);
        Assert.Contains("# Every night: the day that has just ended.", file, StringComparison.Ordinal);
        Assert.Contains("every: weekday", file, StringComparison.Ordinal);

        await _page.GetByRole(AriaRole.Button, new() { Name = "Backfill…" }).ClickAsync();
        await Expect(_page.Locator(".preview")).ToContainTextAsync("runs would be started, for Dublin times:");
        await Expect(_page.Locator(".preview .times li").First).ToContainTextAsync("03:15");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Cancel" }).ClickAsync();

        await _page
            .GetByRole(AriaRole.Navigation, new() { Name = "Triggers by chain" })
            .GetByRole(AriaRole.Link, new() { Name = "poor-milk" })
            .ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Edit…" }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Look at something else too" }).ClickAsync();
        await _page.GetByLabel("path").FillAsync("inbox/late/*");
        await _page.GetByLabel("Called").Nth(1).FillAsync("late");
        await _page.GetByLabel("When (an expression)").FillAsync("probes.poor.value > 0 || probes.late.count > 9");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await Expect(_page.Locator(".sentence")).ToContainTextAsync("probes.late.count > 9");

        await _page.GetByText("Week", new() { Exact = true }).ClickAsync();
        await Expect(_page.Locator(".week .day")).ToHaveCountAsync(7);
        await Expect(_page.Locator(".week .today")).ToContainTextAsync("nightly");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Release" }).ClickAsync();
        await Expect(_page.GetByText("Triggers that are on start their chains")).ToBeVisibleAsync();
        await _page.GotoAsync("/runs?trigger=nightly");
        await Expect(_page.Locator("tbody tr")).ToHaveCountAsync(1);
        await Expect(_page).ToHaveURLAsync(new Regex("trigger=nightly"));

        // Both days are of the one who looks, and the last one belongs to it.
        var today = await _page.EvaluateAsync<string>("new Date().toLocaleDateString('sv')");
        await _page.GetByLabel("From").FillAsync(today);
        await _page.GetByLabel("To", new() { Exact = true }).FillAsync(today);
        await Expect(_page).ToHaveURLAsync(new Regex($"from={today}.*to={today}"));
        await Expect(_page.Locator("tbody tr")).ToHaveCountAsync(1);
        await _page.GetByLabel("To", new() { Exact = true }).FillAsync("2026-01-01");
        await Expect(_page.GetByText("No run matches.")).ToBeVisibleAsync();
    }

    [Fact]
    public async Task WhatAChainKeepsIsSeenAndSet()
    {
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["counter.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(
                    "chain: counter\nvars: { seen: { type: int, keep: true, initial: 0 } }\n"
                        + "steps: { count: { kind: assign, assign: { vars.seen: vars.seen + 1 } } }"
                ),
            }
        );
        var run = (await _service.EndAsync((await _service.Client.StartAsync(new("counter"))).Id)).Id;
        await _page.GotoAsync("/chains/counter");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Kept values" }).ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToContainTextAsync($"version 1, of run {run}");
        await _page.GetByLabel("seen").FillAsync("41");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Set", Exact = true }).ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToContainTextAsync("version 2, set by");
        var kept = Assert.Single(await _service.Client.KeptAsync("counter"));
        Assert.Equal(41, kept.Values.GetProperty("seen").GetInt32());
    }
}
