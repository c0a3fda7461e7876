using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

public sealed partial class ConsoleTests
{
    [Fact]
    public async Task AChainIsRehearsedOnItsPage()
    {
        await _page.GotoAsync("/chains/milk-intake");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Rehearse" }).ClickAsync();
        await Expect(_page.GetByLabel("What happens").GetByRole(AriaRole.Listitem).Last)
            .ToContainTextAsync("the run succeeded");
        await _page.Locator(".react-flow__node", new() { HasText = "Load the pickups" }).Last.ClickAsync();
        await _page.GetByLabel("Its outcome").SelectOptionAsync("fails");
        await Expect(_page.GetByRole(AriaRole.Region, new() { Name = "Rehearsal" })).ToContainTextAsync("It ends");
        await Expect(_page.GetByLabel("What happens").GetByRole(AriaRole.Listitem).Last)
            .ToContainTextAsync("the run failed: depots[");
        await Expect(_page.Locator("[data-gate='depots-tell_office']")).ToHaveAttributeAsync("data-gate-state", "open");
        await _page.Locator("[data-gate='depots-tell_office'] button").HoverAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToContainTextAsync("opens (on failure)");
        await CheckAccessAsync("a rehearsal");
        await _page.GetByLabel("Give an output").SelectOptionAsync("rows_rejected");
        await _page.GetByLabel("rows_rejected", new() { Exact = true }).FillAsync("many");
        await _page.GetByLabel("Its outcome").FocusAsync();
        await Expect(_page.GetByText("It is a whole number.")).ToBeVisibleAsync();
        await _page.GetByLabel("rows_rejected", new() { Exact = true }).FillAsync("3");
        await CheckAccessAsync("a rehearsal with an output");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Everything succeeds again" }).ClickAsync();
        await Expect(_page.GetByLabel("What happens").GetByRole(AriaRole.Listitem).Last)
            .ToContainTextAsync("the run succeeded");
        Assert.Empty(await _service.Client.RunsAsync());
    }

