using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Replaying;
using GateChain.Core.Running.Events;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Storage;

namespace GateChain.Engine.Replays;

/// <summary>A run that was played again under another content.</summary>
/// <param name="Run">The run.</param>
/// <param name="Number">The number of its release; null or 0 for a draft.</param>
/// <param name="Replay">What came of it; null when it could not be played.</param>
/// <param name="Problem">Why it could not be.</param>
public sealed record ReplayedRun(StoredRun Run, int? Number, Replay? Replay, string? Problem);

/// <summary>Plays past runs again, from their journals. Nothing of it is done. Thread-safe.</summary>
public sealed class Replayer
{
    /// <summary>The most runs at once.</summary>
    public const int Most = 500;

    readonly IRunStore _runs;
    readonly IJournal _journal;
    readonly ReleasedChains _chains;

    internal Replayer(IRunStore runs, IJournal journal, ReleasedChains chains) =>
        (_runs, _journal, _chains) = (runs, journal, chains);

    /// <summary>The latest runs of a chain that have ended, tries left out.</summary>
    /// <param name="chain">The chain's name.</param>
    /// <param name="changed">The other content.</param>
    /// <param name="last">How many, 1 to <see cref="Most"/>.</param>
    /// <param name="since">Only those that began then or later; null for any.</param>
    /// <param name="areas">Only runs in these folders; null for all.</param>
    /// <param name="cancel">Ends it when it has taken long enough.</param>
    public async Task<IReadOnlyList<ReplayedRun>> PlayAsync(
        string chain,
        Chain changed,
        int last,
        DateTimeOffset? since,
        IReadOnlyList<Area>? areas,
        CancellationToken cancel
    )
    {
        var found = new List<ReplayedRun>();
        long? before = null;
        while (found.Count < last)
        {
            var page = await _runs
                .ListAsync(new(Chain: chain, Before: before, Limit: 100, From: since) { Areas = areas })
                .ConfigureAwait(false);
            foreach (var run in page.Where(r => r.Ended is not null))
            {
                cancel.ThrowIfCancellationRequested();
                if (found.Count < last && await PlayAsync(run, changed, cancel).ConfigureAwait(false) is { } played)
                    found.Add(played);
            }
            if (page.Count < 100)
                break;
            before = page[^1].Id;
        }
        return found;
    }

    // Null for what is no run of its own.
    async Task<ReplayedRun?> PlayAsync(StoredRun run, Chain changed, CancellationToken cancel)
    {
        int? number = null;
        try
        {
            var (decisions, release) = (new List<Decision>(), run.Release);
            await foreach (var row in _journal.ReadAsync(run.Id, cancel: cancel).ConfigureAwait(false))
            {
                var decision = Decision.FromBytes(row.Body);
                if (decision.Events.OfType<RunStarted>().FirstOrDefault() is { } started)
                {
                    (release, number) = (started.Release, started.Number);
                    if (started.Try is not null || started.Parent is { Tried: true })
                        return null;
                }
                decisions.Add(decision);
                if (decision.Events.Any(e => e is LegStarted { Leg: > 1 }))
                    break;
            }
            var past = PastRun.Of(await _chains.RunnableOfAsync(release).ConfigureAwait(false), decisions);
            return new(
                run,
                number,
                past is null ? null : Replay.Of(past, changed, cancel),
                past is null ? "its journal does not begin with its start" : null
            );
        }
        catch (Exception e) when (e is RefusedException or FormatException or System.Text.Json.JsonException)
        {
            return new(run, number, null, e.Message);
        }
    }
}
