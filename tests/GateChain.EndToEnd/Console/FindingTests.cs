using System.Text.Json;
using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>One finds what one needs where one is: kinds, tables, files, columns, the run above and below.</summary>
public sealed class FindingTests : BrowserTests
{
    private protected override Task<Service> ServiceAsync() => Service.WithDemoAsync();

    ILocator Button(string name) => _page.GetByRole(AriaRole.Button, new() { Name = name, Exact = true });

    async Task<long> RunAsync(string chain)
    {
        var day = new Dictionary<string, JsonElement> { ["day"] = JsonSerializer.SerializeToElement("2026-11-22") };
        var run = (await _service.Client.StartAsync(new(chain, day, "dev"))).Id;
        await _service.EndAsync(run);
        return run;
    }

    [Fact]
    public async Task TablesAndFilesAreLookedUpWhereTheyAre()
    {
        await RunAsync("milk-intake");
        await _page.GotoAsync("/chains/milk-intake/design?step=load_prices");
        await Button("Look up Table").ClickAsync();
        var dialog = _page.GetByRole(AriaRole.Dialog);
        await Expect(dialog.GetByRole(AriaRole.Button, new() { Name = "prices table" })).ToBeVisibleAsync();
        await Browser.CheckAccessAsync(_page, "tables to choose from");
        await _page.Keyboard.TypeAsync("pick");
        await _page.Keyboard.PressAsync("Enter");
        await Expect(_page.Locator(".savedstate")).ToHaveTextAsync("✓ saved");
        await _page.GotoAsync("/chains/milk-intake/design?step=depots/arrived");
        await Button("Look up Path").ClickAsync();
        var path = dialog.GetByLabel("Path");
        await path.FillAsync("inbox/we");
        await dialog.GetByRole(AriaRole.Button, new() { Name = "west/ folder" }).ClickAsync();
        await Expect(path).ToHaveValueAsync("inbox/west/");
        await dialog.GetByRole(AriaRole.Button, new() { NameRegex = new("pickups-2026-11-22") }).ClickAsync();
        await Expect(_page.Locator(".savedstate")).ToHaveTextAsync("✓ saved");
        var draft = (await _service.Client.DraftAsync("milk-intake")).Source;
        Assert.Matches(@"table: ""?(late_)?pickups", draft);
        Assert.Matches(@"path: inbox/west/pickups-2026-11-22\.csv", draft);
    }

    [Fact]
    public async Task WhatAStepReadsIsLookedIntoBeforeAnythingRuns()
    {
        await _page.GotoAsync("/chains/farm-books/design?step=weights");
        await Button("Look inside…").First.ClickAsync();
        var dialog = _page.GetByRole(AriaRole.Dialog);
        await Expect(dialog.GetByText("As the step is set")).ToBeVisibleAsync();
        await Expect(dialog.GetByText("Königsweide").First).ToBeVisibleAsync();
        await Expect(dialog).ToContainTextAsync("windows-1252");
        await Browser.CheckAccessAsync(_page, "what stands in a file");
        // One column is left out; names that were given, and rules beside types, stay.
        await dialog.GetByRole(AriaRole.Checkbox, new() { Name = "place" }).UncheckAsync();
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Take these settings and columns" }).ClickAsync();
        await Expect(dialog).ToBeHiddenAsync();
        await Expect(_page.Locator(".savedstate")).ToHaveTextAsync("✓ saved");
        var draft = (await _service.Client.DraftAsync("farm-books")).Source;
        Assert.Contains("csv: ${profile.inbox}/west/weights-${params.day}.csv", draft.Replace("\"", ""));
        Assert.Contains("encoding: windows-1252", draft);
        Assert.Matches(@"weighed:\s.{0,40}dd\.MM\.yyyy", draft.Replace('\n', ' '));
        Assert.Matches(@"farm_id:\s.{0,20}required: true", draft.Replace('\n', ' '));
        Assert.DoesNotMatch(@"\n\s+place:", draft);
        // A table has no form of its own; what stands there is shown, and nothing is to be taken.
        await RunAsync("milk-intake");
        await _page.GotoAsync("/chains/farm-books/design?step=deliveries");
        await Button("Look inside…").First.ClickAsync();
        await Expect(dialog.GetByRole(AriaRole.Columnheader, new() { Name = "pickup_id" })).ToBeVisibleAsync();
        await Expect(dialog.GetByRole(AriaRole.Button, new() { Name = "Take these settings" })).ToBeDisabledAsync();
    }

