using System.Diagnostics;
using System.Runtime.CompilerServices;
using GateChain.Core.Running.State;
using GateChain.Engine.Live;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Reading;

/// <summary>
/// Tells legs of runs as traces once they have ended: the leg is the root, each attempt a span within that of the
/// container around it. A run has the same trace in all of its legs, and on whichever node. While nobody listens
/// nothing is done. Thread-safe.
/// </summary>
public sealed class RunTraces : IDisposable
{
    /// <summary>The name of the source.</summary>
    public const string Name = "GateChain";

    // A leg of a hundred thousand iterations is told by its first attempts.
    const int Most = 5_000;

    readonly ActivitySource _source = new(Name);
    readonly RunReader _reader;
    readonly ILogger _logger;
    readonly IDisposable _news;

    internal RunTraces(RunReader reader, RunFeed feed, ILogger logger)
    {
        (_reader, _logger) = (reader, logger);
        _news = feed.SubscribeToNotifications(news =>
        {
            if (news is { Kind: RunNotificationKind.Ended, IsElsewhere: false } && _source.HasListeners())
                _ = Task.Run(() => TellAsync(news.Run));
        });
    }

    async Task TellAsync(long run)
    {
        try
        {
            await _reader
                .ReadAsync(run, (state, _) =>
                {
                    Tell(state);
                    return true;
                })
                .ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            _logger.LogDebug("Run {Run} could not be told as a trace: {Reason}", run, e.Message);
        }
    }

    void Tell(RunState state)
    {
        var leg = state.Resumes is [.., var last] ? last : null;
        var attempts = state.Attempts.Where(a => a.Leg == state.Leg && a.Ended is not null).Take(Most).ToList();
        var began = attempts.Select(a => a.Started).Append(state.Ended ?? default).Min();
        var context = TraceContext.Of(state);
        var trace = ActivityTraceId.CreateFromString(context.Trace);
        // One that nobody began has no span above it; the source wants some to take its trace over.
        var above = new ActivityContext(
            trace,
            context.Above is { } span ? ActivitySpanId.CreateFromString(span) : ActivitySpanId.CreateRandom(),
            ActivityTraceFlags.Recorded
        );
        using var root = _source.CreateActivity($"run {state.Chain.Name}", ActivityKind.Internal, above);
        if (root is null)
            return;
        root.SetTag("gatechain.run", state.Id);
        root.SetTag("gatechain.chain", state.Chain.Name);
        root.SetTag("gatechain.leg", state.Leg);
        root.SetTag("gatechain.outcome", state.Word);
        root.SetTag("gatechain.by", (leg?.By ?? state.By).Name);
        if (state.Parent is { } parent)
            root.SetTag("gatechain.parent", $"{parent.Run} {parent.Step}");
        if (state.Error is { } error)
            root.SetStatus(ActivityStatusCode.Error, error.Message);
        root.SetStartTime((leg is null ? state.Started ?? began : began).UtcDateTime);
        root.Start();
        SpanId(root) = TraceContext.LegOf(state.Uid, state.Leg);
        // Those around others began before them.
        var spans = new Dictionary<string, ActivityContext>();
        foreach (var attempt in attempts.OrderBy(a => a.Started).ThenBy(a => a.Step.Length))
        {
            var around = Around(attempt.Step).Select(p => spans.GetValueOrDefault(p)).FirstOrDefault(c => c != default);
            using var activity = _source.CreateActivity(
                attempt.Step,
                ActivityKind.Internal,
                around == default ? root.Context : around
            );
            if (activity is null)
                continue;
            activity.SetTag("gatechain.attempt", attempt.Attempt);
            activity.SetStartTime(attempt.Started.UtcDateTime);
            activity.Start();
            SpanId(activity) = TraceContext.SpanOf(state.Uid, attempt.Number);
            spans[attempt.Step] = activity.Context;
            if (attempt.Error is { } failure)
                activity.SetStatus(ActivityStatusCode.Error, failure.Message);
            activity.SetEndTime(attempt.Ended!.Value.UtcDateTime);
        }
        root.SetEndTime((state.Ended ?? began).UtcDateTime);
    }

    // Whom a step called was shown the id of its attempt before there was a span: the span has that id. The library
    // makes one of its own and takes none.
    [UnsafeAccessor(UnsafeAccessorKind.Field, Name = "_spanId")]
    static extern ref string? SpanId(Activity activity);

    // The paths of what is around a step, the nearest first: depots for depots[2]/load.
    static IEnumerable<string> Around(string path)
    {
        for (var at = path.LastIndexOf('/'); at > 0; at = path.LastIndexOf('/', at - 1))
        {
            var outer = path[..at];
            yield return outer.EndsWith(']') ? outer[..outer.LastIndexOf('[')] : outer;
        }
    }

    /// <summary>Nothing is told any more.</summary>
    public void Dispose()
    {
        _news.Dispose();
        _source.Dispose();
    }
}
