using System.Globalization;

namespace GateChain.Client;

// What starts chains by itself.
public sealed partial class GateChainClient
{
    static string Trigger(string name, string action) => $"api/triggers/{Uri.EscapeDataString(name)}/{action}";

    static string? Text(DateTimeOffset? at) => at?.ToUniversalTime().ToString("O", CultureInfo.InvariantCulture);

    /// <summary>The triggers with their latest fires.</summary>
    /// <param name="chain">Only those of this chain; null for all.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<IReadOnlyList<TriggerInfo>> TriggersAsync(string? chain = null, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<TriggerInfo>>($"api/triggers?{Query("chain", chain)}", cancel);

    /// <summary>Switches a trigger.</summary>
    /// <param name="name">The trigger.</param>
    /// <param name="on">Whether it is on from here on.</param>
    /// <param name="missed">Whether due times that passed while it was off are made up for.</param>
    /// <param name="cancel">Gives up.</param>
    public Task SwitchAsync(string name, bool on, bool missed = false, CancellationToken cancel = default) =>
        SendJsonAsync(HttpMethod.Post, Trigger(name, on ? "on" : "off"), new SwitchRequest(missed), cancel);

    /// <summary>Fires a trigger by hand.</summary>
    public Task<FireAnswer> FireAsync(string name, FireRequest request, CancellationToken cancel = default) =>
        PostAsync<FireAnswer>(Trigger(name, "fire"), request, cancel);

    /// <summary>The next due times of a schedule.</summary>
    /// <param name="name">The trigger.</param>
    /// <param name="count">How many, 1 to 1,000.</param>
    /// <param name="after">From when on; null for now.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<IReadOnlyList<DueInfo>> NextAsync(
        string name,
        int count = 5,
        DateTimeOffset? after = null,
        CancellationToken cancel = default
    ) =>
        GetAsync<IReadOnlyList<DueInfo>>($"{Trigger(name, "next")}?count={count}{Query("after", Text(after))}", cancel);

    /// <summary>Fires, newest first.</summary>
    /// <param name="trigger">Only those of this trigger; null for all.</param>
    /// <param name="fate">Only those that this became of: <c>started</c>, <c>passed-over</c>, <c>refused</c> or
    /// <c>late</c>.</param>
    /// <param name="since">Only those from here on.</param>
    /// <param name="limit">At most so many.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<IReadOnlyList<FireInfo>> FiresAsync(
        string? trigger = null,
        string? fate = null,
        DateTimeOffset? since = null,
        int limit = 50,
        CancellationToken cancel = default
    ) =>
        GetAsync<IReadOnlyList<FireInfo>>(
            $"api/fires?limit={limit}{Query("trigger", trigger)}{Query("fate", fate)}{Query("since", Text(since))}",
            cancel
        );

    /// <summary>Where nothing starts by itself.</summary>
    public Task<IReadOnlyList<StartHoldInfo>> HoldsAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<StartHoldInfo>>("api/holds", cancel);

    /// <summary>Says that nothing starts by itself, or that it does again.</summary>
    public Task HoldAsync(StartHoldRequest request, CancellationToken cancel = default) =>
        SendJsonAsync(HttpMethod.Put, "api/holds", request, cancel);

    /// <summary>Begins a backfill, or tells what it would do.</summary>
    public Task<BackfillInfo> BackfillAsync(
        string trigger,
        BackfillRequest request,
        CancellationToken cancel = default
    ) => PostAsync<BackfillInfo>(Trigger(trigger, "backfill"), request, cancel);

    /// <summary>Backfills, newest first.</summary>
    public Task<IReadOnlyList<BackfillInfo>> BackfillsAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<BackfillInfo>>("api/backfills", cancel);

    /// <summary>A backfill.</summary>
    public Task<BackfillInfo> BackfillAsync(long number, CancellationToken cancel = default) =>
        GetAsync<BackfillInfo>($"api/backfills/{number}", cancel);

    /// <summary>Pauses, resumes or stops a backfill.</summary>
    /// <param name="number">Its number.</param>
    /// <param name="action"><c>pause</c>, <c>resume</c> or <c>stop</c>.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<BackfillInfo> ChangeBackfillAsync(long number, string action, CancellationToken cancel = default) =>
        PostAsync<BackfillInfo>($"api/backfills/{number}/{action}", new { }, cancel);

    /// <summary>What a chain keeps from run to run, by profile.</summary>
    public Task<IReadOnlyList<KeptInfo>> KeptAsync(string chain, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<KeptInfo>>($"{Of(chain)}/kept", cancel);

    /// <summary>Sets or resets what a chain keeps.</summary>
    public Task SetKeptAsync(string chain, KeptRequest request, CancellationToken cancel = default) =>
        SendJsonAsync(HttpMethod.Put, $"{Of(chain)}/kept", request, cancel);

    /// <summary>How far steps of a chain have got in what they read, by profile and name.</summary>
    public Task<IReadOnlyList<PositionInfo>> PositionsAsync(string chain, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<PositionInfo>>($"{Of(chain)}/positions", cancel);

    /// <summary>Sets or forgets how far a step has got.</summary>
    public Task SetPositionAsync(string chain, PositionRequest request, CancellationToken cancel = default) =>
        SendJsonAsync(HttpMethod.Put, $"{Of(chain)}/positions", request, cancel);

    async Task SendJsonAsync(HttpMethod method, string path, object body, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(method, path)
        {
            Content = System.Net.Http.Json.JsonContent.Create(body, body.GetType(), options: Json),
        };
        using var response = await SendAsync(request, HttpCompletionOption.ResponseContentRead, cancel)
            .ConfigureAwait(false);
    }
}
