using System.Text.RegularExpressions;
using GateChain.Client;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>What stands beside the chains, in the console: forms, text, versions, and two people at once.</summary>
public sealed class FilesTests : BrowserTests
{
    private protected override Task<Service> ServiceAsync() => Service.WithDemoAsync();

    ILocator Button(string name) => _page.GetByRole(AriaRole.Button, new() { Name = name, Exact = true });

    ILocator Status => _page.Locator(".headline [role=status]");

    async Task<string> TextAsync(string path, string? version = null) =>
        (await _service.Client.FileAsync(path, version)).Text!;

    async Task SaveAsBobAsync(string path, Func<string, string> change)
    {
        using var bob = new GateChainClient(_service.Address, "bob");
        var file = await bob.FileAsync(path);
        var saved = await bob.SaveFileAsync(new(path, change(file.Text!), null, file.File.Version));
        Assert.NotNull(saved.Version);
    }

    [Fact]
    public async Task AConnectionIsMadeTestedAndSaved()
    {
        await _page.GotoAsync("/files");
        await Browser.CheckAccessAsync(_page, "the files");
        await _page.GetByRole(AriaRole.Link, new() { Name = "connections.yaml" }).ClickAsync();
        await _page.GetByLabel("Name of a new connection").FillAsync("reports");
        await _page.Keyboard.PressAsync("Enter");
        var form = _page.GetByRole(AriaRole.Group, new() { Name = "Connection reports" });
        await form.GetByLabel("Type").SelectOptionAsync("folder");
        await Expect(_page.Locator(".fileproblems")).ToContainTextAsync("needs “path”");
        await Expect(Button("Save")).ToBeDisabledAsync();
        await form.GetByLabel("path").FillAsync("nowhere");
        await form.GetByRole(AriaRole.Button, new() { Name = "Test" }).ClickAsync();
        await Expect(form.Locator("[data-state=failed]")).ToContainTextAsync("nowhere");
        await form.GetByLabel("path").FillAsync("inbox");
        await form.GetByRole(AriaRole.Button, new() { Name = "Test" }).ClickAsync();
        await Expect(form.Locator("[data-state=succeeded]")).ToContainTextAsync("works");
        await Browser.CheckAccessAsync(_page, "the form of a connection");
        await _page.Keyboard.PressAsync("Control+s");
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "false");
        var text = await TextAsync("connections.yaml");
        Assert.Contains("reports:", text, StringComparison.Ordinal);
        // What was there is as it was, its comment too.
        Assert.StartsWith(await TextAsync("connections.yaml", "1"), text, StringComparison.Ordinal);
        _browser.CheckErrors();
    }

    [Fact]
    public async Task TwoPeopleOnOneFileLoseNothing()
    {
        await _page.GotoAsync("/files/edit?path=profiles.yaml");
        await _page.GetByLabel("poor_cells in dev").FillAsync("50000");
        await _page.GetByLabel("Note on office").FillAsync("who hears of it");
        await _page.Keyboard.PressAsync("Enter");
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "true");
        // What is typed outlives the page.
        await _page.ReloadAsync();
        await Expect(_page.GetByLabel("poor_cells in dev")).ToHaveValueAsync("50000");
        await SaveAsBobAsync("profiles.yaml", t => t + "prod:\n  inbox: in\n  office: o\n  poor_cells: 1\n");
        await Button("Save").ClickAsync();
        await Expect(_page.GetByText("bob had saved meanwhile; your changes were put to theirs.")).ToBeVisibleAsync();
        await Expect(_page.GetByLabel("poor_cells in prod")).ToHaveValueAsync("1");
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "false");
        var text = await TextAsync("profiles.yaml");
        Assert.Matches(@"dev:[\s\S]*poor_cells: 50000[\s\S]*prod:", text);
        // The same value: now somebody has to say.
        await _page.GetByLabel("poor_cells in prod").FillAsync("2");
        await _page.Keyboard.PressAsync("Enter");
        await SaveAsBobAsync("profiles.yaml", t => t.Replace("poor_cells: 1\n", "poor_cells: 3\n"));
        await Button("Save").ClickAsync();
        var conflict = _page.GetByRole(AriaRole.Alert).Filter(new() { HasText = "bob has saved meanwhile" });
        await Expect(conflict).ToContainTextAsync("both of you have changed prod");
        await Button("Show the difference").ClickAsync();
        await Expect(conflict.Locator(".cm-changedLine").First).ToContainTextAsync("poor_cells: 2");
        await Browser.CheckAccessAsync(_page, "a conflict of two who save");
        await Button("Save mine over theirs").ClickAsync();
        await Expect(conflict).ToHaveCountAsync(0);
        Assert.Contains("poor_cells: 2\n", await TextAsync("profiles.yaml"), StringComparison.Ordinal);
        // Theirs is among the versions, and can be brought back.
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Versions" }).ClickAsync();
        await _page.GetByRole(AriaRole.List, new() { Name = "Versions" }).GetByText("by bob").First.ClickAsync();
        await Expect(_page.Locator(".comparison .cm-changedLine").First).ToContainTextAsync("poor_cells: 2");
        await Browser.CheckAccessAsync(_page, "the versions of a file");
        await Button("Bring it into the editor").ClickAsync();
        await Button("Save").ClickAsync();
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "false");
        Assert.Contains("poor_cells: 3\n", await TextAsync("profiles.yaml"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task WhatAChainNeedsIsNotTakenAwayByAccident()
    {
        await _page.GotoAsync("/files/edit?path=lanes.yaml");
        await _page.GetByLabel("Remove laboratory").ClickAsync();
        var breaks = _page.GetByRole(AriaRole.Alert).Filter(new() { HasText = "This would break" });
        await Expect(breaks).ToContainTextAsync("there is no lane “laboratory”");
        await Button("Save").ClickAsync();
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "true");
        await Button("Save all the same").ClickAsync();
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "false");
        await _page.GotoAsync("/");
        await Expect(_page.Locator(".needs")).ToContainTextAsync("there is no lane “laboratory”");
    }

    [Fact]
    public async Task AnAttachmentIsWrittenInItsLanguageAndMakesARelease()
    {
        await _page.GotoAsync("/files/edit?path=price.sql");
        await _page.Locator(".cm-content").ClickAsync();
        await _page.Keyboard.PressAsync("Control+End");
        await _page.Keyboard.TypeAsync("-- checked by noor");
        await Browser.CheckAccessAsync(_page, "the editor of an attachment");
        await _page.Keyboard.PressAsync("Control+s");
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "false");
        Assert.EndsWith("-- checked by noor", await TextAsync("price.sql"), StringComparison.Ordinal);
        Assert.Equal(2, (await _service.Client.ReleasesAsync("milk-intake"))[0].Number);
        var download = await _page.RunAndWaitForDownloadAsync(() =>
            _page.GetByRole(AriaRole.Link, new() { Name = "Download" }).First.ClickAsync()
        );
        Assert.Equal("price.sql", download.SuggestedFilename);
        // Another one takes its place in the editor, and is saved when one says so.
        await _page
            .GetByLabel("A file for price.sql")
            .SetInputFilesAsync(
                new FilePayload
                {
                    Name = "x.sql",
                    MimeType = "text/plain",
                    Buffer = "SELECT 1;\n"u8.ToArray(),
                }
            );
        await Expect(_page.Locator(".cm-content")).ToHaveTextAsync(new Regex("^SELECT 1;"));
        await Expect(Status).ToHaveAttributeAsync("data-dirty", "true");
    }

    [Fact]
    public async Task AnAttachmentThatIsNewComesWithTheDraftOfItsChain()
    {
        await _page.GotoAsync("/files");
        await Button("New file…").ClickAsync();
        var dialog = _page.GetByRole(AriaRole.Dialog);
        await dialog.GetByLabel("What it is").SelectOptionAsync("attachment");
        await dialog.GetByLabel("Chain").SelectOptionAsync("milk-intake");
        await dialog.GetByLabel("Name").FillAsync("sql/count.sql");
        await dialog.GetByLabel("Or its text").FillAsync("SELECT count(*) FROM payments");
        await Browser.CheckAccessAsync(_page, "a new attachment");
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Put it to the draft" }).ClickAsync();
        await _page.WaitForURLAsync(new Regex("/chains/milk-intake/design"));
        var draft = await _service.Client.DraftAsync("milk-intake");
        Assert.Equal(1, draft.Version);
        // A step can name it from now on.
        Assert.Contains("sql/count.sql", draft.Files);
    }

    [Fact]
    public async Task AStepIsCancelledOnThePageOfItsRun()
    {
        await _service.PushAsync(
            "chain: slow\nsteps:\n  all:\n    kind: each\n    over: \"['west', 'east']\"\n    parallel: 2\n    steps:\n"
                + "      ask: { kind: command, set: { run: [sleep, '600'] } }\n"
        );
        var run = (await _service.Client.StartAsync(new("slow"))).Id;
        await _page.GotoAsync($"/runs/{run}?step={Uri.EscapeDataString("all[0]/ask")}");
        await Button("Cancel…").ClickAsync();
        var dialog = _page.GetByRole(AriaRole.Dialog);
        await dialog.GetByLabel("What").SelectOptionAsync("all[0]");
        await dialog.GetByLabel("skipped").CheckAsync();
        await dialog.GetByLabel("Why").FillAsync("west is closed");
        await Browser.CheckAccessAsync(_page, "the cancel dialog");
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Cancel it" }).ClickAsync();
        await Expect(dialog).ToHaveCountAsync(0);
        await Expect(_page.GetByLabel("Chosen step")).ToContainTextAsync("west is closed");
        await _page.GotoAsync($"/runs/{run}?step={Uri.EscapeDataString("all[1]/ask")}");
        await Button("Cancel…").ClickAsync();
        await dialog.GetByLabel("succeeded").CheckAsync();
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Cancel it" }).ClickAsync();
        await Expect(_page.Locator(".runhead .state")).ToHaveAttributeAsync("data-state", "succeeded");
    }
}
