using System.Net;
using System.Net.Http.Headers;
using System.Text;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Api;

/// <summary>What an examination from outside found, on the built service: none of it may come back.</summary>
public sealed class ExaminationTests : IAsyncLifetime
{
    Service _service = null!;
    HttpClient _http = null!;

    public async ValueTask InitializeAsync()
    {
        _service = await Service.EmptyAsync();
        _http = new() { BaseAddress = _service.Address };
    }

    public async ValueTask DisposeAsync()
    {
        _http.Dispose();
        await _service.DisposeAsync();
    }

    async Task<(int Status, string Body)> SendAsync(
        HttpMethod method,
        string path,
        string? body = null,
        string type = "application/json",
        string? version = null
    )
    {
        using var request = new HttpRequestMessage(method, path);
        if (body is not null)
        {
            request.Content = new ByteArrayContent(Encoding.UTF8.GetBytes(body))
            {
                Headers = { ContentType = MediaTypeHeaderValue.Parse(type) },
            };
        }
        if (version is not null)
            request.Headers.TryAddWithoutValidation("If-Match", version);
        using var response = await _http.SendAsync(request);
        return ((int)response.StatusCode, await response.Content.ReadAsStringAsync());
    }

    static string Many(string first, string more, int times) =>
        new StringBuilder(first).Insert(first.Length, more, times).ToString();

    [Fact]
    public async Task LongExpressionsAreAnsweredAndEndNothing()
    {
        foreach (
            var text in (string[])
                [
                    Many("1", "+1", 12_000),
                    Many("1", "+1", 4_000),
                    Many("true", "&&true", 12_000),
                    Many("params", ".a", 8_000),
                    Many("!", "!", 9_000) + "true",
                ]
        )
        {
            var (status, _) = await SendAsync(
                HttpMethod.Post,
                "/api/design/expression",
                System.Text.Json.JsonSerializer.Serialize(
                    new
                    {
                        chain = "t",
                        source = "chain: t\nsteps: { a: { kind: wait, set: { for: 1s } } }",
                        step = "a",
                        place = "Setting",
                        text,
                    }
                )
            );
            Assert.True(status is 200 or 422, $"{status}");
        }
        var chain =
            $"chain: boom\noutputs: {{ o: \"{Many("1", "+1", 20_000)}\" }}\nsteps: {{ a: {{ kind: wait, "
            + $"set: {{ for: 1s }} }} }}";
        Assert.Equal(
            200,
            (
                await SendAsync(
                    HttpMethod.Put,
                    "/api/chains/boom/draft",
                    System.Text.Json.JsonSerializer.Serialize(new { source = chain }),
                    version: "\"0\""
                )
            ).Status
        );
        Assert.Equal(200, (await SendAsync(HttpMethod.Get, "/api/chains")).Status);
        await _service.KillAsync();
        await _service.StartAsync();
        Assert.Equal("ok", (await _service.Client.HealthAsync()).Status);
    }

    [Fact]
    public async Task DeepAndGiantAnswersFailTheirStepAndNothingElse()
    {
        var deep = new string('[', 70) + new string(']', 70);
        await _service.PushAsync(
            $"chain: t\nsteps:\n  ok: {{ kind: command, set: {{ run: [printf, '{deep[6..^6]}'], output: "
                + $"json }} }}\n  deep: {{ kind: command, set: {{ run: [printf, '{deep}'], output: "
                + $"json }} }}\n  big: {{ kind: command, set: {{ shell: 'head -c 9000000 /dev/zero | tr "
                + $"\"\\\\0\" x', maxOutput: 16000000 }} }}\n  after: {{ kind: command, set: {{ shell: "
                + $"echo on }} }}\n"
        );
        var run = await _service.EndAsync((await _service.Client.StartAsync(new("t"))).Id);
        string Of(string path) => run.Steps.Single(s => s.Path == path) is var s ? $"{s.State} {s.Message}" : "";
        Assert.Equal("succeeded ", Of("ok"));
        Assert.Equal("succeeded ", Of("after"));
        Assert.StartsWith("failed “value” is too big: it is nested more than 64 levels deep", Of("deep"));
        Assert.StartsWith("failed “value” is too big: it has more than 8 MiB", Of("big"));
        await _service.KillAsync();
        await _service.StartAsync();
        Assert.Equal("failed", (await _service.Client.RunAsync(run.Id)).State);
        Assert.Empty((await _service.Client.HealthAsync()).Stranded);
    }

