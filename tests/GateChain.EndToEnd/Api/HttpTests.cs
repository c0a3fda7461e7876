using System.Net;
using System.Text;
using System.Text.Json;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Api;

public sealed class HttpTests : IAsyncLifetime
{
    Service _service = null!;
    HttpClient _http = null!;

    public async ValueTask InitializeAsync()
    {
        _service = await Service.WithDemoAsync();
        _http = new() { BaseAddress = _service.Address };
    }

    public async ValueTask DisposeAsync()
    {
        _http.Dispose();
        await _service.DisposeAsync();
    }

    static readonly (string Method, string Path, string? Body, int Status, string Detail)[] Errors =
    [
        ("GET", "/api/runs/7", null, 404, "there is no run 7"),
        ("GET", "/api/chains/none", null, 404, "there is no chain “none”"),
        ("GET", "/api/nothing", null, 404, "there is no such address in the API; /api/openapi.json lists them"),
        ("GET", "/api/runs/7/step?path=a", null, 404, "there is no run 7"),
        ("GET", "/api/runs/7/live", null, 404, "there is no run 7"),
        ("POST", "/api/runs", "{\"chain\": \"none\"}", 404, "there is no chain “none”"),
        (
            "POST",
            "/api/runs",
            "{\"chain\": \"milk-intake\"}",
            422,
            "the parameter “day” (timestamp, Day of collection) is missing"
        ),
        (
            "POST",
            "/api/runs",
            "{\"chain\": \"milk-intake\", \"params\": {\"day\": 5}}",
            422,
            "“day”: expected a timestamp, and this is an int"
        ),
        (
            "POST",
            "/api/runs",
            "{\"chain\": \"milk-intake\", \"profile\": \"moon\"}",
            422,
            "there is no profile “moon”; there are: default, dev"
        ),
        ("POST", "/api/runs", "{", 400, "the body is not the JSON that is expected"),
        ("POST", "/api/runs", "{\"chain\": 5}", 400, "the body is not the JSON that is expected, at $.chain"),
        ("POST", "/api/runs/7/stop", "{}", 404, "there is no run 7"),
        ("POST", "/api/runs/7/resume", "{}", 404, "there is no run 7"),
        ("POST", "/api/runs/7/pause", "{}", 404, "there is no run 7"),
        ("POST", "/api/runs/7/answer", "{\"step\": \"a\", \"answer\": \"retry\"}", 404, "there is no run 7"),
        (
            "POST",
            "/api/runs/7/answer",
            "{\"step\": \"a\", \"answer\": \"perhaps\"}",
            422,
            "“perhaps” is no answer; answers are retry, anew, skip, settle, fail and stop"
        ),
        ("POST", "/api/runs/7/answer", "{\"step\": \"a\", \"answer\": \"3\"}", 422, "“3” is no answer"),
        ("POST", "/api/runs/7/restart", "{}", 404, "there is no run 7"),
        ("GET", "/api/runs/7/iterations?path=a", null, 404, "there is no run 7"),
        (
            "POST",
            "/api/workspace",
            "{\"files\": {\"a.chain.yaml\": \"!\"}}",
            422,
            "the contents of files are written in base64"
        ),
        ("GET", "/api/runs?from=bad", null, 400, "“from” can't be “bad”"),
        ("GET", "/api/fires?fate=odd", null, 422, "“odd” becomes of no fire"),
        ("GET", "/api/chains/nothing/kept", null, 404, "there is no chain “nothing”"),
        ("POST", "/api/triggers/nothing/on", null, 404, "there is no trigger “nothing”"),
        ("POST", "/api/triggers/nightly/fire", "{\"event\": 5}", 422, "“nightly” starts “milk-intake”"),
        ("GET", "/api/triggers/late-pickups/next", null, 422, "nobody knows when “late-pickups” fires next"),
        (
            "POST",
            "/api/triggers/nightly/backfill",
            Span("2026-11-20", "2026-11-10"),
            422,
            "the span ends before it begins"
        ),
        (
            "POST",
            "/api/triggers/late-pickups/backfill",
            Span("2026-11-20", "2026-11-22"),
            422,
            "“late-pickups” is no schedule"
        ),
        ("POST", "/api/backfills/99/stop", null, 404, "there is no backfill 99"),
        ("GET", "/hooks/prices/order", null, 405, "hooks are called with POST"),
        (
            "POST",
            "/hooks/prices/order",
            "{}",
            401,
            "there is no such hook, or the call does not show that it may use it"
        ),
        ("POST", "/hooks/nowhere", "{}", 401, "there is no such hook, or the call does not show that it may use it"),
    ];

