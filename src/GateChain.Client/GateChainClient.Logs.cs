namespace GateChain.Client;

// What attempts of steps have said.
public sealed partial class GateChainClient
{
    /// <summary>A page of a step's log.</summary>
    /// <param name="id">The run.</param>
    /// <param name="path">The step.</param>
    /// <param name="attempt">The attempt's number in the run; null for the latest.</param>
    /// <param name="from">Where to begin, in bytes.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<LogPage> LogAsync(
        long id,
        string path,
        int? attempt = null,
        long from = 0,
        CancellationToken cancel = default
    ) => GetAsync<LogPage>($"{LogOf(id, "", path, attempt)}&from={from}", cancel);

    /// <summary>The page of a step's log that ends at an offset.</summary>
    /// <param name="id">The run.</param>
    /// <param name="path">The step.</param>
    /// <param name="attempt">The attempt's number in the run; null for the latest.</param>
    /// <param name="before">Where it ends, in bytes; <see cref="long.MaxValue"/> for the end of the log.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<LogPage> LogBeforeAsync(
        long id,
        string path,
        int? attempt,
        long before,
        CancellationToken cancel = default
    ) => GetAsync<LogPage>($"{LogOf(id, "", path, attempt)}&before={before}", cancel);

    /// <summary>Lines of a step's log that hold a text or are of a level.</summary>
    /// <param name="id">The run.</param>
    /// <param name="path">The step.</param>
    /// <param name="attempt">The attempt's number in the run; null for the latest.</param>
    /// <param name="text">What they hold, whatever the case of its letters; empty for anything.</param>
    /// <param name="level"><c>out</c>, <c>err</c> or <c>note</c>; null for any.</param>
    /// <param name="from">Where to begin, in bytes.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<LogHitsInfo> SearchLogAsync(
        long id,
        string path,
        int? attempt,
        string text,
        string? level,
        long from = 0,
        CancellationToken cancel = default
    ) =>
        GetAsync<LogHitsInfo>(
            $"{LogOf(id, "/search", path, attempt)}&from={from}{Query("text", text)}{Query("level", level)}&limit=1000",
            cancel
        );

    static string LogOf(long id, string what, string path, int? attempt) =>
        $"api/runs/{id}/log{what}?path={Uri.EscapeDataString(path)}{(attempt is null ? "" : $"&attempt={attempt}")}";
}
