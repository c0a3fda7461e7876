using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace GateChain.Client;

/// <summary>Calls the service's HTTP API. Thread-safe.</summary>
public sealed partial class GateChainClient : IDisposable
{
    readonly AddressList _addresses;
    readonly HttpClient _http;

    /// <summary>How the API writes JSON.</summary>
    public static JsonSerializerOptions Json { get; } =
        new(JsonSerializerDefaults.Web)
        {
            DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
            MaxDepth = 1024,
        };

    /// <param name="address">For example <c>http://127.0.0.1:8480</c>.</param>
    /// <param name="by">Who asks; shown with the runs of a service without accounts.</param>
    /// <param name="token">What is shown to be let in; null for nothing.</param>
    public GateChainClient(Uri address, string by, string? token = null)
        : this([address], by, token) { }

    /// <param name="addresses">Of services that share a database: the first one that answers is asked, and another one
    /// when it does not any more.</param>
    /// <param name="by">Who asks; shown with the runs of a service without accounts.</param>
    /// <param name="token">What is shown to be let in; null for nothing.</param>
    public GateChainClient(IReadOnlyList<Uri> addresses, string by, string? token = null)
    {
        _addresses = new(addresses);
        _http = new(_addresses) { BaseAddress = addresses[0], Timeout = Timeout.InfiniteTimeSpan };
        _http.DefaultRequestHeaders.Add("X-Gatechain-By", Uri.EscapeDataString(by));
        if (token is not null)
            _http.DefaultRequestHeaders.Authorization = new("Bearer", token);
    }

    /// <summary>Where the service is.</summary>
    public Uri Address => _addresses.Current;

    /// <summary>How the service fares.</summary>
    public Task<HealthInfo> HealthAsync(CancellationToken cancel = default) => GetAsync<HealthInfo>("health", cancel);

    /// <summary>All chains with their latest runs.</summary>
    public Task<IReadOnlyList<ChainSummary>> ChainsAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<ChainSummary>>("api/chains", cancel);

    /// <summary>The steps that call a chain, and the triggers that start it.</summary>
    public Task<IReadOnlyList<ChainUseInfo>> UsesAsync(string chain, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<ChainUseInfo>>($"api/chains/{Uri.EscapeDataString(chain)}/uses", cancel);

    /// <summary>The same, with what a version that is not released yet would break there.</summary>
    public Task<IReadOnlyList<ChainUseInfo>> UsesAsync(
        string chain,
        string source,
        CancellationToken cancel = default
    ) =>
        PostAsync<IReadOnlyList<ChainUseInfo>>(
            $"api/chains/{Uri.EscapeDataString(chain)}/uses",
            new UsesRequest(source),
            cancel
        );

    /// <summary>One chain: its latest release.</summary>
    public Task<ChainDetail> ChainAsync(string name, CancellationToken cancel = default) =>
        GetAsync<ChainDetail>($"api/chains/{Uri.EscapeDataString(name)}", cancel);

    /// <summary>Pushes a workspace: every chain that changed gets a new release.</summary>
    /// <param name="files">Contents by name.</param>
    /// <param name="note">What the releases are for.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<PushResult> PushAsync(
        IReadOnlyDictionary<string, byte[]> files,
        string? note = null,
        IReadOnlyDictionary<string, string>? known = null,
        bool over = false,
        CancellationToken cancel = default
    ) => PostAsync<PushResult>("api/workspace", new PushRequest(Base64(files), note, known, over), cancel);

    /// <summary>Checks a workspace and stores nothing.</summary>
    public Task<IReadOnlyList<ProblemInfo>> CheckAsync(
        IReadOnlyDictionary<string, byte[]> files,
        CancellationToken cancel = default
    ) => PostAsync<IReadOnlyList<ProblemInfo>>("api/check", new PushRequest(Base64(files)), cancel);

    /// <summary>Takes a chain out of use.</summary>
    public Task<RetirementInfo> RetireAsync(string chain, string? why, CancellationToken cancel = default) =>
        SendJsonAsync<RetirementInfo>(HttpMethod.Put, $"{Of(chain)}/retirement", new RetireRequest(why), null, cancel);

