using System.Text.RegularExpressions;
using GateChain.EndToEnd.Access;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;
using OtpNet;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>
/// Signing in with a browser, one's profile, people and their roles, and a session that ends at work.
/// </summary>
public sealed class SignInTests : IAsyncLifetime
{
    Team _team = null!;
    Browser _browser = null!;

    public async ValueTask InitializeAsync()
    {
        _team = await Team.NewAsync();
        _browser = new(_team.Service.Address);
    }

    public async ValueTask DisposeAsync()
    {
        await _browser.DisposeAsync();
        await _team.DisposeAsync();
    }

    static ILocator Button(IPage page, string name) =>
        page.GetByRole(AriaRole.Button, new() { Name = name, Exact = true });

    static ILocator Box(IPage page, string name) =>
        page.GetByRole(AriaRole.Textbox, new() { Name = name, Exact = true });

    static async Task SignInAsync(IPage page, string name, string password = Team.Password)
    {
        await Box(page, "Name").FillAsync(name);
        await Box(page, "Password").FillAsync(password);
        await Button(page, "Sign in").ClickAsync();
    }

    [Fact]
    public async Task SomebodyIsAddedChoosesAPasswordAndSeesWhatIsTheirs()
    {
        var ann = await _browser.PageAsync();
        await ann.GotoAsync("/chains?x=1");
        await Expect(ann).ToHaveURLAsync(new Regex("/sign-in"));
        await Browser.CheckAccessAsync(ann, "the sign-in page");
        await SignInAsync(ann, "ann", "wrong password");
        await Expect(ann.GetByRole(AriaRole.Alert)).ToContainTextAsync("name or password is wrong");
        await SignInAsync(ann, "ann");
        await Expect(ann).ToHaveURLAsync(new Regex("/chains"));
        await ann.GetByRole(AriaRole.Link, new() { Name = "Access" }).ClickAsync();
        await Button(ann, "Add somebody…").ClickAsync();
        await Box(ann, "Name").FillAsync("bea");
        await ann.GetByLabel("Role 1", new() { Exact = true }).SelectOptionAsync("operator");
        await ann.GetByLabel("Folder of role 1").FillAsync("sales");
        await Browser.CheckAccessAsync(ann, "adding somebody");
        await Button(ann, "Add").ClickAsync();
        var link = await ann.Locator(".shownonce").InnerTextAsync();
        await Button(ann, "Done").ClickAsync();
        await Browser.CheckAccessAsync(ann, "the people");

        var bea = await _browser.PageAsync();
        await bea.GotoAsync(link.Trim());
        await Expect(bea.GetByRole(AriaRole.Heading)).ToContainTextAsync("Welcome, bea");
        // The address does not keep what the link holds.
        Assert.EndsWith("/welcome", bea.Url);
        await Box(bea, "Password").FillAsync("password1234");
        await Box(bea, "The same once more").FillAsync("password1234");
        await Button(bea, "Choose this password").ClickAsync();
        await Expect(bea.GetByRole(AriaRole.Alert)).ToContainTextAsync("tried first");
        await Browser.CheckAccessAsync(bea, "the welcome");
        await Box(bea, "Password").FillAsync(Team.Password);
        await Box(bea, "The same once more").FillAsync(Team.Password);
        await Button(bea, "Choose this password").ClickAsync();
        await bea.GetByRole(AriaRole.Link, new() { Name = "Sign in" }).ClickAsync();
        await SignInAsync(bea, "bea");
        await Expect(Button(bea, "Profile of bea")).ToBeVisibleAsync();
        await bea.GetByRole(AriaRole.Link, new() { Name = "Chains", Exact = true }).ClickAsync();
        await Expect(bea.GetByRole(AriaRole.Link, new() { Name = "The day of sales" })).ToBeVisibleAsync();
        await Expect(bea.GetByText("The day of finance")).ToHaveCountAsync(0);
        // What an operator may not do is not there; what they may, is.
        await Expect(Button(bea, "New chain…")).ToHaveCountAsync(0);
        await Expect(bea.GetByRole(AriaRole.Link, new() { Name = "Access" })).ToHaveCountAsync(0);
        await bea.GetByRole(AriaRole.Link, new() { Name = "The day of sales" }).ClickAsync();
        await Expect(Button(bea, "Run…")).ToBeVisibleAsync();
        await Expect(bea.GetByRole(AriaRole.Link, new() { Name = "Design", Exact = true })).ToHaveCountAsync(0);
        await bea.GotoAsync("/access");
        await Expect(bea.Locator(".empty")).ToContainTextAsync("takes the role admin");

        // Roles change at once; the audit log has it.
        await Button(ann, "Roles…").Nth(1).ClickAsync();
        await ann.GetByLabel("Role 1", new() { Exact = true }).SelectOptionAsync("viewer");
        await Button(ann, "Give these").ClickAsync();
        await Expect(ann.GetByText("viewer in sales")).ToBeVisibleAsync();
        await bea.GotoAsync("/chains/sales-day");
        await Expect(bea.GetByText("for the role operator")).ToBeVisibleAsync();
        await ann.GetByRole(AriaRole.Tab, new() { Name = "Audit log" }).ClickAsync();
        await Expect(ann.GetByText("operator:sales → viewer:sales")).ToBeVisibleAsync();
        await Button(ann, "Is it whole?").ClickAsync();
        await Expect(ann.GetByText("are as they were written")).ToBeVisibleAsync();
        await Browser.CheckAccessAsync(ann, "the audit log");
        foreach (var tab in (string[])["Tokens", "Folders", "Signing in"])
        {
            await ann.GetByRole(AriaRole.Tab, new() { Name = tab, Exact = true }).ClickAsync();
            await Browser.CheckAccessAsync(ann, tab);
        }
        _browser.CheckErrors("the server responded with a status of 4");
    }

