using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>The designer: nothing is lost, canvas and source are one, everything can be reached.</summary>
public sealed partial class DesignerTests : IAsyncLifetime
{
    const string Chain = """
        chain: t
        title: Two steps   # for tests
        params: { day: { type: string, default: today } }
        steps:
          # looks first
          look:
            kind: command
            set: { shell: "echo 5" }
          load:
            kind: command
            set: { shell: "echo ${steps.look.value}" }   # the work
        gates:
          - { from: look, to: load, when: int(steps.look.value) > 3 }
        """;

    Service _service = null!;
    Browser _browser = null!;
    IPage _page = null!;

    public async ValueTask InitializeAsync()
    {
        _service = await Service.EmptyAsync();
        await _service.PushAsync(Chain);
        _browser = new(_service.Address);
        _page = await _browser.PageAsync();
    }

    public async ValueTask DisposeAsync()
    {
        await _browser.DisposeAsync();
        await _service.DisposeAsync();
    }

    ILocator Saved => _page.Locator(".savedstate");

    ILocator Title(IPage page) => page.Locator(".inspector").GetByLabel("Title", new() { Exact = true });

    async Task OpenAsync(IPage? page = null, string chain = "t")
    {
        await (page ?? _page).GotoAsync($"/chains/{chain}/design");
        await (page ?? _page).Locator(".step").First.WaitForAsync();
    }

    // The inspector shows the chain until the step is chosen.
    async Task ChooseAsync(string step)
    {
        await _page.Locator($"[data-step='{step}'] .title").ClickAsync();
        await Expect(_page.Locator($"[data-step='{step}']")).ToHaveAttributeAsync("data-chosen", "true");
    }

    async Task<string> DraftAsync() => (await _service.Client.DraftAsync("t")).Source;

    // An edit takes a moment to be one, and “saved” may still be said of the one before.
    async Task DraftIsAsync(Action<string> holds)
    {
        for (var i = 0; ; i++)
        {
            try
            {
                holds(await DraftAsync());
                break;
            }
            catch (Xunit.Sdk.XunitException) when (i < 600)
            {
                await Task.Delay(50);
            }
        }
        await Expect(Saved).ToHaveTextAsync("✓ saved");
    }

    async Task UntilAsync(Func<Task<bool>> holds, string what)
    {
        for (var i = 0; i < 800; i++)
        {
            if (await holds())
                return;
            await Task.Delay(50);
        }
        Assert.Fail(what);
    }

    [Fact]
    public async Task AReloadInTheMiddleOfAnEditLosesNothing()
    {
        await OpenAsync();
        await Title(_page).FillAsync("Half a tit");
        await _page.ReloadAsync();
        await Expect(_page.Locator(".designhead .crumb")).ToHaveTextAsync("Half a tit");
        await DraftIsAsync(draft =>
            Assert.Equal(Chain.Replace("title: Two steps   #", "title: Half a tit   #"), draft)
        );
    }

    [Fact]
    public async Task WhatIsDesignedWhileTheServiceIsGoneIsSavedWhenItIsBack()
    {
        await OpenAsync();
        await Title(_page).FillAsync("Before");
        await Expect(Saved).ToHaveTextAsync("✓ saved");
        await _service.KillAsync();
        await Title(_page).FillAsync("Meanwhile");
        await Expect(Saved).ToContainTextAsync("not saved: no connection");
        // Even a page that is closed and opened again has it.
        await _service.StartAsync();
        await Expect(Saved).ToHaveTextAsync("✓ saved");
        await UntilAsync(
            async () => (await DraftAsync()).Contains("title: Meanwhile   # for tests"),
            "the draft has not come"
        );
    }

