using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using GateChain.Engine.Basics;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Lineage;

/// <summary>
/// Tells another system by OpenLineage which data runs have read and written: a consumer of the outbox, so what ended
/// before a crash is told after it. An event may be told twice, with the same id. Thread-safe.
/// </summary>
/// <param name="target">Where they go.</param>
/// <param name="events">Makes them.</param>
/// <param name="data">What they are made of.</param>
/// <param name="token">What is shown to the address; null for nothing.</param>
/// <param name="logger">Is told what could not be sent.</param>
sealed class LineageSender(
    LineageTarget target,
    LineageEvents events,
    DataFlows data,
    Func<string?> token,
    ILogger logger
) : IDisposable
{
    /// <summary>The name of its cursor.</summary>
    public const string Consumer = "lineage";

    /// <summary>The secret of the whole workspace that is shown to the address, as a bearer.</summary>
    public const string Secret = "lineage-token";

    readonly HttpClient _http = new() { Timeout = TimeSpan.FromSeconds(30) };

    /// <summary>Sends the events of a leg that has ended.</summary>
    /// <exception cref="Exception">It can't be sent now: it is asked again.</exception>
    public async Task HandleAsync(OutboxRow row, CancellationToken cancel)
    {
        if (row.Kind != RunNotificationKind.Ended || row.Run == 0)
            return;
        if (await data.EventsAsync(row.Run, events).ConfigureAwait(false) is not { Count: > 0 } told)
            return;
        if (target.Address is null)
            await AppendAsync(told, cancel).ConfigureAwait(false);
        foreach (var one in target.Address is null ? [] : told)
            await PostAsync(one, row.Run, cancel).ConfigureAwait(false);
    }

    async Task AppendAsync(IEnumerable<JsonObject> told, CancellationToken cancel)
    {
        var lines = string.Concat(told.Select(e => e.ToJsonString() + "\n"));
        var file = new FileStream(target.Target, FileMode.Append, FileAccess.Write, FileShare.ReadWrite);
        await using (file.ConfigureAwait(false))
        {
            await file.WriteAsync(Encoding.UTF8.GetBytes(lines), cancel).ConfigureAwait(false);
        }
    }

    async Task PostAsync(JsonObject one, long run, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, target.Address)
        {
            Content = new StringContent(one.ToJsonString(), Encoding.UTF8, "application/json"),
        };
        if (token() is { } bearer)
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", bearer);
        using var answer = await _http.SendAsync(request, cancel).ConfigureAwait(false);
        if (answer.IsSuccessStatusCode)
            return;
        // What it does not want it will not want later either.
        if (answer.StatusCode is HttpStatusCode.BadRequest or HttpStatusCode.UnprocessableEntity)
        {
            logger.LogWarning(
                "The data of run {Run} were refused by {Address}: {Status}",
                run,
                target.Address,
                answer.StatusCode
            );
            return;
        }
        throw new HttpRequestException($"{target.Address} answered {(int)answer.StatusCode}");
    }

    public void Dispose() => _http.Dispose();
}
