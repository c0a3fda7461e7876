using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>Logs of any length on the run page: read both ways, searched by the service, followed.</summary>
public sealed class LogTests : BrowserTests
{
    private protected override Task<Service> ServiceAsync() => Service.EmptyAsync();

    ILocator Log => _page.Locator(".log");
    ILocator State => _page.Locator(".logstate [role=status]");

    async Task OpenAsync(string shell)
    {
        await _service.PushAsync($"chain: t\nsteps: {{ s: {{ kind: command, set: {{ shell: \"{shell}\" }} }} }}\n");
        var run = (await _service.Client.StartAsync(new("t", null))).Id;
        if (!shell.Contains("read", StringComparison.Ordinal))
            await _service.EndAsync(run);
        await _page.GotoAsync($"/runs/{run}?step=s");
        await _page.GetByRole(AriaRole.Tab, new() { Name = "Log" }).ClickAsync();
    }

    // The first line in view.
    Task<string> AtTopAsync() =>
        Log.EvaluateAsync<string>(
            "h => { const r = h.getBoundingClientRect(); "
                + "const line = document.elementFromPoint(r.left + 40, r.top + 20)?.closest('.out,.err,.note'); "
                + "return line?.textContent ?? ''; }"
        );

    [Fact]
    public async Task ALongLogIsReadBothWaysAndSearchedByTheService()
    {
        await OpenAsync("seq -f 'row %.0f was read in' 1 40000; echo oops >&2; exit 1");
        // It has failed: its end is what one comes for.
        await Expect(Log).ToContainTextAsync("row 40000 was");
        await Expect(State).ToHaveTextAsync(new Regex("^9[0-9] to 100 % of 2.[0-9] MB$"));
        await Browser.CheckAccessAsync(_page, "the end of a long log");
        // What is in view stays where it is while more is read before it.
        await Log.HoverAsync();
        var last = 40_001;
        for (var i = 0; i < 40; i++)
        {
            await _page.Mouse.WheelAsync(0, -1800);
            for (var wait = 0; wait < 100; wait++)
            {
                var row = Regex.Match(await AtTopAsync(), @"row (\d+)") is { Success: true } found
                    ? int.Parse(found.Groups[1].Value)
                    : last;
                if (row >= last)
                {
                    await Task.Delay(20);
                    continue;
                }
                Assert.InRange(last - row, 1, 250);
                last = row;
                break;
            }
        }
        Assert.True(last < 37_500, $"only scrolled back to row {last}");

        await _page.GetByLabel("Search the log").FillAsync("ROW 20000 ");
        await Expect(State).ToHaveTextAsync("1 line");
        await _page.GetByTitle("Show it where it stands").ClickAsync();
        await Expect(_page.Locator("[data-marked] > :first-child")).ToContainTextAsync("row 20000 was read in");
        await Expect(Log).ToContainTextAsync("row 19999 was");
        await Expect(Log).ToContainTextAsync("row 20001 was");
        await Browser.CheckAccessAsync(_page, "a found line of a log");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Back to the found lines" }).ClickAsync();
        await _page.GetByLabel("Search the log").FillAsync("");
        await _page.GetByRole(AriaRole.Button, new() { Name = "Beginning" }).ClickAsync();
        await Expect(Log).ToContainTextAsync("row 1 was");
        await _page.GetByLabel("Lines", new() { Exact = true }).SelectOptionAsync("errors");
        await Expect(Log).ToContainTextAsync("oops");
        await Expect(State).ToHaveTextAsync("1 line");
        var download = await _page.RunAndWaitForDownloadAsync(() =>
            _page.GetByRole(AriaRole.Link, new() { Name = "Download" }).ClickAsync()
        );
        Assert.Equal("run-1-s-1.log", download.SuggestedFilename);
        Assert.Equal(40_002, File.ReadLines(await download.PathAsync()).Count());
    }

    [Fact]
    public async Task ALogIsFollowedUntilThePersonScrollsBack()
    {
        var fifo = Path.Combine(_service.Work, "more");
        // It writes as many lines as it is told.
        await OpenAsync(
            "touch more; tail -f more | while read n; do [ $n = end ] && break; seq -f 'row %.0f' 1 $n; done"
        );
        async Task MoreAsync(string text) => await File.AppendAllTextAsync(fifo, text + "\n");
        await Expect(_page.GetByText("It has written nothing yet.")).ToBeVisibleAsync();
        await MoreAsync("5000");
        var isAtEnd = "h => h.scrollHeight - h.scrollTop - h.clientHeight < 5";
        await Expect(Log).ToContainTextAsync("row 5000");
        await Expect(_page.GetByLabel("Follow")).ToBeCheckedAsync();
        Assert.True(await Log.EvaluateAsync<bool>(isAtEnd));
        await Log.HoverAsync();
        await _page.Mouse.WheelAsync(0, -3000);
        await Expect(_page.GetByLabel("Follow")).Not.ToBeCheckedAsync();
        var seen = await AtTopAsync();
        await MoreAsync("300");
        while ((await _service.Client.LogBeforeAsync(1, "s", null, long.MaxValue)).Text.EndsWith("5000\n"))
            await Task.Delay(20);
        Assert.Equal(seen, await AtTopAsync());
        await _page.GetByLabel("Follow").CheckAsync();
        await Expect(Log).ToContainTextAsync(new Regex("row 300$"));
        Assert.NotEqual(seen, await AtTopAsync());
        Assert.True(await Log.EvaluateAsync<bool>(isAtEnd));
        await MoreAsync("end");
        await Expect(_page.GetByLabel("Follow")).ToHaveCountAsync(0);
    }
}
