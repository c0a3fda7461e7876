using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

public sealed partial class DesignerTests
{
    [Fact]
    public async Task ManyStepsAreDrawnFromAfarAndStepsOfThatDrawingCanBeChosen()
    {
        // Seven layers of 21: a step stands in the middle.
        var steps = string.Concat(
            Enumerable.Range(0, 147).Select(i => $"  s{i}: {{ kind: wait, title: Step {i}, set: {{ for: 0s }} }}\n")
        );
        var gates = string.Concat(Enumerable.Range(0, 126).Select(i => $"  - {{ from: s{i}, to: s{i + 21} }}\n"));
        await _service.PushAsync($"chain: t\nsteps:\n{steps}gates:\n{gates}");
        await _page.GotoAsync("/chains/t/design");
        var drawing = _page.Locator(".fardrawing[data-drawn='147']");
        await Expect(drawing).ToBeVisibleAsync();
        await Expect(_page.Locator(".step")).ToHaveCountAsync(0);
        var pane = (await _page.Locator(".designcanvas").BoundingBoxAsync())!;
        var (x, y) = (pane.X + pane.Width / 2, pane.Y + pane.Height / 2);
        await _page.Mouse.ClickAsync(x, y);
        await Expect(Title(_page)).ToHaveValueAsync(new Regex("Step (6[3-9]|7[0-9]|8[0-3])"));
        await _page.Keyboard.DownAsync("Shift");
        await _page.Mouse.MoveAsync(pane.X + 4, pane.Y + 4);
        await _page.Mouse.DownAsync();
        await _page.Mouse.MoveAsync(pane.X + pane.Width - 4, pane.Y + pane.Height - 4, new() { Steps = 4 });
        await _page.Mouse.UpAsync();
        await _page.Keyboard.UpAsync("Shift");
        await Expect(_page.Locator(".inspecthead")).ToHaveTextAsync("147 steps");
        // From near, steps are what they always are.
        await _page.Mouse.DblClickAsync(x, y);
        await Expect(drawing).ToHaveCountAsync(0);
        await Expect(_page.Locator(".step[data-chosen='true']")).ToHaveCountAsync(1);
    }

