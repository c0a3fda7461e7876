using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>
/// A person who has never seen it builds the nightly chain: eight steps, a loop, two conditions, a child.
/// </summary>
public sealed class NightlyTests : IAsyncLifetime
{
    const string Expected = """
        chain: nightly
        title: Larkmoor nightly
        params:
          day: { type: timestamp }
          depots: { type: list<string>, default: [ north, south, west ] }
        steps:
          prepare:
            kind: sql
            set: { connection: warehouse, query: SELECT 1 }
          every_depot:
            kind: each
            over: params.depots
            steps:
              look:
                kind: file
                set: { action: look, path: "inbox/${item}/*.csv" }
              load:
                kind: command
                set: { shell: "echo ${item}" }
            gates:
              - { from: look, to: load, when: steps.look.count > 0 }
          samples:
            kind: call
            chain: depot-samples
            inputs: { depot: "'north'", day: params.day }
          total:
            kind: sql
            set: { connection: warehouse, query: SELECT 42, give: scalar }
          report:
            kind: command
            title: Tell the office
            set: { shell: "echo ${steps.total.value} litres" }
            retry: { limit: 3, wait: 5s, factor: 2 }
          alarm:
            kind: command
            set: { shell: "echo ${steps.every_depot.error.message}" }
          few:
            kind: command
            set: { shell: echo too few depots }
        gates:
          - { from: prepare, to: every_depot }
          - { from: every_depot, to: samples, when: steps.every_depot.succeeded > 1 }
          - { from: samples, to: total }
          - { from: total, to: report, on: always }
          - { from: every_depot, to: alarm, on: failure }
          - { from: every_depot, to: few, else: true }
        handlers:
          failure:
            steps:
              tell:
                kind: command
                set: { shell: "echo ${error.message}" }

        """;

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

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task TheNightlyChainIsBuiltRehearsedTriedAndReleased(bool mouse)
    {
        DesignerPage designer = mouse ? new MouseDesigner(_page) : new KeyboardDesigner(_page);
        await BeginAsync(mouse);

        await designer.ChooseChainAsync();
        await designer.FillAsync("Title", "Larkmoor nightly");
        await designer.FillAsync("Name of a new parameter", "day");
        await designer.PressAsync("Add", "Parameters");
        await designer.SelectAsync("Type of day", "timestamp");
        await designer.FillAsync("Name of a new parameter", "depots");
        await designer.PressAsync("Add", "Parameters");
        await designer.SelectAsync("Type of depots", "list<string>");
        await designer.FillItemsAsync("When nothing is given", "depots", "[\"north\", \"south\", \"west\"]");

        await designer.AddAsync("sql", null);
        await designer.NameAsync("prepare");
        await designer.SelectAsync("Connection", "warehouse");
        await designer.FillAsync("Query", "SELECT 1");

        await designer.AddAsync("each", "prepare");
        await designer.NameAsync("every_depot");
        await designer.FillAsync("Over", "params.depots");
        await designer.AddAsync("file", null, into: "every_depot");
        await designer.NameAsync("look");
        await designer.SelectAsync("What does it do?", "look");
        await designer.FillAsync("Path", "inbox/${item}/*.csv");
        await designer.AddAsync("command", "every_depot/look");
        await designer.NameAsync("load");
        await designer.FillAsync("Shell", "echo ${item}");
        await designer.ChooseGateAsync("every_depot/look", "load");
        await designer.FillAsync("Condition", "steps.look.count > 0");

        await designer.AddAsync("call", null);
        await designer.NameAsync("samples");
        await designer.SelectAsync("Chain", "depot-samples");
        await designer.PressAsync("+ day");
        await designer.FillAsync("depot", "'north'");
        await designer.ConnectAsync("every_depot", "samples");
        await designer.FillAsync("Condition", "steps.every_depot.succeeded > 1");

        await designer.AddAsync("sql", "samples");
        await designer.NameAsync("total");
        await designer.SelectAsync("Connection", "warehouse");
        await designer.FillAsync("Query", "SELECT 42");
        await designer.SelectAsync("What comes back?", "scalar", "one");

        await designer.AddAsync("command", "total");
        await designer.NameAsync("report");
        await designer.FillAsync("Title", "Tell the office");
        await designer.FillAsync("Shell", "echo ${steps.total.value} litres");
        await designer.PressAsync("When it fails");
        await designer.PressAsync("Try again when it fails");
        await designer.ChooseGateAsync("total", "report");
        await designer.TickAsync("after a failure");
        await designer.TickAsync("when it was skipped");

        await designer.AddAsync("command", null);
        await designer.NameAsync("alarm");
        await designer.FillAsync("Shell", "echo ${steps.every_depot.error.message}");
        await designer.ConnectAsync("every_depot", "alarm");
        await designer.TickAsync("after a failure");
        await designer.TickAsync("after a success");
        TestContext.Current.SendDiagnosticMessage(
            $"the nightly chain, {(mouse ? "mouse" : "keyboard")}: {designer.Actions}"
        );
        await designer.AddAsync("command", null);
        await designer.NameAsync("few");
        await designer.FillAsync("Shell", "echo too few depots");
        await designer.ConnectAsync("every_depot", "few");
        await designer.TickAsync("else");
        await designer.HandleAsync("when it fails");
        await designer.AddAsync("command", null, into: "@failure");
        await designer.NameAsync("tell");
        await designer.FillAsync("Shell", "echo ${error.message}");
        TestContext.Current.SendDiagnosticMessage($"with an else gate and a handler: {designer.Actions}");
        for (var i = 0; !(await _service.Client.DraftAsync("nightly")).Source.Contains("{error.message}"); i++)
        {
            Assert.True(i < 100, "the last text is not saved");
            await Task.Delay(50);
        }
        await designer.SavedAsync();

        var draft = await _service.Client.DraftAsync("nightly");
        var different = string.Join(
            "\n",
            (await _service.Client.CompareAsync(Expected, draft.Source)).Select(c =>
                $"{c.Change} {c.Part} {c.Address}: "
                + $"{string.Join("; ", c.Settings.Select(s => $"{s.Setting}: {s.Before} → {s.After}"))}"
            )
        );
        Assert.True(different.Length == 0, different);
        Assert.DoesNotContain(await _service.Client.CheckDraftAsync(new("nightly", draft.Source)), p =>
            p.Severity == "error"
        );
        _browser.CheckErrors();

        await RehearseAsync(mouse);
        await TryAsync(mouse);
        await ReleaseAsync(mouse);
        Assert.Equal(
            (1, "first night"),
            (
                (await _service.Client.ReleasesAsync("nightly"))[0].Number,
                (await _service.Client.ReleasesAsync("nightly"))[0].Note
            )
        );
        _browser.CheckErrors();
    }