    /// <summary>Brings a retired chain back into use.</summary>
    public Task BringBackAsync(string chain, CancellationToken cancel = default) =>
        DeleteAsync($"{Of(chain)}/retirement", null, cancel);

    /// <summary>The workspace as files that could be pushed again, by name.</summary>
    public async Task<IReadOnlyDictionary<string, byte[]>> ExportAsync(CancellationToken cancel = default) =>
        (await GetAsync<WorkspaceFiles>("api/workspace", cancel).ConfigureAwait(false)).Files.ToDictionary(
            f => f.Key,
            f => Convert.FromBase64String(f.Value)
        );

    /// <summary>The draft of a chain, or its latest release when nobody has begun one.</summary>
    public Task<DraftInfo> DraftAsync(string chain, CancellationToken cancel = default) =>
        GetAsync<DraftInfo>($"{Of(chain)}/draft", cancel);

    /// <summary>Saves a draft.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="seen">The version it is made from; 0 for none.</param>
    /// <param name="source">The chain file.</param>
    /// <param name="files">Attachments to put to it; others stay.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="GateChainException">Status 412: somebody else has saved meanwhile.</exception>
    public Task<DraftInfo> SaveDraftAsync(
        string chain,
        long seen,
        string source,
        IReadOnlyDictionary<string, byte[]>? files = null,
        CancellationToken cancel = default
    ) =>
        SendJsonAsync<DraftInfo>(
            HttpMethod.Put,
            $"{Of(chain)}/draft",
            new SaveDraftRequest(source, files is null ? null : Base64(files)),
            seen,
            cancel
        );

    /// <summary>Lets a draft go.</summary>
    public Task DiscardDraftAsync(string chain, long seen, CancellationToken cancel = default) =>
        DeleteAsync($"{Of(chain)}/draft", seen, cancel);