    [Fact]
    public async Task TheFirstAccountIsMadeInTheConsoleAndItsLinkIsNotLost()
    {
        await using var service = await Service.EmptyAsync();
        await using var browser = new Browser(service.Address);
        var page = await browser.PageAsync();
        await page.GotoAsync("/access");
        await Expect(page.GetByText("There are no accounts")).ToBeVisibleAsync();
        await Button(page, "Add somebody…").ClickAsync();
        await Box(page, "Name").FillAsync("ann");
        await page.GetByLabel("Role 1", new() { Exact = true }).SelectOptionAsync("viewer");
        await Button(page, "Add").ClickAsync();
        await Expect(page.GetByRole(AriaRole.Dialog)).ToContainTextAsync("the first account is an admin");
        await page.GetByLabel("Role 1", new() { Exact = true }).SelectOptionAsync("admin");
        await Button(page, "Add").ClickAsync();
        await Expect(page.Locator(".shownonce")).ToContainTextAsync("/welcome#");
        await Button(page, "Done").ClickAsync();
        await Expect(page.GetByRole(AriaRole.Heading)).ToContainTextAsync("Welcome, ann");
        await Box(page, "Password").FillAsync(Team.Password);
        await Box(page, "The same once more").FillAsync(Team.Password);
        await Button(page, "Choose this password").ClickAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Sign in" }).ClickAsync();
        await SignInAsync(page, "ann");
        await Expect(Button(page, "Profile of ann")).ToBeVisibleAsync();
    }

