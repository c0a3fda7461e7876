using System.Net.Http.Json;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace GateChain.Client;

/// <summary>Calls the service's HTTP API. Thread-safe.</summary>
public sealed class GateChainClient : IDisposable
{
    readonly HttpClient _http;

    /// <summary>How the API writes JSON.</summary>
    public static JsonSerializerOptions Json { get; } = new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    /// <param name="address">For example <c>http://127.0.0.1:8480</c>.</param>
    /// <param name="by">Who asks; shown with the runs.</param>
    public GateChainClient(Uri address, string by)
    {
        _http = new() { BaseAddress = address, Timeout = Timeout.InfiniteTimeSpan };
        _http.DefaultRequestHeaders.Add("X-Gatechain-By", Uri.EscapeDataString(by));
    }

    public Task<HealthInfo> HealthAsync(CancellationToken cancel = default) => GetAsync<HealthInfo>("health", cancel);

    public Task<IReadOnlyList<ChainSummary>> ChainsAsync(CancellationToken cancel = default) => GetAsync<IReadOnlyList<ChainSummary>>("api/chains", cancel);

    public Task<ChainDetail> ChainAsync(string name, CancellationToken cancel = default) => GetAsync<ChainDetail>($"api/chains/{Uri.EscapeDataString(name)}", cancel);

    /// <summary>Pushes a workspace.</summary>
    /// <param name="files">Contents by name.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<PushResult> PushAsync(IReadOnlyDictionary<string, byte[]> files, CancellationToken cancel = default) =>
        PostAsync<PushResult>("api/workspace", new PushRequest(files.ToDictionary(f => f.Key, f => Convert.ToBase64String(f.Value))), cancel);

    public Task<RehearsalResult> RehearseAsync(string chain, RehearsalRequest request, CancellationToken cancel = default) =>
        PostAsync<RehearsalResult>($"api/chains/{Uri.EscapeDataString(chain)}/rehearsal", request, cancel);

    public Task<IReadOnlyList<RunSummary>> RunsAsync(string? chain = null, string? state = null, int limit = 50, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<RunSummary>>($"api/runs?limit={limit}{Query("chain", chain)}{Query("state", state)}", cancel);

    public Task<RunSummary> StartAsync(StartRequest request, CancellationToken cancel = default) => PostAsync<RunSummary>("api/runs", request, cancel);

    /// <summary>A run.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="leg">As it was when this leg ended; null for now.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<RunDetail> RunAsync(long id, int? leg = null, CancellationToken cancel = default) => GetAsync<RunDetail>($"api/runs/{id}{(leg is null ? "" : $"?leg={leg}")}", cancel);

    public Task<StepDetail> StepAsync(long id, string path, CancellationToken cancel = default) => GetAsync<StepDetail>($"api/runs/{id}/step?path={Uri.EscapeDataString(path)}", cancel);

    /// <summary>A page of a step's log.</summary>
    /// <param name="id">The run.</param>
    /// <param name="path">The step.</param>
    /// <param name="attempt">The attempt's number in the run; null for the latest.</param>
    /// <param name="from">Where to begin, in bytes.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<LogPage> LogAsync(long id, string path, int? attempt = null, long from = 0, CancellationToken cancel = default) =>
        GetAsync<LogPage>($"api/runs/{id}/log?path={Uri.EscapeDataString(path)}&from={from}{(attempt is null ? "" : $"&attempt={attempt}")}", cancel);

    public Task<RunSummary> ResumeAsync(long id, ResumeRequest request, CancellationToken cancel = default) => PostAsync<RunSummary>($"api/runs/{id}/resume", request, cancel);

    public Task<RunSummary> PauseAsync(long id, PauseRequest request, CancellationToken cancel = default) => PostAsync<RunSummary>($"api/runs/{id}/pause", request, cancel);

    public Task<RunSummary> AnswerAsync(long id, AnswerRequest request, CancellationToken cancel = default) => PostAsync<RunSummary>($"api/runs/{id}/answer", request, cancel);

    public Task<RunSummary> RestartAsync(long id, RestartRequest request, CancellationToken cancel = default) => PostAsync<RunSummary>($"api/runs/{id}/restart", request, cancel);

    public Task<IReadOnlyList<LaneInfo>> LanesAsync(CancellationToken cancel = default) => GetAsync<IReadOnlyList<LaneInfo>>("api/lanes", cancel);

    public Task<RunSummary> StopAsync(long id, StopRequest request, CancellationToken cancel = default) => PostAsync<RunSummary>($"api/runs/{id}/stop", request, cancel);

    /// <summary>Follows a run: first all of it, then what changes, until it has ended.</summary>
    /// <exception cref="GateChainException">There is no such run.</exception>
    public async IAsyncEnumerable<(RunDetail? Whole, RunPatch? Change)> FollowAsync(long id, [EnumeratorCancellation] CancellationToken cancel = default)
    {
        using var response = await SendAsync(new(HttpMethod.Get, $"api/runs/{id}/live"), HttpCompletionOption.ResponseHeadersRead, cancel).ConfigureAwait(false);
        using var stream = await response.Content.ReadAsStreamAsync(cancel).ConfigureAwait(false);
        await foreach (var item in SseParser.Create(stream).EnumerateAsync(cancel).ConfigureAwait(false))
        {
            if (item.EventType == "run") { yield return (JsonSerializer.Deserialize<RunDetail>(item.Data, Json), null); }
            else if (item.EventType == "change") { yield return (null, JsonSerializer.Deserialize<RunPatch>(item.Data, Json)); }
        }
    }

    static string Query(string name, string? value) => value is null ? "" : $"&{name}={Uri.EscapeDataString(value)}";

    async Task<T> GetAsync<T>(string path, CancellationToken cancel)
    {
        using var response = await SendAsync(new(HttpMethod.Get, path), HttpCompletionOption.ResponseContentRead, cancel).ConfigureAwait(false);
        return (await response.Content.ReadFromJsonAsync<T>(Json, cancel).ConfigureAwait(false))!;
    }

    async Task<T> PostAsync<T>(string path, object body, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body, body.GetType(), options: Json) };
        using var response = await SendAsync(request, HttpCompletionOption.ResponseContentRead, cancel).ConfigureAwait(false);
        return (await response.Content.ReadFromJsonAsync<T>(Json, cancel).ConfigureAwait(false))!;
    }

    async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, HttpCompletionOption completion, CancellationToken cancel)
    {
        HttpResponseMessage response;
        try { response = await _http.SendAsync(request, completion, cancel).ConfigureAwait(false); }
        catch (HttpRequestException e)
        {
            throw new GateChainException(0, $"no service answers at {_http.BaseAddress}", "Start one with: gatechain serve", []) { Source = e.Message };
        }
        if (response.IsSuccessStatusCode) { return response; }
        using (response) { throw await GateChainException.OfAsync(response, cancel).ConfigureAwait(false); }
    }

    public void Dispose() => _http.Dispose();
}
