using System.Net;
using System.Text.RegularExpressions;
using GateChain.Client;
using GateChain.StandIns;

namespace GateChain.EndToEnd.Access;

/// <summary>
/// Signing in at a real OpenID provider: the way there and back, and what somebody in between could try.
/// </summary>
public sealed partial class ProviderTests : IAsyncLifetime
{
    Team _team = null!;
    World _world = null!;

    public async ValueTask InitializeAsync()
    {
        _world = await World.StartAsync();
        _team = await Team.NewAsync();
        await Team.AskAsync(_team.Ann, "PUT", "/api/secrets/provider", new { value = "made-up-provider-secret" });
        var (status, text) = await Team.AskAsync(
            _team.Ann,
            "PUT",
            "/api/access/sign-in",
            new SignInInfo(
                [],
                new(
                    "Larkmoor",
                    _world.Address.ToString(),
                    "gatechain",
                    "provider",
                    "groups",
                    new Dictionary<string, string> { ["tank-crew"] = "operator:sales", ["office"] = "viewer" }
                )
            )
        );
        Assert.True(status == 200, text);
    }

    public async ValueTask DisposeAsync()
    {
        await _team.DisposeAsync();
        await _world.DisposeAsync();
    }

    // What a browser does: follows each redirect, with the cookies of its host.
    static async Task<HttpResponseMessage> FollowAsync(HttpClient http, Uri address)
    {
        for (var i = 0; ; i++)
        {
            var answer = await http.GetAsync(address);
            if ((int)answer.StatusCode is not (301 or 302 or 303) || i == 10)
                return answer;
            address = new(address, answer.Headers.Location!);
        }
    }

    /// <summary>Goes to the provider as somebody, up to the address that leads back.</summary>
    async Task<Uri> BackAsync(HttpClient http, string person, string? back = null)
    {
        using var start = await http.GetAsync(
            $"/api/session/provider{(back is null ? "" : $"?back={Uri.EscapeDataString(back)}")}"
        );
        Assert.Equal(HttpStatusCode.Redirect, start.StatusCode);
        var there = start.Headers.Location!;
        // The code is worth nothing without what only the service knows.
        Assert.Matches("code_challenge_method=S256", there.Query);
        Assert.Matches("code_challenge=[^&]{43}", there.Query);
        Assert.Contains("nonce=", there.Query);
        using var page = await http.GetAsync(there);
        Assert.Contains("who are you?", await page.Content.ReadAsStringAsync());
        using var chosen = await http.GetAsync($"{there}&person={person}");
        Assert.Equal(HttpStatusCode.Redirect, chosen.StatusCode);
        return chosen.Headers.Location!;
    }

    static async Task<string> WhoAsync(HttpClient http)
    {
        var session = Team.Json((await Team.AskAsync(http, "GET", "/api/session")).Text);
        return $"{session.GetProperty("state")} {session.GetProperty("name")} {session.GetProperty("roles")}";
    }

    [Fact]
    public async Task WhoTheProviderNamesComesInWithTheRolesOfItsTable()
    {
        using var http = _team.Http();
        using var home = await http.GetAsync(await BackAsync(http, "carl", "/runs?state=failed"));
        Assert.Equal(
            (HttpStatusCode.Redirect, "/runs?state=failed"),
            (home.StatusCode, home.Headers.Location!.ToString())
        );
        Assert.Equal("signed-in carl [\"viewer\",\"operator:sales\"]", await WhoAsync(http));
        var cookie = home
            .Headers.GetValues("Set-Cookie")
            .Single(c => c.StartsWith("gatechain=", StringComparison.Ordinal));
        Assert.Matches("(?i)httponly.*|.*samesite=strict", cookie);
        var (_, audit) = await Team.AskAsync(_team.Ann, "GET", "/api/audit?by=carl");
        Assert.Contains("\"action\":\"sign in\"", audit);
        Assert.Contains("\"through\":\"Larkmoor\"", audit);

        // Somebody without a role is known there, and not let in here.
        using var other = _team.Http();
        using var refused = await other.GetAsync(await BackAsync(other, "dina"));
        Assert.Equal("/sign-in?refused=role", refused.Headers.Location!.ToString());
        Assert.StartsWith("signed-out", await WhoAsync(other));

        // Signing out there leads back to the page where one signs in.
        Assert.Equal(204, (int)(await SendAsync(http, HttpMethod.Delete, "/api/session")).StatusCode);
        using var end = await http.GetAsync("/api/session/provider/sign-out");
        Assert.Contains("/id/end", end.Headers.Location!.ToString());
        using var back = await http.GetAsync(end.Headers.Location);
        using var last = await http.GetAsync(back.Headers.Location);
        Assert.Equal("/sign-in", last.Headers.Location!.ToString());
    }