    [Fact]
    public async Task PointingAtAGateTellsWhyItIsAsItIs()
    {
        var run = await RunAsync();
        await _service.EndAsync(run);
        await _page.GotoAsync($"/runs/{run}");
        await _page.Locator("[data-gate='depots-price'] button").HoverAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog))
            .ToContainTextAsync(
                "“depots” failed, and the gate asks for success or failure and "
                    + "size(steps.depots.collected) > 1 (steps.depots.collected = [1817, 1501]): open."
            );
        await CheckAccessAsync("a gate that is pointed at");
    }

    [Fact]
    public async Task AChainIsDrawnFromItsFileAndStarted()
    {
        await _page.GotoAsync("/chains");
        await _page.GetByRole(AriaRole.Link, new() { Name = "Milk intake of one day" }).ClickAsync();
        await Expect(_page.Locator(".step")).ToHaveCountAsync(12);
        await Expect(_page.Locator(".container")).ToHaveCountAsync(1);
        await Expect(_page.Locator(".gate")).ToHaveCountAsync(13);
        await Expect(_page.Locator("[data-gate='depots-tell_office']")).ToContainTextAsync("on failure");
        await Expect(_page.Locator("[data-gate='pick_mode-load_prices']")).ToContainTextAsync("priced");
        await Expect(_page.Locator(".cm-content")).ToContainTextAsync("chain: milk-intake");

        await _page.GetByRole(AriaRole.Button, new() { Name = "Run…" }).ClickAsync();
        await _page.GetByLabel("Day of collection").FillAsync("someday");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Start" }).ClickAsync();
        await Expect(_page.GetByText("It is a day or a time")).ToBeVisibleAsync();
        await Expect(_page.GetByLabel("Day of collection")).ToBeFocusedAsync();
        await CheckAccessAsync("the start dialog with an error");
        await _page.GetByLabel("Day of collection").FillAsync("2026-11-22");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Start" }).ClickAsync();
        await _page.WaitForURLAsync(new Regex("/runs/1"));
        // The refused start is an answer with an error status, which browsers write to their console.
        _browser.CheckErrors(but: "422");
    }

    [Fact]
    public async Task ColumnsOfALoadAreChosenByWhatSourceAndTableHave()
    {
        var run = await RunAsync();
        await _service.EndAsync(run);
        await _page.GotoAsync("/chains/milk-intake/design?step=depots/load");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Choose columns…" }).ClickAsync();
        var picker = _page.GetByRole(AriaRole.Dialog);
        // Where rows come from depends on an earlier step; the table is known.
        await Expect(picker).ToContainTextAsync("can be told only with the data of a run");
        await Expect(picker.GetByLabel("degrees")).ToBeCheckedAsync();
        await _page.Keyboard.PressAsync("Escape");
        await _page.GetByLabel("Show values of expressions with the data of").SelectOptionAsync($"{run}");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Choose columns…" }).ClickAsync();
        await Expect(picker).ToContainTextAsync("temperature source");
        await Expect(picker).ToContainTextAsync("litres source and target");
        await CheckAccessAsync("columns");
        // On a busy machine a save takes its time; what is chosen meanwhile is saved after it.
        var saving = new TaskCompletionSource();
        await _page.RouteAsync("**/draft", async route =>
        {
            saving.TrySetResult();
            await Task.Delay(1_500);
            await route.ContinueAsync();
        });
        await picker.GetByLabel("tanker").UncheckAsync();
        await saving.Task;
        await picker.GetByLabel("temperature").CheckAsync();
        // It saves by itself, after a moment.
        var draft = "";
        for (var i = 0; i < 100 && !draft.Contains("temperature: {}", StringComparison.Ordinal); i++)
        {
            await Task.Delay(200);
            draft = (await _service.Client.DraftAsync("milk-intake")).Source;
        }
        Assert.DoesNotContain("tanker:", draft, StringComparison.Ordinal);
        Assert.Contains("temperature: {}", draft, StringComparison.Ordinal);
        Assert.Contains("degrees:   { type: double, from: temperature }", draft, StringComparison.Ordinal);
        _browser.CheckErrors();
    }

    [Fact]
    public async Task ConnectionsAreTestedSecretsSetAndProfilesCompared()
    {
        await _page.GotoAsync("/connections");
        var lab = _page.Locator("[data-connection='lab']");
        await Expect(lab).ToContainTextAsync("⚠ not set");
        await Expect(lab.GetByRole(AriaRole.Link, new() { Name = "lab-results" })).ToBeVisibleAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Test lab" }).ClickAsync();
        await Expect(lab).ToContainTextAsync("there is no secret “lab”");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Test warehouse" }).ClickAsync();
        await Expect(_page.Locator("[data-connection='warehouse']")).ToContainTextAsync("SQLite 3");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Set… lab" }).ClickAsync();
        await _page.GetByLabel("Value", new() { Exact = true }).FillAsync("short");
        await CheckAccessAsync("a secret that is being set");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Set", Exact = true }).ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Alert)).ToContainTextAsync("a secret has 6 characters at least");
        await _page.GetByLabel("Value", new() { Exact = true }).FillAsync("made-up-lab-secret");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Set", Exact = true }).ClickAsync();
        await Expect(_page.Locator("[data-secret='lab']")).ToContainTextAsync("set by console");
        await Expect(lab).Not.ToContainTextAsync("⚠ not set");
        Assert.DoesNotContain("made-up-lab-secret", await _page.ContentAsync());
        await Expect(_page.Locator("[data-value='office']")).ToContainTextAsync("dev@larkmoor.example");
        await CheckAccessAsync("the connections");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Remove lab" }).ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToContainTextAsync("lab uses it");
        await ConfirmAsync("Remove");
        await Expect(_page.Locator("[data-secret='lab']")).ToContainTextAsync("not set");
        // The answer to a secret that is too short is an error of the network to the browser.
        _browser.CheckErrors(but: "422");
    }

    [Fact]
    public async Task WhatFeedsATableIsFollowedAndARunIsKeptInAnyCase()
    {
        var run = await RunAsync();
        await _service.EndAsync(run);
        await _page.GotoAsync("/data");
        await _page.GetByLabel("Find").FillAsync("payments");
        await _page.GetByRole(AriaRole.Link, new() { Name = "warehouse:payments" }).ClickAsync();
        await _page.GetByRole(AriaRole.Link, new() { Name = "warehouse:pickups" }).ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Heading, new() { Level = 1 })).ToHaveTextAsync("warehouse:pickups");
        await Expect(_page.GetByRole(AriaRole.Link, new() { Name = "milk-intake, depots/load" })).ToBeVisibleAsync();
        await _page.GotoAsync($"/runs/{run}");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Pin…" }).ClickAsync();
        await _page.GetByLabel("Why").FillAsync("the auditors look at it");
        await _page.Keyboard.PressAsync("Enter");
        await Expect(_page.GetByText("is pinned, with those that it has called")).ToBeVisibleAsync();
        await _page.GotoAsync("/keeping");
        await Expect(_page.GetByRole(AriaRole.Cell, new() { Name = "the auditors look at it" })).ToBeVisibleAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Change what stays of milk-intake" }).ClickAsync();
        await _page.GetByLabel("Days").FillAsync("30");
        await CheckAccessAsync("how long runs are kept");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Keep so" }).ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Cell, new() { Name = "kept for 30 days, the newest 10 in any case" }))
            .ToBeVisibleAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = $"Unpin run {run}" }).ClickAsync();
        await Expect(_page.GetByText("None. Whoever may operate a run")).ToBeVisibleAsync();
        _browser.CheckErrors();
    }

    [Fact]
    public async Task ARunIsGoneThroughInTime()
    {
        var run = await RunAsync();
        await _service.EndAsync(run);
        await _page.GotoAsync($"/runs/{run}");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Through time…" }).ClickAsync();
        var bar = _page.GetByRole(AriaRole.Group, new() { Name = "Through time" });
        await Expect(bar).ToContainTextAsync("the run failed");
        // Back to the begin: nothing has begun but what the chain begins with.
        await bar.GetByLabel("Decision", new() { Exact = true }).FillAsync("0");
        await Expect(bar).ToContainTextAsync("1 of ");
        await Expect(_page.Locator(".runhead .pill")).ToHaveTextAsync(new Regex("running"));
        await Expect(_page.Locator("[data-gate='prepare-depots']"))
            .ToHaveAttributeAsync("data-gate-state", "undecided");
        await CheckAccessAsync("a run in time");
        await _page.Keyboard.PressAsync(".");
        await Expect(bar).ToContainTextAsync("prepare");
        await Expect(_page).ToHaveURLAsync(new Regex("moment=[2-9]"));
        // The address is that moment, for others too.
        await _page.ReloadAsync();
        await Expect(_page.Locator("[data-gate='prepare-depots']")).ToHaveAttributeAsync("data-gate-state", "open");
        await bar.GetByLabel("As it is now").ClickAsync();
        await Expect(_page.Locator(".runhead .pill")).ToHaveTextAsync(new Regex("failed"));
        _browser.CheckErrors();
    }

    [Fact]
    public async Task AxeFindsNothingOnAnyPage()
    {
        var run = await RunAsync();
        await _service.EndAsync(run);
        foreach (
            var (path, sign) in new[]
            {
                ("/chains", "table.dense"),
                ("/chains/milk-intake", ".step"),
                ("/runs", "table.dense"),
                ($"/runs/{run}", ".step"),
                ($"/runs/{run}?step=depots%5B2%5D%2Fload", "[data-testid=why]"),
                ("/help", "dl"),
                ("/data", "table.dense"),
                ("/data?name=warehouse%3Apickups", ".flowplace"),
                ("/keeping", ".usagebar"),
                ("/nowhere", "h1"),
            }
        )
        {
            await _page.GotoAsync(path);
            await _page.Locator(sign).First.WaitForAsync();
            await CheckAccessAsync($"{path}");
        }
        _browser.CheckErrors();
    }
}