    [Fact]
    public async Task TwoInOneDraftSeeEachOthersChangeAndNeitherLosesAnything()
    {
        var other = await _browser.PageAsync();
        await OpenAsync();
        await OpenAsync(other);
        await Title(_page).FillAsync("Ann's");
        // Who has nothing unsaved continues with it, quietly.
        await Expect(other.Locator(".designhead .crumb")).ToHaveTextAsync("Ann's");
        // Both at once: the second one is asked.
        await other.RouteAsync("**/api/chains/t/draft", async route =>
        {
            if (route.Request.Method == "PUT")
                await Task.Delay(600);
            await route.ContinueAsync();
        });
        await Title(other).FillAsync("Bob's");
        await other.Keyboard.PressAsync("Tab");
        var draft = await _service.Client.DraftAsync("t");
        await _service.Client.SaveDraftAsync("t", draft.Version, draft.Source.Replace("echo 5", "echo 6"));
        await Expect(other.GetByRole(AriaRole.Dialog)).ToContainTextAsync("Somebody else has changed this draft");
        await Expect(other.GetByLabel("Differences")).ToContainTextAsync("set.shell");
        await Expect(other.GetByLabel("Differences")).ToContainTextAsync("Bob's");
        await Browser.CheckAccessAsync(other, "a conflict");
        await other.GetByRole(AriaRole.Button, new() { Name = "Continue with mine" }).ClickAsync();
        await Expect(other.Locator(".savedstate")).ToHaveTextAsync("✓ saved");
        await Expect(_page.Locator(".designhead .crumb")).ToHaveTextAsync("Bob's");
        Assert.Contains(await _service.Client.DraftHistoryAsync("t"), d =>
            d.Source.Contains("echo 6", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task CanvasAndSourceAreOneAndCommentsStay()
    {
        await OpenAsync();
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Source" }).ClickAsync();
        var source = _page.GetByLabel("Chain file");
        await source.ClickAsync();
        await _page.Keyboard.PressAsync("Control+End");
        await _page.Keyboard.TypeAsync("\n- { from: look, to: load, on: failure }");
        await Expect(_page.Locator("[data-gate='look-load']")).ToHaveCountAsync(2);
        await Expect(_page.Locator("[data-gate='look-load']").Last).ToContainTextAsync("on failure");
        // An edit on the canvas does not move the cursor of the source.
        await ChooseAsync("look");
        await Title(_page).FillAsync("Look at it");
        await Expect(source).ToContainTextAsync("title: Look at it");
        await DraftIsAsync(draft =>
            Assert.Equal(
                Chain.Replace(
                    "    kind: command\n    set: { shell: \"echo 5\" }",
                    "    kind: command\n    title: Look at it\n    set: { shell: \"echo 5\" }"
                ) + "\n  - { from: look, to: load, on: failure }",
                draft
            )
        );
        // Taking a step away and undoing it gives the very same file.
        await _page.Locator(".designcanvas").FocusAsync();
        await _page.Keyboard.PressAsync("Delete");
        await Expect(_page.Locator("[data-step='look']")).ToHaveCountAsync(0);
        await _page.Keyboard.PressAsync("Control+z");
        await Expect(_page.Locator("[data-step='look']")).ToHaveCountAsync(1);
        await DraftIsAsync(draft => Assert.Contains("  # looks first\n  look:", draft));
    }

    [Fact]
    public async Task ProblemsLeadToTheirPlaceAndAreMendedByAClick()
    {
        await OpenAsync();
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Source" }).ClickAsync();
        await _page.GetByLabel("Chain file").ClickAsync();
        await _page.Keyboard.PressAsync("Control+End");
        await _page.Keyboard.TypeAsync("\n- { from: look, to: laod, on: failure }");
        await _page.GetByRole(AriaRole.Tab, new() { NameRegex = new("^Problems") }).ClickAsync();
        var problem = _page.GetByLabel("Problems").GetByRole(AriaRole.Listitem).Filter(new() { HasText = "laod" });
        await Expect(problem).ToContainTextAsync("did you mean “load”?");
        await problem.GetByRole(AriaRole.Button, new() { Name = "Fix: load" }).ClickAsync();
        await Expect(problem).ToHaveCountAsync(0);
        await Expect(_page.Locator("[data-gate='look-load']")).ToHaveCountAsync(2);
        await DraftIsAsync(draft => Assert.EndsWith("to: load, on: failure }", draft));
    }

    [Fact]
    public async Task NothingTypedIsLostOnASlowMachine()
    {
        await OpenAsync();
        await _page.Locator("[data-gate='look-load'] button").ClickAsync();
        var field = _page.Locator(".inspector").GetByLabel("Condition", new() { Exact = true });
        await field.ClickAsync();
        var slow = await _page.Context.NewCDPSessionAsync(_page);
        await slow.SendAsync("Emulation.setCPUThrottlingRate", new Dictionary<string, object> { ["rate"] = 8 });
        const string text = "steps.look.exit_code == 0 && steps.look.exit_code >= 0 || steps.look.exit_code != 7";
        await _page.Keyboard.PressAsync("Control+A");
        // Typed with rests about as long as what is typed takes to become an edit.
        foreach (var piece in text.Chunk(3))
        {
            await _page.Keyboard.TypeAsync(new string(piece));
            await Task.Delay(240);
        }
        await slow.SendAsync("Emulation.setCPUThrottlingRate", new Dictionary<string, object> { ["rate"] = 1 });
        await Expect(field).ToHaveTextAsync(text);
        await DraftIsAsync(draft => Assert.Contains(text, draft));
    }

    [Fact]
    public async Task ExpressionsAreCompletedCheckedAndComputedWithAPastRun()
    {
        var run = (await _service.Client.StartAsync(new("t", null))).Id;
        await _service.EndAsync(run);
        await OpenAsync();
        await _page.GetByLabel("Show values of expressions with the data of").SelectOptionAsync(run.ToString());
        await _page.Locator("[data-gate='look-load'] button").ClickAsync();
        var field = _page.Locator(".inspector").GetByLabel("Condition", new() { Exact = true });
        await Expect(_page.Locator(".exprfield .hint")).ToContainTextAsync($"with run {run}: true");
        await field.ClickAsync();
        await _page.Keyboard.PressAsync("Control+A");
        await _page.Keyboard.TypeAsync("steps.lo");
        await Expect(_page.Locator(".cm-tooltip-autocomplete li")).ToHaveTextAsync(new Regex("^look"));
        await _page.Keyboard.PressAsync("Control+A");
        await _page.Keyboard.TypeAsync("steps.");
        await Expect(_page.Locator(".cm-tooltip-autocomplete li")).ToHaveTextAsync(new Regex("^look"));
        await _page.Keyboard.PressAsync("Escape");
        await _page.Keyboard.TypeAsync("lok.exit_code == 0");
        await Expect(_page.Locator(".exprfield .hint .wrong")).ToContainTextAsync("there is no “lok” in steps");
        // The builder reads back what it can, and says so when it can't.
        const string others = " && steps.look.exit_code != 5 && steps.look.exit_code != 6 && steps.look.exit_code != 7";
        await field.ClickAsync();
        await _page.Keyboard.PressAsync("Control+A");
        await _page.Keyboard.TypeAsync($"steps.look.exit_code == 0{others}");
        // A slow press, while what was typed becomes an edit, and the sentence above gets longer.
        await _page
            .GetByRole(AriaRole.Button, new() { Name = "Build", Exact = true })
            .ClickAsync(new() { Delay = 400 });
        await Expect(_page.Locator(".builder")).ToContainTextAsync("steps.look.exit_code is 0");
        await _page.GetByLabel("Comparison", new() { Exact = true }).First.SelectOptionAsync(">=");
        await Expect(field).ToHaveTextAsync($"steps.look.exit_code >= 0{others}");
        // What is typed meanwhile is what the builder continues from.
        await field.ClickAsync();
        await _page.Keyboard.PressAsync("Control+A");
        await _page.Keyboard.TypeAsync("steps.look.exit_code < 9");
        await Expect(_page.Locator(".builder")).ToContainTextAsync("steps.look.exit_code is less than 9");
        await _page.GetByLabel("Comparison", new() { Exact = true }).SelectOptionAsync("<=");
        await _page.GetByLabel("Compared with").FillAsync("12");
        await Expect(field).ToHaveTextAsync("steps.look.exit_code <= 12");
        // A value is taken by clicking the step that gives it.
        await field.ClickAsync();
        await _page.Keyboard.PressAsync("Control+A");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Insert a value into Condition" }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Show me: click a step on the canvas" }).ClickAsync();
        await _page.Locator("[data-step='look'] .title").ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "steps.look.exit_code int" }).ClickAsync();
        await Expect(field).ToHaveTextAsync("steps.look.exit_code");
    }

    [Fact]
    public async Task StepsAreCopiedIntoAnotherChainUnderFreeNames()
    {
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["u.chain.yaml"] = "chain: u\nsteps:\n  look: { kind: wait, set: { for: 0s } }\n"u8.ToArray(),
            }
        );
        await OpenAsync();
        await _page.Locator(".designcanvas").FocusAsync();
        await _page.Keyboard.PressAsync("Control+a");
        await _page.Keyboard.PressAsync("Control+c");
        await OpenAsync(chain: "u");
        await _page.Locator(".designcanvas").FocusAsync();
        await _page.Keyboard.PressAsync("Control+v");
        await Expect(_page.Locator(".step")).ToHaveCountAsync(3);
        await Expect(Saved).ToHaveTextAsync("✓ saved");
        var draft = (await _service.Client.DraftAsync("u")).Source;
        Assert.Contains("  look_2:\n    kind: command\n", draft);
        Assert.Contains("echo ${steps.look_2.value}\" }   # the work", draft);
        Assert.Contains("{ from: look_2, to: load, when: int(steps.look_2.value) > 3 }", draft);
    }
}