    static async Task<HttpResponseMessage> SendAsync(HttpClient http, HttpMethod method, string path)
    {
        using var request = new HttpRequestMessage(method, path);
        request.Headers.Add("X-Gatechain", "active");
        return await http.SendAsync(request);
    }

    [Fact]
    public async Task AnAnswerOfTheProviderCountsOnceAndForTheBrowserThatAsked()
    {
        using var http = _team.Http();
        var back = await BackAsync(http, "bea");
        // Another browser that is given the address is not signed in by it: it never asked.
        using var victim = _team.Http();
        using var foreign = await victim.GetAsync(back);
        Assert.Equal("/sign-in?refused=provider", foreign.Headers.Location!.ToString());
        Assert.StartsWith("signed-out", await WhoAsync(victim));
        // Nor by a changed state, or without one.
        foreach (
            var changed in (string[])
                [
                    State().Replace(back.ToString(), "state=forged"),
                    State().Replace(back.ToString(), ""),
                    Code().Replace(back.ToString(), "code=forged"),
                ]
        )
        {
            using var forged = await http.GetAsync(changed);
            Assert.StartsWith("/sign-in?refused", forged.Headers.Location!.ToString());
            Assert.StartsWith("signed-out", await WhoAsync(http));
        }
        back = await BackAsync(http, "bea");
        (await http.GetAsync(back)).Dispose();
        Assert.Equal("signed-in bea [\"operator:sales\"]", await WhoAsync(http));
        (await SendAsync(http, HttpMethod.Delete, "/api/session")).Dispose();
        // The same answer once more.
        using var again = await http.GetAsync(back);
        Assert.Equal("/sign-in?refused=provider", again.Headers.Location!.ToString());
        Assert.StartsWith("signed-out", await WhoAsync(http));
        // An answer to one question is not one to another: its nonce and its PKCE verifier are others.
        var (first, second) = (await BackAsync(http, "bea"), await BackAsync(http, "bea"));
        var mixed = State().Replace(first.ToString(), State().Match(second.ToString()).Value);
        using var swapped = await http.GetAsync(mixed);
        Assert.Equal("/sign-in?refused=provider", swapped.Headers.Location!.ToString());
        Assert.StartsWith("signed-out", await WhoAsync(http));
    }

    [GeneratedRegex("state=[^&]*")]
    private static partial Regex State();

    [GeneratedRegex("code=[^&]*")]
    private static partial Regex Code();

    [Fact]
    public async Task NobodyIsLedElsewhereAfterwards()
    {
        string[] elsewhere =
        [
            "https://evil.example/",
            "//evil.example/",
            "/\\evil.example/",
            "/%09/evil.example",
            "javascript:alert(1)",
            "evil.example",
        ];
        foreach (var to in elsewhere)
        {
            using var http = _team.Http();
            using var home = await http.GetAsync(await BackAsync(http, "bea", to));
            var location = home.Headers.Location!.ToString();
            Assert.True(location is "/" or "/%09/evil.example", location);
        }
    }
}