    [Fact]
    public async Task AKindSaysWhatItDoesAndFavouritesComeFirst()
    {
        await _page.GotoAsync("/chains/milk-intake/design");
        var kind = _page.Locator(".palette .kind", new() { HasText = "transfer" });
        await kind.HoverAsync();
        var card = _page.Locator(".kindcard");
        await Expect(card).ToContainTextAsync("from another machine or a bucket");
        await Expect(card.Locator("pre")).ToContainTextAsync("kind: transfer");
        await Browser.CheckAccessAsync(_page, "the card of a kind");
        await card.GetByRole(AriaRole.Button).ClickAsync();
        await Expect(kind.GetByLabel("favourite")).ToBeVisibleAsync();
        await _page.Mouse.MoveAsync(700, 500);
        // What was added last comes behind the favourites.
        await _page.Locator(".palette .kind", new() { HasText = "notify" }).ClickAsync();
        await _page.Keyboard.PressAsync("a");
        var options = _page.GetByRole(AriaRole.Dialog).GetByRole(AriaRole.Option);
        await Expect(options.Nth(0)).ToContainTextAsync("transfer ★");
        await Expect(options.Nth(1)).ToContainTextAsync("notify");
    }

    [Fact]
    public async Task AKindThatIsDroppedOnALinkComesBetween()
    {
        await _page.GotoAsync("/chains/price-list/design");
        var gate = _page.Locator(".gate").First;
        await gate.WaitForAsync();
        var name = await gate.GetAttributeAsync("data-gate");
        var places = await PlacesAsync();
        var bar = (await gate.BoundingBoxAsync())!;
        await _page
            .Locator(".palette .kind", new() { HasText = "wait" })
            .DragToAsync(
                _page.Locator(".react-flow__pane"),
                new() { TargetPosition = await InPaneAsync(bar.X + bar.Width / 2, bar.Y + 9), Force = true }
            );
        await Expect(_page.Locator(".savedstate")).ToHaveTextAsync("✓ saved");
        var ends = name!.Split('-');
        await Expect(_page.Locator($"[data-gate='{ends[0]}-wait']")).ToHaveCountAsync(1);
        await Expect(_page.Locator($"[data-gate='wait-{ends[1]}']")).ToHaveCountAsync(1);
        await Expect(_page.Locator($"[data-gate='{name}']")).ToHaveCountAsync(0);
        // What stands before it has not moved.
        Assert.Equal(places[ends[0]], (await PlacesAsync())[ends[0]]);
    }

    async Task<Dictionary<string, string>> PlacesAsync() =>
        await _page.EvaluateAsync<Dictionary<string, string>>(
            "() => Object.fromEntries([...document.querySelectorAll('.react-flow__node')]"
                + ".map(n => [n.dataset.id, n.style.transform]))"
        );

    async Task<TargetPosition> InPaneAsync(double x, double y)
    {
        var pane = (await _page.Locator(".react-flow__pane").BoundingBoxAsync())!;
        return new() { X = (float)(x - pane.X), Y = (float)(y - pane.Y) };
    }

    [Fact]
    public async Task TheRunOfACallOpensFromItsStepAndATrailLeadsBack()
    {
        const string Child =
            "chain: child\nparams: { depot: { type: string } }\n"
            + "steps: { say: { kind: command, set: { run: [echo, hello] } } }\n";
        const string Parent =
            "chain: parent\nsteps:\n  all:\n    kind: each\n    over: \"['north', 'south']\"\n"
            + "    steps: { sub: { kind: call, chain: child, inputs: { depot: item } } }\n";
        foreach (var (name, source) in new[] { ("child", Child), ("parent", Parent) })
        {
            var draft = await _service.Client.SaveDraftAsync(name, 0, source);
            await _service.Client.MakeReleaseAsync(name, draft.Version, null);
        }
        var run = (await _service.Client.StartAsync(new("parent", null))).Id;
        await _service.EndAsync(run);
        await _page.GotoAsync($"/runs/{run}");
        await _page.GetByRole(AriaRole.Button, new() { NameRegex = new("^Open run .* of sub$") }).ClickAsync();
        await _page.WaitForURLAsync(url => !url.EndsWith($"/runs/{run}", StringComparison.Ordinal));
        var trail = _page.GetByRole(AriaRole.Navigation, new() { Name = "Called by" });
        await Expect(trail).ToHaveTextAsync(new Regex(@"parent all\[\d\]/sub"));
        await Browser.CheckAccessAsync(_page, "a run that was called");
        await trail.GetByRole(AriaRole.Link).ClickAsync();
        await _page.WaitForURLAsync(url => url.Contains($"/runs/{run}?", StringComparison.Ordinal));
        // The step that called it is chosen; its path leads on to what it lies in.
        await _page.Locator(".panel").GetByRole(AriaRole.Link, new() { NameRegex = new(@"^all\[\d\]$") }).ClickAsync();
        await Expect(_page.Locator(".panel .mono").First).ToHaveTextAsync("all");
    }

