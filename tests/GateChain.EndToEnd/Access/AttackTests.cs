using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using GateChain.Client;

namespace GateChain.EndToEnd.Access;

/// <summary>What an attacker tries who is not let in, or who sits between.</summary>
public sealed class AttackTests(TeamFixture fixture) : IClassFixture<TeamFixture>
{
    readonly Team _team = fixture.Team;

    [Fact]
    public async Task ASignInGivesANewSessionAndEndsTheOneBefore()
    {
        var cookies = new CookieContainer();
        cookies.Add(_team.Service.Address, new Cookie("gatechain", "chosen-by-an-attacker"));
        string Shown() => cookies.GetCookies(_team.Service.Address)["gatechain"]!.Value;
        using var http = await _team.SignInAsync("ann", cookies);
        var first = Shown();
        Assert.NotEqual("chosen-by-an-attacker", first);
        (await _team.SignInAsync("ann", cookies)).Dispose();
        Assert.NotEqual(first, Shown());
        var old = new CookieContainer();
        old.Add(_team.Service.Address, new Cookie("gatechain", first));
        using var before = _team.Http(old);
        Assert.Equal(401, (await Team.AskAsync(before, "GET", "/api/runs")).Status);
        // Signed out, the cookie that somebody has kept is worth nothing.
        var kept = Shown();
        Assert.Equal(204, (await Team.AskAsync(http, "DELETE", "/api/session")).Status);
        old.Add(_team.Service.Address, new Cookie("gatechain", kept));
        Assert.Equal(401, (await Team.AskAsync(before, "GET", "/api/runs")).Status);
    }

    [Fact]
    public async Task APageOfAnotherSiteChangesNothing()
    {
        var cookies = new CookieContainer();
        (await _team.SignInAsync("ann", cookies)).Dispose();
        using var browser = _team.Http(cookies);
        // A form posts what it likes, and the cookie goes with it where a browser is old; a header it can't set.
        Assert.Equal(401, (await Team.AskAsync(browser, "POST", "/api/runs/1/stop", "{}")).Status);
        Assert.Equal(401, (await Team.AskAsync(browser, "DELETE", "/api/people/ann")).Status);
        Assert.Equal(
            400,
            (await Team.AskAsync(browser, "POST", "/api/session", new SignInRequest("ann", Team.Password))).Status
        );
        foreach (
            var (header, value) in ((string, string)[])
                [("Origin", "https://evil.example"), ("Origin", "null"), ("Sec-Fetch-Site", "cross-site")]
        )
        {
            using var foreign = _team.Http(cookies);
            foreign.DefaultRequestHeaders.Add("X-Gatechain", "active");
            foreign.DefaultRequestHeaders.Add(header, value);
            Assert.Equal(403, (await Team.AskAsync(foreign, "POST", "/api/people", "{}")).Status);
        }
    }

    [Fact]
    public async Task EveryAnswerKeepsItselfOutOfFramesAndCaches()
    {
        using var http = _team.Http();
        foreach (var path in (string[])["/", "/sign-in", "/api/session", "/api/runs", "/api/none", "/health"])
        {
            using var answer = await http.GetAsync(path);
            var headers = answer.Headers;
            Assert.Contains("frame-ancestors 'none'", headers.GetValues("Content-Security-Policy").Single());
            Assert.Equal("DENY", headers.GetValues("X-Frame-Options").Single());
            Assert.Equal("nosniff", headers.GetValues("X-Content-Type-Options").Single());
            Assert.Equal("no-referrer", headers.GetValues("Referrer-Policy").Single());
            if (path.StartsWith("/api", StringComparison.Ordinal))
                Assert.True(headers.CacheControl!.NoStore, path);
        }
    }

