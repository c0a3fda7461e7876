using Microsoft.Playwright;

namespace GateChain.EndToEnd.House;

/// <summary>Debian's chromium, with the console's pages; gathers what goes wrong in them.</summary>
sealed class Browser : IAsyncDisposable
{
    static readonly string[] Flags = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"];

    readonly IPlaywright _playwright;
    readonly IBrowser _browser;
    readonly Uri _address;

    Browser(IPlaywright playwright, IBrowser browser, Uri address) => (_playwright, _browser, _address) = (playwright, browser, address);

    /// <summary>What pages wrote as errors.</summary>
    public List<string> Errors { get; } = [];

    public static async Task<Browser> StartAsync(Uri address)
    {
        var playwright = await Playwright.CreateAsync();
        return new(playwright, await playwright.Chromium.LaunchAsync(new() { ExecutablePath = "/usr/bin/chromium", Args = Flags }), address);
    }

    /// <summary>A page in a profile of its own: another person, to the service.</summary>
    public async Task<IPage> PageAsync()
    {
        var context = await _browser.NewContextAsync(new() { BaseURL = _address.ToString(), ViewportSize = new() { Width = 1280, Height = 800 } });
        await context.GrantPermissionsAsync(["clipboard-read", "clipboard-write"]);
        var page = await context.NewPageAsync();
        page.SetDefaultTimeout(15_000);
        page.Console += (_, message) => { if (message.Type == "error") { Errors.Add(message.Text); } };
        page.PageError += (_, error) => Errors.Add(error);
        return page;
    }

    /// <summary>Fails when axe finds something wrong.</summary>
    public static async Task CheckAccessAsync(IPage page, string where)
    {
        await page.EvaluateAsync(await File.ReadAllTextAsync(Path.Combine(Place.Root, "console/node_modules/axe-core/axe.min.js")));
        // Dialogs fade in; half-faded text has too little contrast for a moment.
        await Task.Delay(400);
        var found = await page.EvaluateAsync<string[]>("async () => (await axe.run()).violations.flatMap(v => v.nodes.map(n => `${v.id}: ${n.target} ${n.failureSummary}`))");
        Assert.True(found.Length == 0, $"{where}:\n{string.Join("\n", found)}");
        // Nothing needs sideways scrolling at this size.
        Assert.True(await page.EvaluateAsync<bool>("document.documentElement.scrollWidth <= window.innerWidth"), $"{where} is too wide");
    }

    public async ValueTask DisposeAsync()
    {
        await _browser.DisposeAsync();
        _playwright.Dispose();
    }
}
