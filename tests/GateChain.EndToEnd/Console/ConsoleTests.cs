using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>The built pages in Debian's chromium.</summary>
public sealed partial class ConsoleTests : IAsyncLifetime
{
    Service _service = null!;
    Browser _browser = null!;
    IPage _page = null!;

    public async ValueTask InitializeAsync()
    {
        _service = await Service.WithDemoAsync();
        _browser = new(_service.Address);
        _page = await _browser.PageAsync();
    }

    public async ValueTask DisposeAsync()
    {
        await _browser.DisposeAsync();
        await _service.DisposeAsync();
    }

    async Task<long> RunAsync(string chain = "milk-intake")
    {
        var parameters = chain is "milk-intake" or "quality-week" or "night-close"
            ? new Dictionary<string, System.Text.Json.JsonElement>
            {
                ["day"] = System.Text.Json.JsonSerializer.SerializeToElement("2026-11-22"),
            }
            : null;
        return (await _service.Client.StartAsync(new(chain, parameters))).Id;
    }

    [Fact]
    public async Task AHeldAndPausedRunIsDecidedOnItsPage()
    {
        Directory.CreateDirectory(Path.Combine(_service.Work, "ledger"));
        Directory.CreateDirectory(Path.Combine(_service.Work, "inbox/closing"));
        File.WriteAllText(Path.Combine(_service.Work, "ledger/locked"), "");
        var run = await RunAsync("night-close");
        await _page.GotoAsync($"/runs/{run}?step=closing_list");
        await Expect(_page.Locator(".hold")).ToContainTextAsync("the closing list has not come");
        await Expect(_page.GetByTestId("why")).ToContainTextAsync("probes.list.count");
        await CheckAccessAsync("a held run");
        File.WriteAllText(Path.Combine(_service.Work, "inbox/closing/list.csv"), "farm,cents\nfarm-001,100\n");
        await Expect(_page.Locator(".notice"))
            .ToContainTextAsync(
                "book paused the run: the program ended with exit code 1: the ledger is locked by the auditors"
            );
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "paused");
        await Expect(_page.GetByText("When it pauses").First).ToBeVisibleAsync();
        await CheckAccessAsync("a paused run");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Settle…" }).First.ClickAsync();
        await _page.GetByLabel("Give an output").SelectOptionAsync("exit_code");
        await _page.GetByLabel("exit_code", new() { Exact = true }).FillAsync("nonsense");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Settle", Exact = true }).ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToContainTextAsync("expected an int");
        await CheckAccessAsync("settling a step");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Leave out exit_code" }).ClickAsync();
        await _page.GetByLabel("Give an output").SelectOptionAsync("value");
        await _page.GetByLabel("value", new() { Exact = true }).FillAsync("{\"booked\": 1}");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Settle", Exact = true }).ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        await _page.Locator("[data-row='book']").ClickAsync();
        await Expect(_page.GetByTestId("why")).ToContainTextAsync("console decided: settle");
        // Outputs that do not fit are refused.
        _browser.CheckErrors(but: "422");
    }

    [Fact]
    public async Task AFailureThreeLevelsDownIsFollowedIntoTheChildAndResumedAbove()
    {
        Directory.CreateDirectory(Path.Combine(_service.Work, "laboratory"));
        File.WriteAllText(Path.Combine(_service.Work, "laboratory/down-west"), "");
        var run = await RunAsync("quality-week");
        await _page.GotoAsync($"/runs/{run}?step=depots%5B2%5D%2Fsamples");
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "failed");
        await _page.GetByRole(AriaRole.Link, new() { Name = "Show until_ready[3]/ask of run 4" }).ClickAsync();
        await Expect(_page.Locator("[data-row='until_ready[3]/ask']")).ToHaveAttributeAsync("aria-current", "true");
        await Expect(_page.GetByText("round 3").First).ToBeVisibleAsync();
        await CheckAccessAsync("a child run");
        File.Delete(Path.Combine(_service.Work, "laboratory/down-west"));
        await _page.GetByRole(AriaRole.Link, new() { Name = "quality-week depots[2]/samples" }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume…" }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume", Exact = true }).ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Restart" }).ClickAsync();
        await ConfirmAsync("Start");
        await Expect(_page.Locator(".runhead")).ToContainTextAsync("as run 1 was");
        await _page.GetByRole(AriaRole.Link, new() { Name = "Lanes" }).ClickAsync();
        await Expect(_page.Locator("table.dense")).ToContainTextAsync("laboratory");
        await CheckAccessAsync("the lanes");
        _browser.CheckErrors();
    }

    [Fact]
    public async Task ARunIsPausedAndGoesOn()
    {
        await _service.PushAsync(
            "chain: t\nsteps:\n  a: { kind: command, set: { shell: 'until [ -e go-on ]; do sleep 0.05; "
                + "done' } }\n  b: { kind: wait, set: { for: 0s } }\ngates: [ { from: a, to: b } ]"
        );
        var run = await RunAsync("t");
        await _page.GotoAsync($"/runs/{run}");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Pause" }).ClickAsync();
        await Expect(_page.Locator(".notice")).ToContainTextAsync("Paused by console");
        File.WriteAllText(Path.Combine(_service.Work, "go-on"), "");
        await Expect(_page.Locator("[data-row='a'] .state")).ToHaveAttributeAsync("data-state", "succeeded");
        await Expect(_page.Locator("[data-row='b'] .state")).ToHaveAttributeAsync("data-state", "pending");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume…" }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume", Exact = true }).ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        _browser.CheckErrors();
    }

    [Theory]
    [InlineData("Retry inside", "k1 k2")]
    [InlineData("Start over", "k1 k1 k2")]
    public async Task APausedCallGoesOnInsideOrIsDoneAnew(string button, string done)
    {
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["t.chain.yaml"] = "chain: t\nsteps: { c: { kind: call, chain: inner, ifFails: pause } }"u8.ToArray(),
                ["inner.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(
                    "chain: inner\nsteps:\n  k1: { kind: command, set: { shell: "
                        + "'echo k1 >> done' } }\n  k2: { kind: command, set: { shell: "
                        + "'test -e go-on && echo k2 >> done' } }\ngates: [ { from: k1, to: k2 } ]"
                ),
            }
        );
        var run = await RunAsync("t");
        await _page.GotoAsync($"/runs/{run}");
        await Expect(_page.Locator(".notice")).ToContainTextAsync("c paused the run");
        File.WriteAllText(Path.Combine(_service.Work, "go-on"), "");
        await _page.GetByRole(AriaRole.Button, new() { Name = button }).ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        Assert.Equal(done, string.Join(' ', File.ReadAllLines(Path.Combine(_service.Work, "done"))));
        _browser.CheckErrors();
    }

    [Fact]
    public async Task WhatKeepsTheServiceFromItsWorkStandsAboveEveryPage()
    {
        Assert.SkipWhen(
            Environment.GetEnvironmentVariable("GATECHAIN_TEST_CLUSTER") is not null,
            "it damages the file of a service that has one"
        );
        await _service.PushAsync("chain: t\nsteps: { a: { kind: wait, set: { for: 1h } } }");
        var run = await RunAsync("t");
        await _service.TerminateAsync();
        var whole = Damage("damaged");
        await _service.StartAsync();
        await _page.GotoAsync("/lanes");
        var notice = _page.GetByRole(AriaRole.Alert, new() { Name = "The service" });
        await Expect(notice).ToContainTextAsync($"Run {run} can't continue");
        await CheckAccessAsync("the notice of a stranded run");
        // The others are there as ever.
        await _page.GotoAsync("/chains");
        await Expect(_page.GetByRole(AriaRole.Link, new() { Name = "Milk intake of one day" })).ToBeVisibleAsync();
        await _page.GotoAsync("/connections");
        await Expect(_page.GetByText("warehouse").First).ToBeVisibleAsync();
        await notice.GetByRole(AriaRole.Button, new() { Name = "Try again" }).ClickAsync();
        await Expect(_page.GetByText($"run {run} still can't continue")).ToBeVisibleAsync();
        await Expect(notice).ToBeVisibleAsync();
        Damage(whole);
        // On a slow disk the service may have found its database locked meanwhile; it says so and tries again itself.
        await Expect(notice).Not.ToContainTextAsync("Nothing can be written");
        var answer = await _page.RunAndWaitForResponseAsync(
            () => notice.GetByRole(AriaRole.Button, new() { Name = "Try again" }).ClickAsync(),
            response => response.Url.EndsWith("/recover", StringComparison.Ordinal)
        );
        Assert.True(answer.Ok, await answer.TextAsync());
        await Expect(notice).ToBeHiddenAsync();
        await _page.GotoAsync($"/runs/{run}");
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "running");

        // Puts another text in the place of the chain's only release.
        string Damage(string text)
        {
            using var database = new Microsoft.Data.Sqlite.SqliteConnection(
                $"Data Source={Path.Combine(_service.Data, "gatechain.db")};Pooling=False"
            );
            database.Open();
            using var read = database.CreateCommand();
            read.CommandText = "SELECT source FROM releases WHERE chain = 't'";
            var before = (string)read.ExecuteScalar()!;
            using var write = database.CreateCommand();
            write.CommandText = "UPDATE releases SET source = $text WHERE chain = 't'";
            write.Parameters.AddWithValue("$text", text);
            Assert.Equal(1, write.ExecuteNonQuery());
            return before;
        }
    }

    [Fact]
    public async Task AFailedRunGoesOnWithAMendedDraft()
    {
        const string chain =
            "chain: t\nsteps:\n  a: { kind: wait, set: { for: 0s } }\n  b: { kind: command, set: "
            + "{ shell: 'exit 3' } }\ngates: [ { from: a, to: b } ]";
        await _service.PushAsync(chain.Replace("exit 3", "exit 4", StringComparison.Ordinal));
        await _service.PushAsync(chain);
        var run = await RunAsync("t");
        await _service.EndAsync(run);
        await _service.Client.SaveDraftAsync("t", 0, chain.Replace("exit 3", "exit 0", StringComparison.Ordinal));
        await _page.GotoAsync($"/runs/{run}");
        var facts = _page.GetByLabel("The run");
        await Expect(facts).ToContainTextAsync("It follows release 2 ");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume…" }).ClickAsync();
        var follow = _page.GetByLabel("Follow");
        await Expect(follow.Locator("option"))
            .ToHaveTextAsync([
                new Regex("^what the run has followed$"),
                new Regex("^the draft, as .* saved it$"),
                new Regex("^release 1$"),
            ]);
        await CheckAccessAsync("the resume dialog with other releases");
        await follow.SelectOptionAsync("draft");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume", Exact = true }).ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        await Expect(facts).ToContainTextAsync("It follows a draft ");
        await Expect(facts).ToContainTextAsync("It moved to a draft ");
        _browser.CheckErrors();
    }

    [Fact]
    public async Task ARunIsWatchedExplainedAndResumed()
    {
        var run = await RunAsync();
        await _page.GotoAsync($"/runs/{run}");
        // It updates by itself, from running to failed.
        var load = _page.Locator("[data-row='depots[2]/load']");
        await Expect(load.Locator("[data-state='failed']").First).ToBeVisibleAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "failed");
        // The drawing shows the failing iteration, and its gates as they were decided.
        await Expect(_page.Locator(".step[data-step='depots/load']")).ToHaveAttributeAsync("data-state", "failed");
        await Expect(_page.Locator("[data-gate='depots-tell_office']")).ToHaveAttributeAsync("data-gate-state", "open");
        await Expect(_page.Locator("[data-gate='load-archive']")).ToHaveAttributeAsync("data-gate-state", "shut");

        await load.ClickAsync();
        await Expect(_page.GetByTestId("why")).ToContainTextAsync("74 of 1,265 lines were rejected; the limit is 50");
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Log" }).ClickAsync();
        await Expect(_page.Locator(".log")).ToContainTextAsync("1,265 lines read, 74 rejected");
        await _page.GetByRole(AriaRole.Tab, new() { Name = "In and out" }).ClickAsync();
        await Expect(_page.Locator(".panel")).ToContainTextAsync("rows_rejected");
        // The drawing may not show all of it.
        await _page.Locator("[data-row='price']").ClickAsync();
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Why" }).ClickAsync();
        await Expect(_page.GetByTestId("why")).ToContainTextAsync("size(steps.depots.collected)");

        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume…" }).ClickAsync();
        await _page.GetByLabel("Broken lines a depot may have").FillAsync("100");
        await CheckAccessAsync("the resume dialog");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Resume", Exact = true }).ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        await Expect(load.Locator("[data-state='succeeded']").First).ToBeVisibleAsync();
        Assert.Equal("4509", _service.Warehouse("SELECT count(DISTINCT pickup_id) FROM pickups"));

        // The first leg can still be looked at.
        await _page.GetByLabel("Leg").SelectOptionAsync("1");
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "failed");
        _browser.CheckErrors();
    }

    // What can't be taken back is asked about in a dialog.
    Task ConfirmAsync(string label) =>
        _page.GetByRole(AriaRole.Dialog).GetByRole(AriaRole.Button, new() { Name = label, Exact = true }).ClickAsync();

    [Fact]
    public async Task ARunIsStoppedByButton()
    {
        await _service.PushAsync(
            "chain: slow\ntitle: Slow\nsteps:\n  a: { kind: command, set: { shell: 'echo begun; "
                + "sleep 60' } }\n  b: { kind: assign }\ngates:\n  - { from: a, to: b }\n"
        );
        var run = await RunAsync("slow");
        await _page.GotoAsync($"/runs/{run}?step=a");
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Log" }).ClickAsync();
        await Expect(_page.Locator(".log")).ToContainTextAsync("begun");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Stop" }).ClickAsync();
        await ConfirmAsync("Stop");
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "stopped");
        _browser.CheckErrors();
    }

    [Fact]
    public async Task ALostConnectionIsToldAndTheRunIsThereAgainAfterwards()
    {
        // It lasts until the file is there, however slow the machine is.
        await _service.PushAsync(
            "chain: slow\nsteps:\n  a: { kind: command, set: { shell: 'until [ -e go ]; do sleep 0.05; done' } }\n"
        );
        var run = await RunAsync("slow");
        await _page.GotoAsync($"/runs/{run}");
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "running");
        await _service.KillAsync();
        await Expect(_page.GetByText("Connection lost")).ToBeVisibleAsync();
        await _service.StartAsync();
        await File.WriteAllTextAsync(Path.Combine(_service.Work, "go"), "");
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        await Expect(_page.GetByText("Connection lost")).Not.ToBeVisibleAsync();
    }

    Task CheckAccessAsync(string where) => Browser.CheckAccessAsync(_page, where);
}