    [Fact]
    public async Task AParameterHasABound() => Assert.Contains("too big", (await TooBigAsync()).Body);

    async Task<(int Status, string Body)> TooBigAsync()
    {
        await _service.PushAsync(
            "chain: t\nparams: { v: { type: string } }\nsteps: { a: { kind: command, set: { shell: 'true' } } }"
        );
        return await SendAsync(
            HttpMethod.Post,
            "/api/runs",
            System.Text.Json.JsonSerializer.Serialize(
                new { chain = "t", @params = new { v = new string('x', 9_000_000) } }
            )
        );
    }

    static readonly (string Method, string Path, string? Body, string Type, int Status, string Words)[] WrongRequests =
    [
        ("POST", "/api/runs", "{}", "application/json", 400, "the body needs “chain”"),
        ("POST", "/api/design/check", "{}", "application/json", 400, "“chain”"),
        ("POST", "/api/design/comparison", "{}", "application/json", 400, "“before”"),
        ("POST", "/api/design/rename", "{}", "application/json", 400, "“chain”"),
        ("POST", "/api/design/expression", "{}", "application/json", 400, "“chain”"),
        ("POST", "/api/runs/1/answer", "{}", "application/json", 400, "“step”"),
        ("PUT", "/api/chains/t/draft", "{}", "application/json", 400, "“source”"),
        ("POST", "/api/runs", "{\"chain\": null}", "application/json", 400, ""),
        ("POST", "/api/runs", "{}", "application/json; charset=foo", 415, "UTF-8"),
        ("POST", "/api/runs", "{}", "text/plain", 415, "application/json"),
        ("PATCH", "/api/runs", "{}", "application/json", 405, "PATCH"),
        ("GET", "/api/nosuch", null, "", 404, "no such address"),
        ("GET", "/api/runs?state=red", null, "", 422, "no state of a run"),
        ("GET", "/api/runs/1/log?path=a&from=-5", null, "", 404, "no run 1"),
    ];

    [Fact]
    public Task WrongRequestsAreToldAsWhatTheyAre() =>
        Cases.AllAsync(WrongRequests, c =>
            WrongRequestsAreToldAsWhatTheyAreOneAsync(c.Method, c.Path, c.Body, c.Type, c.Status, c.Words)
        );

    async Task WrongRequestsAreToldAsWhatTheyAreOneAsync(
        string method,
        string path,
        string? body,
        string type,
        int status,
        string words
    )
    {
        var answer = await SendAsync(new(method), path, body, type, version: "\"0\"");
        Assert.Equal(status, answer.Status);
        Assert.Contains(words, answer.Body);
    }

    [Theory]
    [InlineData("PUT")]
    [InlineData("DELETE")]
    public async Task ADraftThatIsNotThereIsAPlainConflict(string method)
    {
        var (status, body) = await SendAsync(
            new(method),
            "/api/chains/nosuch/draft",
            method == "PUT" ? "{\"source\": \"chain: nosuch\"}" : null,
            version: "\"7\""
        );
        Assert.Equal(412, status);
        Assert.Contains("nosuch", body);
    }

    [Fact]
    public async Task ListeningIsSaidByItsOptionsAlone()
    {
        await using var service = await Service.EmptyAsync();
        await service.TerminateAsync();
        await service.StartAsync(("Kestrel__Endpoints__Http__Url", "http://0.0.0.0:18499"));
        using var other = new HttpClient { Timeout = TimeSpan.FromSeconds(2) };
        await Assert.ThrowsAnyAsync<Exception>(() => other.GetAsync("http://127.0.0.1:18499/health"));
        Assert.Equal("127.0.0.1", service.Address.Host);
    }

    [Fact]
    public async Task TheKeyIsNotWhereProgramsLook()
    {
        await using var service = await Service.EmptyAsync();
        await service.TerminateAsync();
        const string key = "a2V5IGtleSBrZXkga2V5IGtleSBrZXkga2V5IGtleSE=";
        await service.StartAsync(("GATECHAIN_SECRET_KEY", key));
        await service.PushAsync(
            "chain: t\noutputs: { seen: steps.a.value }\nsteps: { a: { kind: command, set: { shell: "
                + "'tr \"\\\\0\" \"\\\\n\" < /proc/$PPID/environ | grep -c SECRET_KEY=a || true' } } }"
        );
        var run = await service.EndAsync((await service.Client.StartAsync(new("t"))).Id);
        Assert.Equal("0", run.Outputs.GetProperty("seen").ToString());
        await service.Client.SetSecretAsync("lab", "made-up-lab-secret");
        Assert.True((await service.Client.SecretsAsync()).Single().Readable);
    }