    [Fact]
    public async Task VersionsAreComparedOnTheCanvasAndTakenBack()
    {
        await _service.Client.SaveDraftAsync("t", 0, Chain.Replace("echo 5", "echo 7"));
        await _service.Client.MakeReleaseAsync("t", (await _service.Client.DraftAsync("t")).Version, "seven");
        await OpenAsync();
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Versions" }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Compare release 1 with the draft" }).ClickAsync();
        await Expect(_page.GetByLabel("Differences")).ToContainTextAsync("echo 5 → echo 7");
        await Expect(_page.Locator("[data-step='look'] .flag")).ToHaveTextAsync("changed");
        await Browser.CheckAccessAsync(_page, "a comparison");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Copy into the draft: release 1" }).ClickAsync();
        await DraftIsAsync(draft => Assert.Equal(Chain, draft));
    }

    [Fact]
    public async Task ATryPausesWhereItIsToldAndGoesOn()
    {
        await OpenAsync();
        await ChooseAsync("load");
        await _page.Locator(".designcanvas").FocusAsync();
        await _page.Keyboard.PressAsync("p");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Try", Exact = true }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Start" }).ClickAsync();
        await Expect(_page.Locator("[data-step='look']")).ToHaveAttributeAsync("data-state", "succeeded");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Continue" }).ClickAsync();
        await Expect(_page.Locator("[data-step='load']")).ToHaveAttributeAsync("data-state", "succeeded");
        await _page.GetByLabel("What", new() { Exact = true }).SelectOptionAsync("only");
        await _page.GetByLabel("The step", new() { Exact = true }).SelectOptionAsync("load");
        await _page.GetByLabel("Give outputs of").SelectOptionAsync("look");
        await _page.GetByLabel("Give an output").SelectOptionAsync("value");
        await _page.GetByLabel("value", new() { Exact = true }).FillAsync("9");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Start" }).ClickAsync();
        await UntilAsync(async () => (await _service.Client.RunsAsync("t")).Count == 2, "the second try has not begun");
        var second = (await _service.Client.RunsAsync("t"))[0].Id;
        await _page.GetByRole(AriaRole.Button, new() { Name = "Continue" }).ClickAsync();
        await _service.EndAsync(second);
        Assert.Equal("9", (await _service.Client.StepAsync(second, "load")).Outputs.GetProperty("value").ToString());
    }

    [Fact]
    public async Task WhoNamesAChainBeforeTheTemplatesAreThereGetsTheTemplateAllTheSame()
    {
        var asked = new TaskCompletionSource();
        var named = new TaskCompletionSource();
        await _page.RouteAsync("**/api/templates", async route =>
        {
            asked.TrySetResult();
            await named.Task;
            await route.ContinueAsync();
        });
        await _page.GotoAsync("/chains");
        await _page.GetByRole(AriaRole.Button, new() { Name = "New chain…" }).ClickAsync();
        await asked.Task;
        await _page.GetByLabel("Name", new() { Exact = true }).FillAsync("early");
        await _page.Keyboard.PressAsync("Enter");
        named.SetResult();
        await _page.Locator(".designcanvas").WaitForAsync();
        Assert.StartsWith("chain: early\n", (await _service.Client.DraftAsync("early")).Source);
    }

    [Fact]
    public async Task AxeFindsNothingInAnyStateOfTheDesigner()
    {
        await _service.Client.SaveDraftAsync("empty", 0, "chain: empty\nsteps: {}\n");
        await _page.GotoAsync("/chains/empty/design");
        await _page.GetByText("This chain has no steps yet.").WaitForAsync();
        await Browser.CheckAccessAsync(_page, "empty");
        await _page.GotoAsync("/chains");
        await _page.GetByRole(AriaRole.Button, new() { Name = "New chain…" }).ClickAsync();
        await _page.GetByText("Loop over files").WaitForAsync();
        await Browser.CheckAccessAsync(_page, "new chain");
        await OpenAsync();
        await Browser.CheckAccessAsync(_page, "the chain");
        await ChooseAsync("load");
        foreach (
            var section in new[]
            {
                "Checks before it starts",
                "Checks on its result",
                "When it fails",
                "After a crash, on resume",
                "Changes variables",
                "Notes and more",
            }
        )
        {
            await _page.GetByRole(AriaRole.Button, new() { Name = section, Exact = true }).ClickAsync();
        }
        await _page.GetByRole(AriaRole.Button, new() { Name = "Put up a guard" }).ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Add a rule" }).First.ClickAsync();
        await Browser.CheckAccessAsync(_page, "a step");
        await _page.Locator("[data-gate='look-load'] button").ClickAsync();
        await _page.GetByRole(AriaRole.Button, new() { Name = "Build", Exact = true }).ClickAsync();
        await Browser.CheckAccessAsync(_page, "a gate");
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Source" }).ClickAsync();
        await Browser.CheckAccessAsync(_page, "the source");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Rehearse" }).ClickAsync();
        await _page.GetByText("It ends").WaitForAsync();
        await Browser.CheckAccessAsync(_page, "rehearsing");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Try", Exact = true }).ClickAsync();
        await Browser.CheckAccessAsync(_page, "trying");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Release…" }).ClickAsync();
        await _page.GetByLabel("What is it for?").WaitForAsync();
        await Browser.CheckAccessAsync(_page, "releasing");
        _browser.CheckErrors();
    }

    [Fact]
    public async Task EveryTemplateIsWithoutErrorsAndRuns()
    {
        foreach (var template in await _service.Client.TemplatesAsync())
        {
            var problems = (await _service.Client.CheckDraftAsync(new(template.Name, template.Source))).Where(p =>
                p.Severity == "error" && p.Code != "GC1107" && p.Code != "GC1403"
            );
            Assert.True(!problems.Any(), $"{template.Name}: {string.Join("; ", problems.Select(p => p.Message))}");
            if (template.Name == "empty")
                continue;
            await _service.Client.PushAsync(
                new Dictionary<string, byte[]>
                {
                    [$"{template.Name}.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(template.Source),
                }
            );
            var parameters =
                template.Name == "sequence"
                    ? new Dictionary<string, System.Text.Json.JsonElement>
                    {
                        ["day"] = System.Text.Json.JsonSerializer.SerializeToElement("2026-11-22"),
                    }
                    : null;
            var run = await _service.EndAsync((await _service.Client.StartAsync(new(template.Name, parameters))).Id);
            Assert.True(run.State == "succeeded", $"{template.Name}: {run.Error}");
        }
    }
}
