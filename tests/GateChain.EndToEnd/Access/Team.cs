using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Access;

/// <summary>
/// A service with accounts: people with roles in two areas, each with a chain, a connection, a trigger, an attachment
/// and a run.
/// </summary>
sealed class Team : IAsyncDisposable
{
    public const string Password = "cows give milk daily";

    Team(Service service) => Service = service;

    public Service Service { get; }

    /// <summary>Of the admin, who may everything.</summary>
    public HttpClient Ann { get; private set; } = null!;

    /// <summary>The run of the chain of an area.</summary>
    public Dictionary<string, long> Runs { get; } = [];

    static string ChainOf(string area) =>
        $$"""
            chain: {{area}}-day
            title: The day of {{area}}
            params: { word: { type: string, default: {{area}}-private } }
            vars: { said: { type: string, initial: "" } }
            steps:
              say: { kind: assign, assign: { vars.said: params.word } }
              ask: { kind: sql, set: { connection: {{area}}-db, query: { file: {{area}}.sql } } }
            gates:
              - { from: say, to: ask }
            outputs: { said: vars.said }
            """;

    static Dictionary<string, string> FilesOf(string area) =>
        new()
        {
            [$"{area}/{area}-day.chain.yaml"] = ChainOf(area),
            [$"{area}/{area}.sql"] = "select 1 as one",
            [$"{area}/connections.yaml"] = $"{area}-db: {{ type: sqlite, path: {area}.db }}\n",
            [$"{area}/triggers.yaml"] =
                $"{area}-nightly:\n  chain: {area}-day\n  schedule: {{ cron: '0 3 * * *', zone: UTC }}\n"
                + "  active: false\n",
        };

    public static async Task<Team> NewAsync(params IReadOnlyList<string> options)
    {
        var service = await Service.EmptyAsync(options);
        var team = new Team(service);
        var files = FilesOf("sales")
            .Concat(FilesOf("finance"))
            .ToDictionary(f => f.Key, f => Encoding.UTF8.GetBytes(f.Value));
        var pushed = await service.Client.PushAsync(files);
        Assert.True(pushed.Problems.All(p => p.Severity != "error"), string.Join("\n", pushed.Problems));
        foreach (var area in (string[])["sales", "finance"])
        {
            await File.WriteAllTextAsync(Path.Combine(service.Work, $"{area}.db"), "");
            var run = (await service.Client.StartAsync(new($"{area}-day"))).Id;
            Assert.Equal("succeeded", (await service.EndAsync(run)).State);
            team.Runs[area] = run;
        }
        var first = await service.Client.AddPersonAsync(new("ann", ["admin"]));
        await team.ChooseAsync(first.Link);
        team.Ann = await team.SignInAsync("ann");
        return team;
    }

    /// <summary>Chooses the password of a one-time link.</summary>
    public async Task ChooseAsync(string link)
    {
        using var http = Http();
        var answer = await http.PostAsJsonAsync(
            "/api/links/password",
            new LinkPasswordRequest(link[(link.IndexOf('#') + 1)..], Password)
        );
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
    }

    /// <summary>Somebody new, signed in with a browser.</summary>
    public async Task<HttpClient> AddAsync(string name, params string[] roles)
    {
        var added = await Ann.PostAsJsonAsync("/api/people", new PersonRequest(name, roles));
        var person = await added.Content.ReadFromJsonAsync<NewPerson>();
        await ChooseAsync(person!.Link);
        return await SignInAsync(name);
    }

    /// <summary>A token of somebody's.</summary>
    public static async Task<string> TokenAsync(HttpClient of, params string[] roles)
    {
        var made = await of.PostAsJsonAsync("/api/me/tokens", new TokenRequest("of a test", roles));
        Assert.True(made.IsSuccessStatusCode, await made.Content.ReadAsStringAsync());
        return (await made.Content.ReadFromJsonAsync<NewToken>())!.Token;
    }

    public HttpClient Http(CookieContainer? cookies = null) =>
        new(new SocketsHttpHandler { CookieContainer = cookies ?? new(), AllowAutoRedirect = false })
        {
            BaseAddress = Service.Address,
        };

    public HttpClient WithToken(string token)
    {
        var http = Http();
        http.DefaultRequestHeaders.Authorization = new("Bearer", token);
        return http;
    }

    /// <summary>A browser of somebody who has signed in.</summary>
    public async Task<HttpClient> SignInAsync(string name, CookieContainer? cookies = null)
    {
        var http = Http(cookies);
        http.DefaultRequestHeaders.Add("X-Gatechain", "active");
        var answer = await http.PostAsJsonAsync("/api/session", new SignInRequest(name, Password));
        Assert.True(answer.IsSuccessStatusCode, await answer.Content.ReadAsStringAsync());
        return http;
    }

    public static async Task<(int Status, string Text)> AskAsync(
        HttpClient http,
        string method,
        string path,
        object? body = null
    )
    {
        using var request = new HttpRequestMessage(new(method), path);
        if (body is string text)
            request.Content = new StringContent(text, Encoding.UTF8, "application/json");
        else if (body is not null)
            request.Content = JsonContent.Create(body);
        // A stream is not read to its end: its head tells.
        using var answer = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
        var isStream = answer.Content.Headers.ContentType?.MediaType == "text/event-stream";
        return ((int)answer.StatusCode, isStream ? "" : await answer.Content.ReadAsStringAsync());
    }

    static Dictionary<string, string> Base64(params (string Path, string Text)[] files) =>
        files.ToDictionary(f => f.Path, f => Convert.ToBase64String(Encoding.UTF8.GetBytes(f.Text)));

    /// <summary>Pushes files by path, over whatever is there.</summary>
    public static Task<(int Status, string Text)> PushAsync(
        HttpClient who,
        params (string Path, string Text)[] files
    ) => AskAsync(who, "POST", "/api/workspace", new PushRequest(Base64(files), null, null, true));

    /// <summary>A run as somebody sees it when it has ended.</summary>
    public static async Task<string> EndAsync(HttpClient who, long run)
    {
        for (var i = 0; i < 400; i++)
        {
            var (_, text) = await AskAsync(who, "GET", $"/api/runs/{run}");
            if (Json(text).TryGetProperty("ended", out var ended) && ended.ValueKind == JsonValueKind.String)
            {
                return text;
            }
            await Task.Delay(25);
        }
        throw new TimeoutException($"run {run} does not end");
    }

    public static JsonElement Json(string text) => JsonDocument.Parse(text).RootElement;

    public async ValueTask DisposeAsync()
    {
        Ann?.Dispose();
        await Service.DisposeAsync();
    }
}

/// <summary>One team for all tests of a class; each adds people of its own.</summary>
public sealed class TeamFixture : IAsyncLifetime
{
    internal Team Team { get; private set; } = null!;

    public async ValueTask InitializeAsync() => Team = await Team.NewAsync();

    public ValueTask DisposeAsync() => Team.DisposeAsync();
}