    static string Span(string from, string to) =>
        $$"""{"from": "{{from}}T00:00:00Z", "to": "{{to}}T00:00:00Z", "preview": true}""";

    // Where zones and calendars end, nothing is due.
    [Fact]
    public async Task ASpanOfAllYearsIsAnsweredSoon()
    {
        using var whole = new StringContent(Span("0001-01-01", "9999-12-31"), Encoding.UTF8, "application/json");
        using var response = await _http.PostAsync("/api/triggers/nightly/backfill", whole);
        using var answer = JsonDocument.Parse(await response.Content.ReadAsStringAsync());
        Assert.Equal(200, (int)response.StatusCode);
        Assert.True(answer.RootElement.GetProperty("times").GetInt32() > 40_000);
        foreach (var after in (string[])["0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z"])
        {
            using var next = await _http.GetAsync($"/api/triggers/nightly/next?after={after}");
            Assert.Equal(HttpStatusCode.OK, next.StatusCode);
        }
    }

    [Fact]
    public Task ErrorsAreProblemDetails() =>
        Cases.AllAsync(Errors, c => ErrorsAreProblemDetailsOneAsync(c.Method, c.Path, c.Body, c.Status, c.Detail));

    async Task ErrorsAreProblemDetailsOneAsync(string method, string path, string? body, int status, string detail)
    {
        using var response = await _http.SendAsync(
            new(new HttpMethod(method), path)
            {
                Content = body is null ? null : new StringContent(body, Encoding.UTF8, "application/json"),
            }
        );
        var text = await response.Content.ReadAsStringAsync();
        Assert.Equal(
            (status, "application/problem+json"),
            ((int)response.StatusCode, response.Content.Headers.ContentType?.MediaType)
        );
        using var problem = JsonDocument.Parse(text);
        Assert.StartsWith(detail, problem.RootElement.GetProperty("detail").GetString());
        Assert.DoesNotContain("   at ", text);
    }

    [Fact]
    public async Task ALongLoopIsShownInPartAndPageByPage()
    {
        await _service.PushAsync(
            "chain: t\nsteps:\n  e: { kind: each, over: 'params.n', tolerate: 1, steps: { d: { kind: "
                + "decide, branches: [ { name: x, when: index != 3 } ] } } }\nparams: { n: { type: "
                + "list<int> } }"
        );
        var run = await _service.Client.StartAsync(
            new(
                "t",
                new Dictionary<string, JsonElement>
                {
                    ["n"] = JsonSerializer.SerializeToElement(Enumerable.Range(0, 1000)),
                }
            )
        );
        var detail = await _service.EndAsync(run.Id);
        Assert.Equal((200, 800), (detail.Iterations.Count, detail.Steps.Single(s => s.Path == "e").Hidden));
        // What went wrong is always among those shown.
        Assert.Contains(detail.Iterations, i => i is { Index: 3, State: "failed" });
        using var page = JsonDocument.Parse(
            await _http.GetStringAsync($"/api/runs/{run.Id}/iterations?path=e&from=500&limit=3")
        );
        Assert.Equal(
            "1000: 500 501 502; e[500]/d e[501]/d e[502]/d",
            $"{page.RootElement.GetProperty("total")}: "
                + string.Join(
                    ' ',
                    page.RootElement.GetProperty("iterations")
                        .EnumerateArray()
                        .Select(i => i.GetProperty("index").ToString())
                )
                + "; "
                + string.Join(
                    ' ',
                    page.RootElement.GetProperty("steps")
                        .EnumerateArray()
                        .Select(s => s.GetProperty("path").GetString())
                )
        );
    }