    [Fact]
    public async Task AFolderThatWasOpenIsClosed()
    {
        await using var service = await Service.EmptyAsync();
        await service.TerminateAsync();
        File.SetUnixFileMode(service.Data, (UnixFileMode)0b111_101_101);
        await service.StartAsync();
        Assert.Equal((UnixFileMode)0b111_000_000, File.GetUnixFileMode(service.Data));
    }

    [Fact]
    public async Task ErrorsHaveTheHeadersOfAllAnswers()
    {
        using var response = await _http.GetAsync("/api/runs/77");
        Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
        Assert.Equal(
            ("nosniff", true),
            (response.Headers.GetValues("X-Content-Type-Options").Single(), response.Headers.CacheControl?.NoStore)
        );
    }

    [Fact]
    public async Task OnlySoManyMayFollowAndTheirPlacesComeBack()
    {
        var following = new List<HttpResponseMessage>();
        try
        {
            for (var i = 0; i < 500; i++)
                following.Add(await _http.GetAsync("/api/live", HttpCompletionOption.ResponseHeadersRead));
            Assert.All(following, f => Assert.Equal(HttpStatusCode.OK, f.StatusCode));
            var (status, body) = await SendAsync(HttpMethod.Get, "/api/live");
            Assert.Equal(503, status);
            Assert.Contains("500 follow already", body);
        }
        finally
        {
            foreach (var response in following)
                response.Dispose();
        }
        for (var patience = 0; ; patience++)
        {
            using var again = await _http.GetAsync("/api/live", HttpCompletionOption.ResponseHeadersRead);
            if (again.StatusCode == HttpStatusCode.OK)
                break;
            Assert.True(patience < 1000, "the places of those that have left do not come back");
            await Task.Delay(10);
        }
    }

    [Fact]
    public async Task ARehearsalThatHasTooMuchToTellSaysSo()
    {
        var (status, body) = await SendAsync(
            HttpMethod.Post,
            "/api/chains/t/rehearsal",
            System.Text.Json.JsonSerializer.Serialize(
                new
                {
                    source = "chain: t\nvars: { v: { type: string, initial: '"
                        + new string('x', 60_000)
                        + "' } }\nsteps: { r: { kind: repeat, until: 'false', limit: 3000, steps: { a: "
                        + "{ kind: assign, assign: { vars.v: 'vars.v' } } } } }",
                }
            )
        );
        Assert.True(status is 200 or 422, $"{status}");
        Assert.InRange(body.Length, 100, 64 << 20);
    }

    [Fact]
    public async Task WhoRunsTheServiceSetsItsBounds()
    {
        await _service.KillAsync();
        _service.Options = ["--bound", "value=64KiB", "--bound", "levels=8"];
        await _service.StartAsync();
        await _service.PushAsync(
            "chain: t\nparams: { v: { type: any } }\nsteps: { a: { kind: command, set: { run: [printf, "
                + "'[[[[[[[[[]]]]]]]]]'], output: json } } }"
        );
        async Task<string> Start(object v) =>
            (
                await SendAsync(
                    HttpMethod.Post,
                    "/api/runs",
                    System.Text.Json.JsonSerializer.Serialize(new { chain = "t", @params = new { v } })
                )
            ).Body;
        Assert.Contains("it has more than 64 KiB", await Start(new string('x', 66_000)));
        var run = await _service.EndAsync(
            System.Text.Json.JsonDocument.Parse(await Start("x")).RootElement.GetProperty("id").GetInt64()
        );
        Assert.Contains("nested more than 8 levels deep", run.Error);
        var (exit, _, told) = await _service.CliAsync(
            "serve",
            "--bound",
            "vlaue=1MiB",
            "--bound",
            "value=1",
            "--bound",
            "check=5min",
            "--bound",
            "levels=65",
            "--bound",
            "steps"
        );
        Assert.Equal(2, exit);
        Assert.Equal(5, told.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length);
        Assert.Contains("“5min” is no value for the bound check; it is 1m when nothing is said", told);
    }
}
