using System.Text.RegularExpressions;
using GateChain.Client;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

public sealed partial class DesignerTests
{
    ILocator Button(string name) => _page.GetByRole(AriaRole.Button, new() { Name = name, Exact = true });

    [Fact]
    public async Task AChainIsRetiredOnItsPageAndBroughtBack()
    {
        await _page.GotoAsync("/chains/t");
        await Button("Retire…").ClickAsync();
        var dialog = _page.GetByRole(AriaRole.Dialog);
        await Expect(dialog).ToContainTextAsync("Nothing starts it any more until it is brought back.");
        await _page.Keyboard.TypeAsync("merged into intake");
        await Browser.CheckAccessAsync(_page, "the retire dialog");
        await _page.Keyboard.PressAsync("Enter");
        var notice = _page.GetByRole(AriaRole.Status).Filter(new() { HasText = "Retired by" });
        await Expect(notice).ToContainTextAsync("merged into intake. Nothing starts it");
        await Expect(Button("Run…")).ToBeDisabledAsync();
        await Browser.CheckAccessAsync(_page, "a retired chain");
        var refused = await Assert.ThrowsAsync<GateChainException>(() => _service.Client.StartAsync(new("t", null)));
        Assert.Contains("merged into intake", refused.Message, StringComparison.Ordinal);
        // In the list it is out of the way until it is asked for.
        await _page.GotoAsync("/chains");
        var row = _page.Locator("a[href='/chains/t']");
        await Expect(Button("New chain…")).ToBeVisibleAsync();
        await Expect(row).ToHaveCountAsync(0);
        await _page.GetByLabel("Retired (1)").CheckAsync();
        await row.ClickAsync();
        await Button("Bring it back").ClickAsync();
        await Expect(notice).ToHaveCountAsync(0);
        await Expect(Button("Run…")).ToBeEnabledAsync();
    }

    [Fact]
    public async Task ADiscardedDraftIsTheLatestReleaseAgain()
    {
        await _service.Client.SaveDraftAsync("t", 0, Chain.Replace("echo 5", "echo 7"));
        await OpenAsync();
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Versions" }).ClickAsync();
        await Button("Discard the draft…").ClickAsync();
        await Button("Discard").ClickAsync();
        await Expect(Button("Discard the draft…")).ToHaveCountAsync(0);
        await ChooseAsync("look");
        await Expect(_page.Locator(".inspector")).ToContainTextAsync("echo 5");
        Assert.Equal(0, (await _service.Client.DraftAsync("t")).Version);
        Assert.Equal(Chain, await DraftAsync());
    }

    [Fact]
    public async Task AChainIsMadeFromTheCallThatIsToRunIt()
    {
        await _service.Client.SaveDraftAsync(
            "t",
            0,
            "chain: t\nparams: { depot: { type: string } }\n"
                + "steps: { c: { kind: call, inputs: { depot: params.depot } } }\n"
        );
        await OpenAsync();
        await ChooseAsync("c");
        await _page.GetByLabel("Name of a new chain").FillAsync("count-orders");
        await Button("Make this chain ›").ClickAsync();
        await _page.WaitForURLAsync(new Regex("/chains/count-orders/design"));
        await Expect(_page.Locator(".savedstate")).ToHaveTextAsync("✓ saved");
        Assert.Contains("chain: count-orders", await DraftAsync(), StringComparison.Ordinal);
        var child = (await _service.Client.DraftAsync("count-orders")).Source;
        Assert.Matches(@"depot:\s*\{?\s*type: string", child);
    }

    [Fact]
    public async Task AnExpressionIsTriedWithValuesThatOneMakesUp()
    {
        await OpenAsync();
        await _page.Locator("[data-gate='look-load'] button").ClickAsync();
        await Button("Try values").ClickAsync();
        var result = _page.Locator(".trialresult");
        await _page.GetByLabel("steps.look.value", new() { Exact = true }).FillAsync("7");
        await Expect(result).ToContainTextAsync("is true");
        await _page.GetByLabel("steps.look.value", new() { Exact = true }).FillAsync("2");
        await Expect(result).ToContainTextAsync("is false");
        await _page.GetByLabel("steps.look.value", new() { Exact = true }).FillAsync("many");
        await Expect(result).ToContainTextAsync("many");
        await Browser.CheckAccessAsync(_page, "an expression with made-up values");
    }
}