    [Fact]
    public async Task OneTimeCodesAreSetUpAndAskedFor()
    {
        var page = await _browser.PageAsync();
        await page.GotoAsync("/profile");
        await SignInAsync(page, "ann");
        await Button(page, "Set them up…").ClickAsync();
        var secret = (await page.Locator(".shownonce").InnerTextAsync()).Replace(" ", "", StringComparison.Ordinal);
        await Browser.CheckAccessAsync(page, "one-time codes");
        string Code(int later = 0) =>
            new Totp(Base32Encoding.ToBytes(secret)).ComputeTotp(DateTime.UtcNow.AddSeconds(30 * later));
        await Box(page, "The code that it shows now").FillAsync(Code());
        await Button(page, "Turn them on").ClickAsync();
        var recovery = await page.GetByRole(AriaRole.List, new() { Name = "Recovery codes" })
            .Locator("li")
            .First.InnerTextAsync();
        await Button(page, "I have them").ClickAsync();
        await Button(page, "Profile of ann").ClickAsync();
        await page.GetByRole(AriaRole.Menuitem, new() { Name = "Sign out" }).ClickAsync();
        await Expect(page).ToHaveURLAsync(new Regex("/sign-in"));
        await SignInAsync(page, "ann");
        await Box(page, "One-time code").FillAsync("000000");
        await Button(page, "Sign in").ClickAsync();
        await Expect(page.GetByRole(AriaRole.Alert)).ToContainTextAsync("wrong, or was used already");
        await Box(page, "One-time code").FillAsync(recovery);
        await Button(page, "Sign in").ClickAsync();
        await Expect(Button(page, "Profile of ann")).ToBeVisibleAsync();
    }

    [Fact]
    public async Task WhatWasTypedGoesOnAfterTheSessionHasEnded()
    {
        (await _team.AddAsync("dora", "designer:sales")).Dispose();
        var page = await _browser.PageAsync();
        await page.GotoAsync("/files/edit?path=sales/sales.sql");
        await SignInAsync(page, "dora");
        await page.Locator(".cm-content").ClickAsync();
        await page.Keyboard.PressAsync("Control+End");
        await page.Keyboard.TypeAsync(" -- typed by dora");
        await Team.AskAsync(_team.Ann, "DELETE", "/api/people/dora/sessions");
        await Button(page, "Save").ClickAsync();
        await Expect(page.GetByRole(AriaRole.Dialog)).ToContainTextAsync("Your session has ended");
        await Browser.CheckAccessAsync(page, "signing in again");
        await Box(page, "Password").FillAsync(Team.Password);
        await Button(page, "Sign in").ClickAsync();
        await Expect(page.GetByRole(AriaRole.Dialog)).ToHaveCountAsync(0);
        await Expect(page.Locator(".cm-content")).ToContainTextAsync("typed by dora");
        await Button(page, "Save").ClickAsync();
        await Expect(page.Locator(".headline [role=status]")).ToContainTextAsync("saved; dora");

        // The designer, too: a draft is saved by itself, and waits for the session.
        await page.GotoAsync("/chains/sales-day/design");
        await page.Locator("[data-step='say']").ClickAsync();
        await Team.AskAsync(_team.Ann, "DELETE", "/api/people/dora/sessions");
        await page.GetByLabel("Title", new() { Exact = true }).FillAsync("Say it aloud");
        await page.Keyboard.PressAsync("Tab");
        await Expect(page.GetByText("Your session has ended")).ToBeVisibleAsync();
        await Box(page, "Password").FillAsync(Team.Password);
        await Button(page, "Sign in").ClickAsync();
        await Expect(page.GetByText("Your session has ended")).ToHaveCountAsync(0);
        for (var i = 0; ; i++)
        {
            var (_, draft) = await Team.AskAsync(_team.Ann, "GET", "/api/chains/sales-day/draft");
            if (draft.Contains("Say it aloud"))
                break;
            Assert.True(i < 300, draft);
            await Task.Delay(100);
        }
    }