    [Fact]
    public async Task OfTwoAnswersTheSecondIsAConflictThatNamesTheFirst()
    {
        await _service.PushAsync(
            "chain: t\nsteps:\n  a: { kind: command, set: { run: ['false'] }, ifFails: pause }\n  b: "
                + "{ kind: wait, set: { for: 1h } }"
        );
        var run = await _service.Client.StartAsync(new("t"));
        for (var i = 0; (await _service.Client.RunAsync(run.Id)).State != "paused"; i++)
        {
            Assert.True(i < 200);
            await Task.Delay(20);
        }
        var statuses = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(async i =>
                {
                    using var request = new HttpRequestMessage(HttpMethod.Post, $"/api/runs/{run.Id}/answer")
                    {
                        Content = new StringContent(
                            "{\"step\": \"a\", \"answer\": \"skip\"}",
                            Encoding.UTF8,
                            "application/json"
                        ),
                    };
                    request.Headers.Add("X-Gatechain-By", $"person{i}");
                    using var response = await _http.SendAsync(request);
                    return ((int)response.StatusCode, await response.Content.ReadAsStringAsync());
                })
        );
        Assert.Single(statuses, s => s.Item1 == 200);
        Assert.All(statuses.Where(s => s.Item1 != 200), s =>
        {
            Assert.Equal(409, s.Item1);
            Assert.Matches(
                "person[0-5] answered “skip”",
                JsonDocument.Parse(s.Item2).RootElement.GetProperty("detail").GetString()
            );
        });
    }

    [Fact]
    public async Task OtherSitesAreKeptOut()
    {
        Assert.Equal(HttpStatusCode.Forbidden, await StatusAsync("Host", "evil.example"));
        Assert.Equal(HttpStatusCode.Forbidden, await StatusAsync("Origin", "http://evil.example"));
        Assert.Equal(HttpStatusCode.Forbidden, await StatusAsync("Sec-Fetch-Site", "cross-site"));
        Assert.Equal(
            HttpStatusCode.OK,
            await StatusAsync("Origin", _service.Address.GetLeftPart(UriPartial.Authority))
        );
        using var page = await _http.GetAsync("/");
        Assert.Contains("script-src 'self'", page.Headers.GetValues("Content-Security-Policy").Single());

        async Task<HttpStatusCode> StatusAsync(string header, string value)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "/api/chains");
            request.Headers.TryAddWithoutValidation(header, value);
            using var response = await _http.SendAsync(request);
            return response.StatusCode;
        }
    }

    [Fact]
    public async Task AFormOfAnotherSiteStartsNothing()
    {
        using var response = await _http.PostAsync(
            "/api/runs",
            new StringContent("{\"chain\": \"warehouse-check\"}", Encoding.UTF8, "text/plain")
        );
        Assert.False(response.IsSuccessStatusCode);
        Assert.Empty(await _service.Client.RunsAsync());
    }

    [Fact]
    public async Task LiveEventsTellTheRunThenItsChanges()
    {
        await _service.PushAsync(
            "chain: t\nsteps:\n  a: { kind: wait, set: { for: 2s } }\n  b: { kind: "
                + "assign }\ngates:\n  - { from: a, to: b }\n"
        );
        var run = await _service.Client.StartAsync(new("t"));
        var seen = new List<string>();
        await foreach (var (whole, change) in _service.Client.FollowAsync(run.Id))
        {
            foreach (var step in whole?.Steps ?? change!.Steps)
                seen.Add($"{step.Path} {step.State}");
            if ((whole?.Ended ?? change?.Ended) is not null)
                break;
        }
        Assert.Equal(["a running", "b pending", "a succeeded", "b succeeded"], seen);
    }

    [Fact]
    public async Task HealthTells()
    {
        var health = await _service.Client.HealthAsync();
        Assert.Equal(("ok", 0), (health.Status, health.RunsInFlight));
    }

    [Fact]
    public async Task TheDescriptionInDocsIsTheServices() =>
        Assert.Equal(
            File.ReadAllText(Path.Combine(Place.Root, "docs/openapi.json")).TrimEnd(),
            (await _http.GetStringAsync("/api/openapi.json")).TrimEnd()
        );

    [Fact]
    public async Task TheServiceAnswersSoonAfterItsStart()
    {
        await _service.TerminateAsync();
        await _service.StartAsync();
        // What the machine has to do besides does not count; the bound only catches what is broken.
        Assert.InRange(_service.ProcessorTime, TimeSpan.Zero, TimeSpan.FromSeconds(10));
    }
}
