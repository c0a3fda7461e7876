using System.Text.Json;
using GateChain.Client;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;

namespace GateChain.EndToEnd.Console;

/// <summary>
/// How pages look, measured: words that can be read, nothing beside the page, nothing that jumps once it is there.
/// </summary>
public sealed class LookTests : BrowserTests
{
    private protected override Task<Service> ServiceAsync() => Service.WithDemoAsync();

    // Words in view that are smaller than eleven pixels as they are seen, and names that are cut.
    const string Measure = """
        () => {
          const small = [], cut = [];
          const inView = r => r.bottom > 0 && r.top < innerHeight && r.right > 0 && r.left < innerWidth && r.width > 0;
          for (const e of document.body.querySelectorAll('*')) {
            const words = [...e.childNodes].filter(n => n.nodeType === 3 && n.textContent.trim() !== '');
            if (words.length === 0 || e.closest('svg, option, .visuallyhidden')) continue;
            const r = e.getBoundingClientRect();
            const style = getComputedStyle(e);
            if (!inView(r) || style.visibility === 'hidden' || style.opacity === '0') continue;
            const far = e.closest('.react-flow__viewport');
            const scale = far ? new DOMMatrix(getComputedStyle(far).transform).a : 1;
            const size = parseFloat(style.fontSize) * scale;
            if (size < 10.95) small.push(`${size.toFixed(1)} px: ${e.textContent.trim().slice(0, 40)}`);
            const told = '.step .title, .palette .kind b, .container .title, table b, h1, button, .pill, th, .state, label';
            if (e.matches(told) &&
                (e.scrollWidth > e.clientWidth + 1 || e.scrollHeight > e.clientHeight + 3))
              cut.push(`cut: ${e.textContent.trim()}`);
          }
          const wide = document.documentElement.scrollWidth > innerWidth ? [`${document.documentElement.scrollWidth} px wide`] : [];
          const shift = window.shifts > 0.02 ? [`jumps by ${window.shifts.toFixed(3)}`] : [];
          return [...new Set([...small, ...cut, ...wide, ...shift])];
        }
        """;

    const string WatchShifts = """
        window.shifts = 0;
        new PerformanceObserver(list => {
          for (const e of list.getEntries()) if (!e.hadRecentInput) window.shifts += e.value;
        }).observe({ type: 'layout-shift', buffered: true });
        """;

    async Task<long> RunAsync()
    {
        var day = new Dictionary<string, JsonElement> { ["day"] = JsonSerializer.SerializeToElement("2026-11-22") };
        var run = (await _service.Client.StartAsync(new("milk-intake", day, "dev"))).Id;
        await _service.EndAsync(run);
        return run;
    }

    [Fact]
    public async Task EveryPageCanBeReadAtFirstSightAndDoesNotJump()
    {
        var (run, again) = (await RunAsync(), await RunAsync());
        (string Path, string Sign)[] pages =
        [
            ("/", ".weekchart"),
            ("/chains", "table.dense"),
            ("/chains/milk-intake", ".step"),
            ("/chains/milk-intake/design", ".step"),
            ("/runs", "table.dense"),
            ($"/runs/{run}", ".step"),
            ($"/runs/{run}?step=depots%5B2%5D%2Fload", "[data-testid=why]"),
            ("/chains/milk-intake/history", ".charts canvas"),
            ($"/runs/{again}/difference?with={run}", ".stepdiff"),
            ("/triggers", "main h1"),
            ("/connections", "main h1"),
            ("/files", "table.dense"),
            ("/files/edit?path=connections.yaml", ".entry"),
            ("/files/edit?path=profiles.yaml", "table.profiles"),
            ("/files/edit?path=price.sql", ".cm-content"),
            ("/help", "dl"),
        ];
        var wrong = new List<string>();
        (int Width, int Height, ColorScheme Scheme)[] views =
        [
            (1280, 800, ColorScheme.Light),
            (1280, 800, ColorScheme.Dark),
            (1920, 1080, ColorScheme.Light),
            (1920, 1080, ColorScheme.Dark),
        ];
        await Task.WhenAll(
            views.Select(async view =>
            {
                var page = await _browser.PageAsync();
                await page.SetViewportSizeAsync(view.Width, view.Height);
                await page.EmulateMediaAsync(new() { ColorScheme = view.Scheme });
                await page.AddInitScriptAsync(WatchShifts);
                foreach (var (path, sign) in pages)
                {
                    await page.GotoAsync(path);
                    await page.Locator(sign).First.WaitForAsync();
                    // What comes late may not move what is there.
                    await page.WaitForLoadStateAsync(LoadState.NetworkIdle, new() { Timeout = 2_000 })
                        .ContinueWith(_ => { }, TaskScheduler.Default);
                    foreach (var found in await page.EvaluateAsync<string[]>(Measure))
                    {
                        lock (wrong)
                            wrong.Add($"{path} {view.Width}x{view.Height} {view.Scheme}: {found}");
                    }
                }
            })
        );
        Assert.True(wrong.Count == 0, string.Join("\n", wrong));
    }
}