    /// <summary>Earlier versions of a draft that are still there, newest first.</summary>
    public Task<IReadOnlyList<DraftVersionInfo>> DraftHistoryAsync(string chain, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<DraftVersionInfo>>($"{Of(chain)}/draft/history", cancel);

    /// <summary>The releases of a chain, newest first.</summary>
    public Task<IReadOnlyList<ReleaseInfo>> ReleasesAsync(string chain, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<ReleaseInfo>>($"{Of(chain)}/releases", cancel);

    /// <summary>A release with its content.</summary>
    public Task<ReleaseDetail> ReleaseAsync(string chain, int number, CancellationToken cancel = default) =>
        GetAsync<ReleaseDetail>($"{Of(chain)}/releases/{number}", cancel);

    /// <summary>Releases the draft of a chain.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="seen">The version that is released.</param>
    /// <param name="note">What it is for.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<ReleaseInfo> MakeReleaseAsync(
        string chain,
        long seen,
        string? note,
        CancellationToken cancel = default
    ) => SendJsonAsync<ReleaseInfo>(HttpMethod.Post, $"{Of(chain)}/releases", new ReleaseRequest(note), seen, cancel);

    /// <summary>Releases the content of an earlier release again, under a new number.</summary>
    public Task<ReleaseInfo> GoBackAsync(string chain, int number, string? note, CancellationToken cancel = default) =>
        PostAsync<ReleaseInfo>($"{Of(chain)}/releases", new ReleaseRequest(note, number), cancel);

    /// <summary>Runs a draft, or a part of it.</summary>
    public Task<RunSummary> TryAsync(string chain, TryRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"{Of(chain)}/try", request, cancel);

    /// <summary>Checks a chain file in its workspace context; nothing is stored.</summary>
    public Task<IReadOnlyList<ProblemInfo>> CheckDraftAsync(CheckRequest request, CancellationToken cancel = default) =>
        PostAsync<IReadOnlyList<ProblemInfo>>("api/design/check", request, cancel);

    /// <summary>What two versions of a chain say differently.</summary>
    public Task<IReadOnlyList<PartChangeInfo>> CompareAsync(
        string before,
        string after,
        CancellationToken cancel = default
    ) =>
        PostAsync<IReadOnlyList<PartChangeInfo>>("api/design/comparison", new ComparisonRequest(before, after), cancel);

    /// <summary>Type, value and mistakes of an expression at a place of a chain.</summary>
    public Task<ExpressionResult> LookAtExpressionAsync(
        ExpressionRequest request,
        CancellationToken cancel = default
    ) => PostAsync<ExpressionResult>("api/design/expression", request, cancel);

    /// <summary>What a rename changes; nothing is stored.</summary>
    public Task<RenameResult> PlanRenameAsync(RenameRequest request, CancellationToken cancel = default) =>
        PostAsync<RenameResult>("api/design/rename", request, cancel);

    /// <summary>The kinds of steps and probes with their settings.</summary>
    public Task<KindsInfo> KindsAsync(CancellationToken cancel = default) => GetAsync<KindsInfo>("api/kinds", cancel);

    /// <summary>What a new chain can begin with.</summary>
    public Task<IReadOnlyList<TemplateInfo>> TemplatesAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<TemplateInfo>>("api/templates", cancel);

    static string Of(string chain) => $"api/chains/{Uri.EscapeDataString(chain)}";

    static Dictionary<string, string> Base64(IReadOnlyDictionary<string, byte[]> files) =>
        files.ToDictionary(f => f.Key, f => Convert.ToBase64String(f.Value));

    /// <summary>Plays a chain with made-up outcomes; nothing of it is done.</summary>
    public Task<RehearsalResult> RehearseAsync(
        string chain,
        RehearsalRequest request,
        CancellationToken cancel = default
    ) => PostAsync<RehearsalResult>($"api/chains/{Uri.EscapeDataString(chain)}/rehearsal", request, cancel);

    /// <summary>The newest runs.</summary>
    public Task<IReadOnlyList<RunSummary>> RunsAsync(
        string? chain = null,
        string? state = null,
        int limit = 50,
        CancellationToken cancel = default
    ) => RunsAsync(new RunFilter(chain, state) { Limit = limit }, cancel);

    /// <summary>The newest runs that a filter lets through.</summary>
    public Task<IReadOnlyList<RunSummary>> RunsAsync(RunFilter filter, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<RunSummary>>(
            $"api/runs?limit={filter.Limit}{Query("chain", filter.Chain)}{Query("state", filter.State)}"
                + $"{Query("trigger", filter.Trigger)}{Query("from", Text(filter.From))}{Query("to", Text(filter.To))}"
                + $"{Query("text", filter.Text)}{(filter.Before is { } before ? $"&before={before}" : "")}",
            cancel
        );

    /// <summary>Starts a run; it is on disk when this returns.</summary>
    public Task<RunSummary> StartAsync(StartRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>("api/runs", request, cancel);

    /// <summary>A run.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="leg">As it was when this leg ended; null for now.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<RunDetail> RunAsync(long id, int? leg = null, CancellationToken cancel = default) =>
        GetAsync<RunDetail>($"api/runs/{id}{(leg is null ? "" : $"?leg={leg}")}", cancel);

    /// <summary>The calls that lead to a run, outermost first.</summary>
    public Task<IReadOnlyList<TrailInfo>> TrailAsync(long id, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<TrailInfo>>($"api/runs/{id}/trail", cancel);

    /// <summary>How far the steps have got that are running, by path.</summary>
    public Task<Dictionary<string, ProgressInfo>> ProgressAsync(long id, CancellationToken cancel = default) =>
        GetAsync<Dictionary<string, ProgressInfo>>($"api/runs/{id}/progress", cancel);

    /// <summary>One step of a run, in full.</summary>
    public Task<StepDetail> StepAsync(long id, string path, CancellationToken cancel = default) =>
        GetAsync<StepDetail>($"api/runs/{id}/step?path={Uri.EscapeDataString(path)}", cancel);

    /// <summary>Continues with a run from its checkpoint, in a new leg.</summary>
    public Task<RunSummary> ResumeAsync(long id, ResumeRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/resume", request, cancel);

    /// <summary>What a resume would do; nothing is begun.</summary>
    public Task<PlanInfo> PlanAsync(long id, ResumeRequest request, CancellationToken cancel = default) =>
        PostAsync<PlanInfo>($"api/runs/{id}/plan", request, cancel);

    /// <summary>Tries again to continue with a stranded run.</summary>
    public Task<RunSummary> RecoverAsync(long id, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/recover", new { }, cancel);

    /// <summary>Says that what a lost attempt had started is gone.</summary>
    public Task<RunSummary> ConfirmGoneAsync(long id, string step, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/gone", new GoneRequest(step), cancel);

    /// <summary>Lets a held step through, or asks its guard to look now.</summary>
    public Task<RunSummary> AnswerHoldAsync(long id, HoldRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/hold", request, cancel);

    /// <summary>Pauses a run: what runs, runs to its end; nothing new starts.</summary>
    public Task<RunSummary> PauseAsync(long id, PauseRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/pause", request, cancel);

    /// <summary>Decides about a step that has paused its run.</summary>
    public Task<RunSummary> AnswerAsync(long id, AnswerRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/answer", request, cancel);

    /// <summary>Ends one step, or one iteration, of a run that goes on.</summary>
    public Task<RunSummary> CancelAsync(long id, CancelRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/cancel", request, cancel);

    /// <summary>Starts a new run with the parameters of an earlier one.</summary>
    public Task<RunSummary> RestartAsync(long id, RestartRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/restart", request, cancel);

    /// <summary>Lanes: who is in them, and who waits.</summary>
    public Task<IReadOnlyList<LaneInfo>> LanesAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<LaneInfo>>("api/lanes", cancel);

    /// <summary>Asks a run to stop.</summary>
    public Task<RunSummary> StopAsync(long id, StopRequest request, CancellationToken cancel = default) =>
        PostAsync<RunSummary>($"api/runs/{id}/stop", request, cancel);

    static string Query(string name, string? value) => value is null ? "" : $"&{name}={Uri.EscapeDataString(value)}";

    async Task<T> GetAsync<T>(string path, CancellationToken cancel)
    {
        using var response = await SendAsync(
                new(HttpMethod.Get, path),
                HttpCompletionOption.ResponseContentRead,
                cancel
            )
            .ConfigureAwait(false);
        return (await response.Content.ReadFromJsonAsync<T>(Json, cancel).ConfigureAwait(false))!;
    }

    async Task DeleteAsync(string path, long? seen, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(HttpMethod.Delete, path);
        if (seen is { } version)
            request.Headers.Add("If-Match", $"\"{version}\"");
        using var response = await SendAsync(request, HttpCompletionOption.ResponseContentRead, cancel)
            .ConfigureAwait(false);
    }

    Task<T> PostAsync<T>(string path, object body, CancellationToken cancel) =>
        SendJsonAsync<T>(HttpMethod.Post, path, body, null, cancel);

    async Task<T> SendJsonAsync<T>(HttpMethod method, string path, object body, long? seen, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(method, path)
        {
            Content = JsonContent.Create(body, body.GetType(), options: Json),
        };
        if (seen is { } version)
            request.Headers.Add("If-Match", $"\"{version}\"");
        using var response = await SendAsync(request, HttpCompletionOption.ResponseContentRead, cancel)
            .ConfigureAwait(false);
        return (await response.Content.ReadFromJsonAsync<T>(Json, cancel).ConfigureAwait(false))!;
    }

    async Task<HttpResponseMessage> SendAsync(
        HttpRequestMessage request,
        HttpCompletionOption completion,
        CancellationToken cancel
    )
    {
        HttpResponseMessage response;
        try
        {
            response = await _http.SendAsync(request, completion, cancel).ConfigureAwait(false);
        }
        catch (HttpRequestException e)
        {
            throw new GateChainException(
                0,
                $"no service answers at {string.Join(" or ", _addresses.All)}",
                "Start one with: gatechain serve",
                []
            )
            {
                Source = e.Message,
            };
        }
        if (response.IsSuccessStatusCode)
            return response;
        using (response)
        {
            throw await GateChainException.OfAsync(response, cancel).ConfigureAwait(false);
        }
    }

    /// <summary>Closes its connections to the service.</summary>
    public void Dispose() => _http.Dispose();
}