    [Fact]
    public async Task ATokenCountsInItsHeaderOnly()
    {
        var token = await Team.TokenAsync(_team.Ann, "viewer");
        using var http = _team.Http();
        foreach (var query in (string[])[$"token={token}", $"access_token={token}", $"x={token}"])
        {
            var (status, text) = await Team.AskAsync(http, "GET", $"/api/runs?{query}");
            Assert.Equal(400, status);
            Assert.Contains("never in an address", text);
        }
        foreach (var shown in (string[])["Basic YW5uOnB3", "Bearer", $"bearer {token}x", $"Token {token}"])
        {
            using var other = _team.Http();
            other.DefaultRequestHeaders.TryAddWithoutValidation("Authorization", shown);
            Assert.Equal(401, (await Team.AskAsync(other, "GET", "/api/runs")).Status);
        }
        using var right = _team.WithToken(token);
        Assert.Equal(200, (await Team.AskAsync(right, "GET", "/api/runs")).Status);
        // A token that fails is not made up for by a session beside it.
        var cookies = new CookieContainer();
        (await _team.SignInAsync("ann", cookies)).Dispose();
        using var both = _team.Http(cookies);
        both.DefaultRequestHeaders.Authorization = new("Bearer", "gct_none");
        Assert.Equal(401, (await Team.AskAsync(both, "GET", "/api/runs")).Status);
        // Who has got hold of a token can't make others with it, nor change the account.
        foreach (
            var (method, path) in ((string, string)[])
                [("POST", "/api/me/tokens"), ("PUT", "/api/me/password"), ("POST", "/api/me/codes")]
        )
        {
            var body = new
            {
                name = "x",
                roles = new[] { "viewer" },
                old = "x",
                @new = "y",
            };
            Assert.Equal(409, (await Team.AskAsync(right, method, path, body)).Status);
        }
    }

    [Fact]
    public async Task AnUnknownNameTakesAsLongAsAKnownOne()
    {
        await _team.AddAsync("bob1", "viewer");
        using var http = _team.Http();
        http.DefaultRequestHeaders.Add("X-Gatechain", "active");
        async Task<TimeSpan> Take(string name)
        {
            var watch = Stopwatch.StartNew();
            var answer = await http.PostAsJsonAsync("/api/session", new SignInRequest(name, "wrong password"));
            var took = watch.Elapsed;
            Assert.Equal(HttpStatusCode.Unauthorized, answer.StatusCode);
            Assert.Equal(
                "name or password is wrong",
                Team.Json(await answer.Content.ReadAsStringAsync()).GetProperty("detail").GetString()
            );
            return took;
        }
        var (known, unknown) = (new List<TimeSpan>(), new List<TimeSpan>());
        // As many as may fail before anybody is slowed.
        for (var i = 0; i < 5; i++)
        {
            known.Add(await Take("bob1"));
            unknown.Add(await Take("rob"));
        }
        var ratio = known.Order().ElementAt(2) / unknown.Order().ElementAt(2);
        Assert.InRange(ratio, 0.4, 2.5);
    }

    [Fact]
    public async Task NobodyIsBelievedAboutWhereTheyComeFrom()
    {
        async Task<string?> SourceAsync(Team team)
        {
            using var http = team.Http();
            http.DefaultRequestHeaders.Add("X-Gatechain", "active");
            http.DefaultRequestHeaders.Add("X-Forwarded-For", "203.0.113.7");
            http.DefaultRequestHeaders.Add("X-Forwarded-Host", "evil.example");
            await http.PostAsJsonAsync("/api/session", new SignInRequest("ann", "wrong password"));
            var (_, text) = await Team.AskAsync(team.Ann, "GET", "/api/audit?action=refuse%20sign-in");
            return Team.Json(text)[0].GetProperty("from").GetString();
        }
        Assert.Equal("127.0.0.1", await SourceAsync(_team));
    }

    [Fact]
    public async Task OtherNamesOfTheServiceAreRefused()
    {
        foreach (var host in (string[])["evil.example", "127.0.0.1.evil.example", "[::2]", "10.0.0.1"])
        {
            using var http = _team.Http();
            http.DefaultRequestHeaders.Host = host;
            Assert.Equal(403, (await Team.AskAsync(http, "GET", "/api/session")).Status);
        }
    }