    [Fact]
    public async Task AFewLettersLeadToAPageAChainOrARun()
    {
        await _page.GotoAsync("/chains");
        await Expect(_page.Locator("table.dense")).ToBeVisibleAsync();
        await _page.Keyboard.PressAsync("Control+k");
        var dialog = _page.GetByRole(AriaRole.Dialog);
        await Expect(dialog.GetByRole(AriaRole.Option).First).ToBeVisibleAsync();
        await Browser.CheckAccessAsync(_page, "where to go");
        await _page.Keyboard.TypeAsync("history of milk intake");
        await _page.Keyboard.PressAsync("Enter");
        await _page.WaitForURLAsync(new Regex("/chains/milk-intake/history"));
        await Button("Go to … Ctrl K").ClickAsync();
        await _page.Keyboard.TypeAsync("run 77");
        await _page.Keyboard.PressAsync("Enter");
        await _page.WaitForURLAsync(new Regex("/runs/77$"));
        await Expect(_page.GetByText("there is no run 77")).ToBeVisibleAsync();
    }

    [Fact]
    public async Task AChainIsStartedAndARunResumedFromAnywhere()
    {
        await _page.GotoAsync("/lanes");
        await Expect(_page.Locator("main h1")).ToHaveTextAsync("Lanes");
        await _page.Keyboard.PressAsync("Control+k");
        await _page.Keyboard.TypeAsync("start milk intake");
        await Expect(_page.GetByRole(AriaRole.Option).First).ToContainTextAsync("Start Milk intake of one day…");
        await _page.Keyboard.PressAsync("Enter");
        var dialog = _page.GetByRole(AriaRole.Dialog, new() { NameRegex = new("^Run Milk intake") });
        await dialog.GetByLabel("Day of collection").FillAsync("2026-11-22");
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Start" }).ClickAsync();
        await _page.WaitForURLAsync(new Regex("/runs/1"));
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "failed");
        await _page.Keyboard.PressAsync("Control+k");
        await _page.Keyboard.TypeAsync("1");
        var resume = _page.GetByRole(AriaRole.Option, new() { NameRegex = new("^Resume run 1") });
        await resume.ClickAsync();
        await _page
            .GetByRole(AriaRole.Dialog, new() { Name = "Resume run 1" })
            .GetByRole(AriaRole.Button, new() { Name = "Cancel" })
            .ClickAsync();
        await _page.WaitForURLAsync(new Regex("/runs/1$"));
    }

    [Fact]
    public async Task HelpIsAboutThePlaceOneIsAt()
    {
        await _page.GotoAsync("/chains/milk-intake/design?step=price");
        await Expect(_page.Locator(".inspector .idword")).ToHaveTextAsync("price");
        await _page.Locator(".designcanvas").FocusAsync();
        await _page.Keyboard.PressAsync("?");
        await _page.WaitForURLAsync(new Regex("/help\\?about=kinds&find=sql"));
        await Expect(_page.Locator("dl dt").First).ToContainTextAsync("sql");
        await Expect(_page.Locator("dl dd").First).ToContainTextAsync("It gives");
        await Browser.CheckAccessAsync(_page, "help on a kind");
        // What is typed is searched in all parts, and they say how much they have.
        var search = _page.GetByLabel("Search the help");
        await search.FillAsync("GC1101");
        await _page.GetByRole(AriaRole.Tab, new() { NameRegex = new("^Problems 1$") }).ClickAsync();
        await Expect(_page.Locator("dl pre")).ToContainTextAsync("kind");
        await search.FillAsync("round");
        await _page.GetByRole(AriaRole.Tab, new() { NameRegex = new("^Functions") }).ClickAsync();
        await Expect(_page.Locator("dl dt").First).ToContainTextAsync("round");
        await Browser.CheckAccessAsync(_page, "help on functions");
        // A question mark that is typed is a question mark.
        await search.FillAsync("");
        await search.PressAsync("?");
        await Expect(search).ToHaveValueAsync("?");
        await _page.GotoAsync("/runs");
        await Expect(_page.Locator("main h1")).ToHaveTextAsync("Runs");
        await _page.Keyboard.PressAsync("?");
        await _page.WaitForURLAsync(new Regex("/help\\?about=words&find=run"));
    }

    [Fact]
    public async Task TheColumnsOfRunsAreChosenAndRemembered()
    {
        await RunAsync("milk-intake");
        await _page.GotoAsync("/runs");
        var heads = _page.Locator("th");
        await Expect(heads.Filter(new() { HasText = "day" })).ToHaveCountAsync(0);
        await Button("Columns").ClickAsync();
        var dialog = _page.GetByRole(AriaRole.Dialog);
        await dialog.GetByLabel("day", new() { Exact = true }).CheckAsync();
        await dialog.GetByLabel("Leg").UncheckAsync();
        await Browser.CheckAccessAsync(_page, "columns of runs");
        await _page.ReloadAsync();
        await Expect(heads.Filter(new() { HasText = "day" })).ToHaveCountAsync(1);
        await Expect(heads.Filter(new() { HasText = "Leg" })).ToHaveCountAsync(0);
        await Expect(_page.Locator("td.mono").First).ToHaveTextAsync("2026-11-22");
    }
}