    async Task BeginAsync(bool mouse)
    {
        await _page.GotoAsync("/chains");
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "New chain…" }), mouse);
        await Expect(_page.GetByLabel("Name", new() { Exact = true })).ToBeFocusedAsync();
        await _page.Keyboard.TypeAsync("nightly");
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Design it" }), mouse);
        await _page.Locator(".designcanvas").WaitForAsync();
    }

    async Task RehearseAsync(bool mouse)
    {
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Rehearse" }), mouse);
        await Expect(_page.GetByRole(AriaRole.Region, new() { Name = "Rehearsal" })).ToContainTextAsync("It ends");
        await Expect(_page.Locator("[data-step='alarm']")).ToHaveAttributeAsync("data-state", "skipped");
        if (mouse)
        {
            await _page.Locator("[data-step='every_depot/load'] .title").ClickAsync();
            await _page.Locator("[data-step='every_depot/load'] .flip").ClickAsync();
        }
        else
        {
            await _page.Locator("[data-step='every_depot/load'] .flip").FocusAsync();
            await _page.Keyboard.PressAsync("Enter");
        }
        await Expect(_page.Locator("[data-step='alarm']")).ToHaveAttributeAsync("data-state", "succeeded");
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Rehearse" }), mouse);
    }

    async Task TryAsync(bool mouse)
    {
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Try", Exact = true }), mouse);
        await _page.GetByRole(AriaRole.Textbox, new() { Name = "day" }).FillAsync("2026-11-22");
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Start" }), mouse);
        await Expect(_page.Locator("[data-step='report']"))
            .ToHaveAttributeAsync("data-state", "succeeded", new() { Timeout = 30_000 });
        await Expect(_page.Locator("[data-step='samples']")).ToHaveAttributeAsync("data-state", "succeeded");
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Try", Exact = true }), mouse);
    }

    async Task ReleaseAsync(bool mouse)
    {
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Release…" }), mouse);
        await Expect(_page.GetByLabel("What is it for?")).ToBeFocusedAsync();
        await _page.Keyboard.TypeAsync("first night");
        await ActivateAsync(_page.GetByRole(AriaRole.Button, new() { Name = "Release", Exact = true }), mouse);
        await Expect(_page.GetByText("New runs of nightly follow it from now on.")).ToBeVisibleAsync();
    }

    static async Task ActivateAsync(ILocator button, bool mouse)
    {
        if (mouse)
        {
            await button.ClickAsync();
            return;
        }
        await Expect(button).ToBeEnabledAsync();
        await button.FocusAsync();
        await button.PressAsync("Enter");
    }
}