    [Fact]
    public async Task TheCommandLineIsLetInByWhoConfirmsItsCode()
    {
        var config = Path.Combine(_team.Service.Work, "config");
        var environment = new Dictionary<string, string>
        {
            ["GATECHAIN_SERVICE"] = _team.Service.Address.ToString(),
            ["XDG_CONFIG_HOME"] = config,
        };
        Task<(int Exit, string Out, string Err)> Cli(params string[] arguments) =>
            Place.RunAsync(Place.Program, _team.Service.Work, environment, arguments);
        Assert.Equal(7, (await Cli("runs")).Exit);
        var process = System.Diagnostics.Process.Start(
            new System.Diagnostics.ProcessStartInfo(Place.Program, ["sign-in"])
            {
                RedirectStandardError = true,
                RedirectStandardOutput = true,
                Environment =
                {
                    ["GATECHAIN_SERVICE"] = environment["GATECHAIN_SERVICE"],
                    ["XDG_CONFIG_HOME"] = config,
                },
            }
        )!;
        var address = (await process.StandardError.ReadLineAsync())!["Open ".Length..];
        var page = await _browser.PageAsync();
        await page.GotoAsync(address);
        await SignInAsync(page, "ann");
        await Expect(page.Locator(".usercode")).ToHaveTextAsync(new Regex("^[A-Z]{4}-[A-Z]{4}$"));
        await Browser.CheckAccessAsync(page, "the code");
        await Button(page, "Let it in").ClickAsync();
        await Expect(page.GetByRole(AriaRole.Heading)).ToContainTextAsync("It is let in");
        await process.WaitForExitAsync().WaitAsync(TimeSpan.FromMinutes(1));
        Assert.Contains("signed in as ann: admin", await process.StandardOutput.ReadToEndAsync());
        var kept = Path.Combine(config, "gatechain/sign-ins.json");
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(kept));

        Assert.Equal(0, (await Cli("runs")).Exit);
        Assert.Contains("ann, by token", (await Cli("who")).Out);
        var (exit, link, _) = await Cli("user", "add", "bea", "--role", "viewer:sales", "--full-name", "Bea Holloway");
        Assert.Equal(0, exit);
        await _team.ChooseAsync(link.Trim());
        Assert.Contains("bea: viewer:sales, operator:sales", (await Cli("role", "give", "bea", "operator:sales")).Out);
        Assert.Equal(4, (await Cli("role", "take", "bea", "designer")).Exit);
        var token = (await Cli("token", "add", "nightly", "--of", "bea", "--role", "operator:sales")).Out.Trim();
        Assert.StartsWith("gct_", token);
        Assert.Equal(8, (await Cli("user", "--token", token)).Exit);
        Assert.Equal(4, (await Cli("run", "finance-day", "--token", token)).Exit);
        Assert.Equal(0, (await Cli("run", "sales-day", "--token", token)).Exit);
        var audit = (await Cli("audit", "--limit", "5")).Out;
        Assert.Contains("nightly (bea)", audit);
        Assert.Contains("each as it was written", (await Cli("audit", "--verify")).Out);
        Assert.Contains("signed out", (await Cli("sign-out")).Out);
        Assert.Equal(7, (await Cli("runs")).Exit);

        // Somebody who reaches the database changes a line: it is found, also with the service ended.
        await _team.Service.TerminateAsync();
        var data = _team.Service.Data;
        // Who owns the folder helps an admin who can't sign in any more.
        var (offline, welcome, _) = await Cli("user", "link", "ann", "--data", data);
        Assert.Equal(0, offline);
        Assert.Contains("/welcome#", welcome);
        Assert.Equal(4, (await Cli("user", "link", "nobody", "--data", data)).Exit);
        Assert.Equal(0, (await Cli("audit", "--verify", "--data", data)).Exit);
        using (
            var database = new Microsoft.Data.Sqlite.SqliteConnection(
                $"Data Source={Path.Combine(data, "gatechain.db")};Pooling=False"
            )
        )
        {
            database.Open();
            using var change = database.CreateCommand();
            change.CommandText = "DROP TRIGGER audit_stays; UPDATE audit SET by_name = 'eve' WHERE number = 3";
            change.ExecuteNonQuery();
        }
        var (wrong, _, why) = await Cli("audit", "--verify", "--data", data);
        Assert.Equal(1, wrong);
        Assert.Contains("line 3, or one before it, is not as it was written", why);
    }
}