    [Fact]
    public async Task NobodyGivesThemselvesMoreThanTheyHave()
    {
        using var bob = await _team.AddAsync("bob2", "viewer:sales");
        await Team.AskAsync(bob, "PUT", "/api/people/bob2/roles", new { roles = new[] { "admin" } });
        await Team.AskAsync(bob, "POST", "/api/people", new { name = "eve", roles = new[] { "admin" } });
        var (_, me) = await Team.AskAsync(bob, "GET", "/api/session");
        Assert.Equal("viewer:sales", Team.Json(me).GetProperty("roles")[0].GetString());
        // What a request says beside what it is asked for changes nothing.
        var (status, made) = await Team.AskAsync(
            bob,
            "POST",
            "/api/me/tokens",
            new
            {
                name = "x",
                roles = new[] { "viewer:sales" },
                owner = "ann",
                account = "ann",
                id = "mine",
            }
        );
        Assert.Equal(200, status);
        Assert.Equal("bob2", Team.Json(made).GetProperty("info").GetProperty("owner").GetString());
        Assert.NotEqual("mine", Team.Json(made).GetProperty("info").GetProperty("id").GetString());
        Assert.Equal(
            409,
            (await Team.AskAsync(bob, "POST", "/api/me/tokens", new TokenRequest("x", ["operator:sales"]))).Status
        );
        // Tokens and sessions of others are not there.
        var (_, tokens) = await Team.AskAsync(_team.Ann, "GET", "/api/tokens");
        await Team.TokenAsync(_team.Ann, "viewer");
        (_, tokens) = await Team.AskAsync(_team.Ann, "GET", "/api/me/tokens");
        var id = Team.Json(tokens)[0].GetProperty("id").GetString();
        Assert.Equal(404, (await Team.AskAsync(bob, "DELETE", $"/api/me/tokens/{id}")).Status);
        var (_, sessions) = await Team.AskAsync(_team.Ann, "GET", "/api/me/sessions");
        var session = Team.Json(sessions)[0].GetProperty("id").GetString();
        await Team.AskAsync(bob, "DELETE", $"/api/me/sessions/{session}");
        Assert.Equal(200, (await Team.AskAsync(_team.Ann, "GET", "/api/people")).Status);
    }

    [Fact]
    public async Task WhoIsSignedOutFollowsNothingAnyMore()
    {
        using var bob = await _team.AddAsync("bob3", "viewer:sales");
        using var stream = await bob.GetAsync("/api/live", HttpCompletionOption.ResponseHeadersRead);
        using var reader = new StreamReader(await stream.Content.ReadAsStreamAsync());
        Assert.Equal("event: beat", await reader.ReadLineAsync());
        await Team.AskAsync(_team.Ann, "DELETE", "/api/people/bob3/sessions");
        // It ends by itself, at the next beat.
        var rest = await reader.ReadToEndAsync().WaitAsync(TimeSpan.FromSeconds(30));
        Assert.DoesNotContain("event: run", rest);
    }

    [Fact]
    public async Task OneAccountKeepsNobodyElseFromFollowing()
    {
        using var bob = await _team.AddAsync("bob4", "viewer:sales");
        var open = new List<HttpResponseMessage>();
        HttpResponseMessage? refused = null;
        for (var i = 0; i < 100 && refused is null; i++)
        {
            var stream = await bob.GetAsync("/api/live", HttpCompletionOption.ResponseHeadersRead);
            if (stream.IsSuccessStatusCode)
                open.Add(stream);
            else
                refused = stream;
        }
        Assert.Equal(60, open.Count);
        Assert.Equal(HttpStatusCode.ServiceUnavailable, refused!.StatusCode);
        using var ann = await _team.Ann.GetAsync("/api/live", HttpCompletionOption.ResponseHeadersRead);
        Assert.True(ann.IsSuccessStatusCode);
        open.ForEach(o => o.Dispose());
    }

    [Fact]
    public async Task EveryChangeUnderLoadHasItsLine()
    {
        var runs = await Task.WhenAll(
            Enumerable
                .Range(0, 60)
                .Select(async i =>
                {
                    var (status, text) = await Team.AskAsync(
                        _team.Ann,
                        "POST",
                        "/api/runs",
                        new { chain = i % 2 == 0 ? "sales-day" : "finance-day" }
                    );
                    Assert.Equal(201, status);
                    return Team.Json(text).GetProperty("id").GetInt64();
                })
        );
        var (_, verdict) = await Team.AskAsync(_team.Ann, "GET", "/api/audit/verdict");
        Assert.Equal("[]", Team.Json(verdict).GetProperty("wrong").ToString());
        var (_, text) = await Team.AskAsync(_team.Ann, "GET", "/api/audit/export");
        var lines = text.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(Team.Json).ToList();
        Assert.Equal(Enumerable.Range(1, lines.Count), lines.Select(l => l.GetProperty("number").GetInt32()));
        foreach (var run in runs)
        {
            var line = lines.Single(l => l.GetProperty("object").GetString() == $"run {run}");
            Assert.Equal(
                ("ann", "start", "console", "127.0.0.1"),
                (
                    line.GetProperty("by").GetString(),
                    line.GetProperty("action").GetString(),
                    line.GetProperty("through").GetString(),
                    line.GetProperty("from").GetString()
                )
            );
        }
        Assert.DoesNotContain(Team.Password, text);
    }
}
