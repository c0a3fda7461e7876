using Microsoft.Playwright;

namespace GateChain.EndToEnd.House;

/// <summary>
/// Pages of the console in Debian's chromium; gathers what goes wrong in them. One chromium serves all tests, each with
/// profiles of its own.
/// </summary>
sealed class Browser : IAsyncDisposable
{
    static readonly string[] Flags =
    [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ];

    // It ends with the process of the tests.
    static readonly Lazy<Task<IBrowser>> Shared = new(async () =>
    {
        // The build machine is slow at times; what never comes fails all the same.
        Assertions.SetDefaultExpectTimeout(30_000);
        var playwright = await Playwright.CreateAsync();
        return await playwright.Chromium.LaunchAsync(new() { ExecutablePath = "/usr/bin/chromium", Args = Flags });
    });

    readonly Uri _address;
    readonly List<IBrowserContext> _profiles = [];

    public Browser(Uri address) => _address = address;

    // What pages wrote as errors, with the address that it was about.
    readonly List<string> _errors = [];

    /// <summary>A page in a profile of its own: another person, to the service.</summary>
    public async Task<IPage> PageAsync()
    {
        var context = await (await Shared.Value).NewContextAsync(
            new()
            {
                BaseURL = _address.ToString(),
                ViewportSize = new() { Width = 1280, Height = 800 },
            }
        );
        _profiles.Add(context);
        await context.GrantPermissionsAsync(["clipboard-read", "clipboard-write"]);
        var page = await context.NewPageAsync();
        page.SetDefaultTimeout(30_000);
        page.Console += (_, message) =>
        {
            if (message.Type == "error")
                _errors.Add($"{message.Text} ({message.Location})");
        };
        page.PageError += (_, error) => _errors.Add(error);
        return page;
    }

    /// <summary>Fails when a page wrote an error, and tells all of it.</summary>
    /// <param name="but">What an error may say: browsers write every answer with an error status there, also one that
    /// is wanted.</param>
    public void CheckErrors(string? but = null)
    {
        var errors = _errors.Where(e => but is null || !e.Contains(but, StringComparison.Ordinal)).ToList();
        Assert.True(errors.Count == 0, string.Join("\n", errors));
    }

    /// <summary>Fails when axe finds something wrong, in light or in dark.</summary>
    public static async Task CheckAccessAsync(IPage page, string where)
    {
        await page.EvaluateAsync(
            await File.ReadAllTextAsync(Path.Combine(Place.Root, "console/node_modules/axe-core/axe.min.js"))
        );
        // Dialogs fade in; half-faded text has too little contrast for a moment.
        await Task.Delay(400);
        foreach (var scheme in (string[])["light", "dark"])
        {
            var brightness = await page.EvaluateAsync<double>(
                """
                async scheme => {
                  document.documentElement.setAttribute('data-mantine-color-scheme', scheme);
                  await new Promise(r => setTimeout(r, 250));
                  const [r, g, b] = getComputedStyle(document.body).backgroundColor.match(/[\d.]+/g).map(Number);
                  return (0.2126 * r + 0.7152 * g + 0.0722 * b) / 255;
                }
                """,
                scheme
            );
            // That it is dark is seen, not taken on trust.
            Assert.True(scheme == "dark" ? brightness < 0.2 : brightness > 0.8, $"{where}: {scheme} is {brightness}");
            var found = await page.EvaluateAsync<string[]>(
                "async () => (await axe.run()).violations.flatMap(v => v.nodes.map(n => `${v.id}: "
                    + "${n.target} ${n.failureSummary}`))"
            );
            Assert.True(found.Length == 0, $"{where}, {scheme}:\n{string.Join("\n", found)}");
        }
        await page.EvaluateAsync("document.documentElement.setAttribute('data-mantine-color-scheme', 'light')");
        // Nothing needs sideways scrolling at this size.
        Assert.True(
            await page.EvaluateAsync<bool>("document.documentElement.scrollWidth <= window.innerWidth"),
            $"{where} is too wide"
        );
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var profile in _profiles)
            await profile.CloseAsync();
    }
}
