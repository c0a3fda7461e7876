using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;

namespace GateChain.Client;

public sealed partial class GateChainClient
{
    // How long a run is followed on when the service goes in the middle of it.
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);

    /// <summary>
    /// Follows a run: first all of it, then what changes, until it has ended. When the connection is lost, all of it
    /// comes once more from whoever answers next, for 20 s.
    /// </summary>
    /// <exception cref="GateChainException">There is no such run, or nobody answers any more.</exception>
    public async IAsyncEnumerable<(RunDetail? Whole, RunPatch? Change)> FollowAsync(
        long id,
        [EnumeratorCancellation] CancellationToken cancel = default
    )
    {
        var ended = false;
        for (var lost = 0L; ; )
        {
            await using var items = StreamAsync(id, cancel).GetAsyncEnumerator(cancel);
            while (true)
            {
                try
                {
                    // A node that ends ends what it tells, too.
                    if (!await items.MoveNextAsync().ConfigureAwait(false))
                    {
                        if (ended)
                            yield break;
                        throw new IOException("the service has ended");
                    }
                    lost = 0;
                }
                // In the middle of an answer, or nobody has answered.
                catch (Exception e) when (e is IOException or GateChainException { Status: 0 or 503 })
                {
                    lost = lost == 0 ? Environment.TickCount64 : lost;
                    if (Environment.TickCount64 - lost > Patience.TotalMilliseconds)
                        throw;
                    _addresses.Leave();
                    await Task.Delay(250, cancel).ConfigureAwait(false);
                    break;
                }
                ended = (items.Current.Whole?.Ended ?? items.Current.Change?.Ended) is not null;
                yield return items.Current;
            }
        }
    }

    async IAsyncEnumerable<(RunDetail? Whole, RunPatch? Change)> StreamAsync(
        long id,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        using var response = await SendAsync(
                new(HttpMethod.Get, $"api/runs/{id}/live"),
                HttpCompletionOption.ResponseHeadersRead,
                cancel
            )
            .ConfigureAwait(false);
        using var stream = await response.Content.ReadAsStreamAsync(cancel).ConfigureAwait(false);
        await foreach (var item in SseParser.Create(stream).EnumerateAsync(cancel).ConfigureAwait(false))
        {
            if (item.EventType == "run")
                yield return (JsonSerializer.Deserialize<RunDetail>(item.Data, Json), null);
            else if (item.EventType == "change")
                yield return (null, JsonSerializer.Deserialize<RunPatch>(item.Data, Json));
        }
    }
}
