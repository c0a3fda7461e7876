using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>docs/first-chain.md, step by step: from an empty service to a run that failed and was resumed.</summary>
public sealed class FirstChainTests : BrowserTests
{
    private protected override Task<Service> ServiceAsync() => Service.EmptyAsync();

    ILocator Button(string name) => _page.GetByRole(AriaRole.Button, new() { Name = name, Exact = true });

    async Task AddCommandAsync(string id, string shell)
    {
        await _page.Keyboard.PressAsync("a");
        await _page.GetByLabel("Kind of step").FillAsync("command");
        await _page.Keyboard.PressAsync("Enter");
        var inspector = _page.Locator(".inspector");
        await inspector.GetByLabel("Id", new() { Exact = true }).FillAsync(id);
        await _page.Keyboard.PressAsync("Enter");
        await Expect(_page.Locator($"[data-step='{id}']")).ToBeVisibleAsync();
        await inspector.GetByLabel("Shell", new() { Exact = true }).ClickAsync();
        await _page.Keyboard.TypeAsync(shell);
        await _page.Locator(".designcanvas").FocusAsync();
        await Expect(_page.Locator(".savedstate")).ToHaveTextAsync("✓ saved");
    }

    [Fact]
    public async Task TheFirstChainIsDesignedRunFailedAndResumedAsTheGuideSays()
    {
        var guide = await File.ReadAllTextAsync(Path.Combine(Place.Root, "docs/first-chain.md"));
        // What is typed here is what the guide says.
        string Said(string text)
        {
            Assert.Contains($"`{text}`", guide, StringComparison.Ordinal);
            return text;
        }
        await _page.GotoAsync("/");
        await Button("Design the first one").ClickAsync();
        await _page.GetByLabel("Name", new() { Exact = true }).FillAsync(Said("tank-check"));
        await Button("Design it").ClickAsync();
        await _page.WaitForURLAsync(new Regex("/chains/tank-check/design"));
        await _page.Locator(".designcanvas").FocusAsync();
        await AddCommandAsync(Said("count"), Said("wc -l < tank.csv"));
        await AddCommandAsync(Said("report"), Said("echo \"${steps.count.value} readings\" > report.txt"));
        await Expect(_page.Locator("[data-gate='count-report']")).ToBeVisibleAsync();

        await Button("Release…").ClickAsync();
        await _page
            .GetByRole(AriaRole.Dialog)
            .GetByRole(AriaRole.Button, new() { NameRegex = new("^Release") })
            .ClickAsync();
        await Expect(_page.GetByRole(AriaRole.Dialog)).ToHaveCountAsync(0);
        await Button("Run…").ClickAsync();
        await _page
            .GetByRole(AriaRole.Dialog)
            .GetByRole(AriaRole.Button, new() { NameRegex = new("^(Start|Run)") })
            .ClickAsync();
        await _page.WaitForURLAsync(new Regex("/runs/1"));
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "failed");
        await _page.Locator("[data-step='count'] .title").ClickAsync();
        await Expect(_page.GetByLabel("Chosen step")).ToContainTextAsync("tank.csv");
        await Expect(_page.Locator("[data-step='report']")).ToHaveAttributeAsync("data-state", "skipped");

        Assert.Contains("printf '4.1\\n3.9\\n' > tank.csv", guide, StringComparison.Ordinal);
        await File.WriteAllTextAsync(Path.Combine(_service.Work, "tank.csv"), "4.1\n3.9\n");
        await Button("Resume…").ClickAsync();
        await _page
            .GetByRole(AriaRole.Dialog)
            .GetByRole(AriaRole.Button, new() { NameRegex = new("^Resume") })
            .ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
        Assert.Equal("2 readings\n", await File.ReadAllTextAsync(Path.Combine(_service.Work, "report.txt")));
        var (_, why, _) = await _service.CliAsync("why", "1", "count");
        Assert.Contains("attempt", why, StringComparison.Ordinal);
    }
}
