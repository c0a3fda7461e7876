using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>
/// States of the designer that other tests do not stop at: axe finds nothing in them, light and dark.
/// </summary>
public sealed class AccessTests : IAsyncLifetime
{
    const string Chain = """
        chain: t
        params: { day: { type: timestamp }, depots: { type: list<string>, default: [north] } }
        vars: { n: { type: int, initial: 0 } }
        steps:
          look: { kind: file, set: { action: look, path: "in/*.csv" } }
          load:
            kind: load
            guard:
              probes: { p: { kind: file, path: x } }
              rules: [ { when: probes.p.count > 0, verdict: proceed } ]
              otherwise: { verdict: hold, recheck: 5s, limit: 3, then: skip }
            set: { from: { csv: a.csv }, into: { connection: warehouse, table: t } }
          tell: { kind: command, set: { shell: echo } }
        gates:
          - { from: look, to: load, when: steps.look.count > 0 }
          - { from: look, to: tell, else: true }
        handlers:
          failure: { steps: { mail: { kind: command, set: { shell: echo } } } }
        """;

    Service _service = null!;
    Browser _browser = null!;
    IPage _page = null!;

    public async ValueTask InitializeAsync()
    {
        _service = await Service.WithDemoAsync();
        _browser = new(_service.Address);
        _page = await _browser.PageAsync();
        await ReleaseAsync("t", Chain);
        await ReleaseAsync(
            "caller",
            "chain: caller\nparams: { d: { type: timestamp } }\n"
                + "steps: { c: { kind: call, chain: t, inputs: { day: params.d } } }"
        );
        await _page.GotoAsync("/chains/t/design");
        await _page.Locator("[data-step='load']").WaitForAsync();
    }

    async Task ReleaseAsync(string name, string chain)
    {
        var draft = await _service.Client.SaveDraftAsync(name, 0, chain);
        await _service.Client.MakeReleaseAsync(name, draft.Version, null);
    }

    public async ValueTask DisposeAsync()
    {
        await _browser.DisposeAsync();
        await _service.DisposeAsync();
    }

    Task CheckAsync(string where) => Browser.CheckAccessAsync(_page, where);

    ILocator Button(string name) => _page.GetByRole(AriaRole.Button, new() { Name = name, Exact = true });

    async Task CloseAsync()
    {
        await _page.Keyboard.PressAsync("Escape");
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToHaveCountAsync(0);
    }

    [Fact]
    public async Task FormsAndDialogsOfTheDesigner()
    {
        await CheckAsync("the chain's form");
        await _page.Locator("[data-step='load'] .title").ClickAsync();
        var shut = _page.Locator(".inspector h3 > button[aria-expanded=false]");
        while (await shut.CountAsync() > 0)
            await shut.First.ClickAsync();
        await CheckAsync("a load with its guard");
        await _page.Locator("[data-gate='look-tell'] button").ClickAsync();
        await CheckAsync("an else gate");
        await _page.Locator("[data-band='@failure'] .head").ClickAsync();
        await Expect(_page.Locator(".inspector")).ToContainTextAsync("When it fails");
        await CheckAsync("a handler");
        await _page.Locator("[data-step='tell'] .title").ClickAsync(new() { Button = MouseButton.Right });
        await Expect(_page.GetByRole(AriaRole.Menuitem).First).ToBeVisibleAsync();
        await CheckAsync("the menu of the canvas");
        await _page.Keyboard.PressAsync("Escape");
        await _page.Locator(".designcanvas").FocusAsync();
        await _page.Keyboard.PressAsync("j");
        await CheckAsync("the fields by name");
        await CloseAsync();
        await _page.Keyboard.PressAsync("Control+f");
        await _page.Keyboard.TypeAsync("a.csv");
        await Expect(_page.Locator(".foundline")).ToBeVisibleAsync();
        await CheckAsync("what is found in settings");
        await CloseAsync();
        await Button("Try").ClickAsync();
        await CheckAsync("a try");
        await Button("Try").ClickAsync();
        await Button("Run…").ClickAsync();
        await _page.GetByLabel("day").FillAsync("soon");
        await Button("Start").ClickAsync();
        await Expect(_page.GetByText("It is a day or a time")).ToBeVisibleAsync();
        await CheckAsync("a start with an error");
        await CloseAsync();
        _browser.CheckErrors();
    }

    [Fact]
    public async Task ARenamedParameterTellsWhoIsBroken()
    {
        await _page.Locator(".designcanvas").FocusAsync();
        await _page.Keyboard.PressAsync("Escape");
        await _page
            .Locator("fieldset", new() { HasText = "day" })
            .First.GetByRole(AriaRole.Button, new() { Name = "Rename…" })
            .ClickAsync();
        await _page.GetByLabel("New name").FillAsync("date");
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToContainTextAsync("caller, step c");
        await Expect(_page.GetByRole(AriaRole.Dialog))
            .ToContainTextAsync("it gives “day”, which is no parameter any more");
        await CheckAsync("a rename that breaks a caller");
        await Button("Rename").ClickAsync();
        await Button("Release…").ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog))
            .ToContainTextAsync("it does not give “date” (timestamp), which is needed");
        await CheckAsync("a release that breaks a caller");
        await CloseAsync();
        _browser.CheckErrors();
    }
}
