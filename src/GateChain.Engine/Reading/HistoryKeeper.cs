using GateChain.Core.History;
using GateChain.Engine.Basics;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Reading;

/// <summary>
/// Keeps what is remembered of legs: a consumer of the outbox makes it from the journal when a leg has ended, and at a
/// start from what earlier versions left. It may lag behind by some seconds. Thread-safe.
/// </summary>
public sealed class HistoryKeeper
{
    // How many legs are written together.
    const int Together = 200;

    // While very many runs are at work, history takes one part of one processor in so many: they come first.
    const int OnePartIn = 12;

    // So many runs at work for each processor are very many.
    const int ManyEach = 16;

    readonly IHistory _history;
    readonly IRunStore _runs;
    readonly RunFolder _folder;
    readonly Func<int> _atWork;
    readonly TimeProvider _time;
    readonly ILogger _logger;

    /// <param name="atWork">How many runs are at work in this process.</param>
    internal HistoryKeeper(
        IHistory history,
        IRunStore runs,
        RunFolder folder,
        Func<int> atWork,
        TimeProvider time,
        ILogger logger
    ) => (_history, _runs, _folder, _atWork, _time, _logger) = (history, runs, folder, atWork, time, logger);

    /// <summary>Remembers the legs whose ends are told. The same may be told again.</summary>
    internal async Task HandleAsync(IReadOnlyList<OutboxRow> rows, CancellationToken cancel)
    {
        var ended = rows.Where(r => r.Kind == RunNotificationKind.Ended && r.Run > 0).Select(r => r.Run).Distinct();
        await RememberAsync(ended, cancel).ConfigureAwait(false);
    }

    /// <summary>Remembers what ended while nobody did: of earlier versions, and after news that could not be
    /// handled.</summary>
    internal async Task CatchUpAsync(CancellationToken cancel)
    {
        long? before = null;
        while (await _history.MissingAsync(Together, before).ConfigureAwait(false) is { Count: > 0 } missing)
        {
            await RememberAsync(missing.Select(m => m.Run), cancel).ConfigureAwait(false);
            before = missing[^1].Run;
        }
    }

    async Task RememberAsync(IEnumerable<long> runs, CancellationToken cancel)
    {
        foreach (var part in runs.Chunk(Together))
        {
            var began = _time.GetTimestamp();
            var legs = new List<LegHistory>(part.Length);
            foreach (var run in part)
            {
                cancel.ThrowIfCancellationRequested();
                legs.AddRange(await LegsOfAsync(run).ConfigureAwait(false));
            }
            await _history.AddAsync(legs).ConfigureAwait(false);
            if (_atWork() > ManyEach * Environment.ProcessorCount)
                await Task.Delay(_time.GetElapsedTime(began) * OnePartIn, _time, cancel).ConfigureAwait(false);
        }
    }

    /// <summary>The legs of a run that are to be remembered: the latest, and those before that are not yet.</summary>
    async Task<IReadOnlyList<LegHistory>> LegsOfAsync(long run)
    {
        try
        {
            var (state, _) = await _folder.FoldAsync(run).ConfigureAwait(false);
            var latest = state.HasEnded ? LegFold.Of(state) : null;
            if (latest is { Leg: 1 })
                return [latest];
            var known = await _history.OfRunAsync(run).ConfigureAwait(false);
            return latest is not null && known.Count(l => l.Leg < latest.Leg) == latest.Leg - 1
                ? [latest]
                : await AllLegsOfAsync(run).ConfigureAwait(false);
        }
        catch (Exception e) when (e is RefusedException or InvalidOperationException or FormatException)
        {
            // A chain that can't be read here any more: the run has no history.
            _logger.LogWarning("Run {Run} has no history: {Reason}", run, e.Message);
            return [];
        }
    }

    /// <summary>Every leg of a run that has ended, from its journal.</summary>
    /// <exception cref="RefusedException">A chain that it followed can't be read here.</exception>
    async Task<IReadOnlyList<LegHistory>> AllLegsOfAsync(long run)
    {
        var legs = new SortedDictionary<int, LegHistory>();
        await foreach (var (state, _) in _folder.StatesAsync(run).ConfigureAwait(false))
        {
            // Until the next leg begins, later news of an ended one belong to it.
            if (state.HasEnded)
                legs[state.Leg] = LegFold.Of(state);
        }
        return [.. legs.Values];
    }

    /// <summary>What a look at all of history has found.</summary>
    /// <param name="Runs">Runs that were read.</param>
    /// <param name="Legs">Legs that they have.</param>
    /// <param name="Missing">Runs of which not all is remembered yet: the next start does so.</param>
    /// <param name="Wrong">Runs whose history is not what their journal says.</param>
    /// <param name="Unreadable">Runs that could not be read.</param>
    public sealed record Verified(
        int Runs,
        int Legs,
        IReadOnlyList<long> Missing,
        IReadOnlyList<long> Wrong,
        IReadOnlyList<long> Unreadable
    );

    /// <summary>
    /// Compares what is remembered with the journal of every run that has ended, and can put it right. For a service
    /// that does not work meanwhile.
    /// </summary>
    /// <param name="rebuild">Whether all is forgotten first, and made again.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<Verified> VerifyAsync(bool rebuild, CancellationToken cancel)
    {
        if (rebuild)
            await _history.ClearAsync().ConfigureAwait(false);
        var (runs, legs) = (0, 0);
        var (missing, wrong, unreadable) = (new List<long>(), new List<long>(), new List<long>());
        long? before = null;
        while (await _runs.ListAsync(new(Before: before, Limit: Together)).ConfigureAwait(false) is { Count: > 0 } page)
        {
            var found = new List<LegHistory>();
            foreach (var run in page)
            {
                cancel.ThrowIfCancellationRequested();
                runs++;
                try
                {
                    var own = await AllLegsOfAsync(run.Id).ConfigureAwait(false);
                    legs += own.Count;
                    if (rebuild)
                        found.AddRange(own);
                    else if (await _history.OfRunAsync(run.Id).ConfigureAwait(false) is var kept && !AreSame(own, kept))
                        (IsBegin(kept, own) ? missing : wrong).Add(run.Id);
                }
                catch (Exception e) when (e is RefusedException or InvalidOperationException or FormatException)
                {
                    unreadable.Add(run.Id);
                }
            }
            await _history.AddAsync(found).ConfigureAwait(false);
            before = page[^1].Id;
        }
        return new(runs, legs, missing, wrong, unreadable);
    }

    static bool IsBegin(IReadOnlyList<LegHistory> kept, IReadOnlyList<LegHistory> own) =>
        kept.Count < own.Count && AreSame(kept, [.. own.Take(kept.Count)]);

    // Two lists are the same when what is in them is.
    internal static bool AreSame(IReadOnlyList<LegHistory> a, IReadOnlyList<LegHistory> b)
    {
        IReadOnlyList<StepHistory> none = [];
        return a.Count == b.Count
            && a.Zip(b)
                .All(p =>
                    p.First with { Steps = none } == p.Second with { Steps = none }
                    && p.First.Steps.SequenceEqual(p.Second.Steps)
                );
    }
}
