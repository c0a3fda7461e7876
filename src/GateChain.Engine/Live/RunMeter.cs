using System.Collections.Concurrent;
using System.Diagnostics.Metrics;
using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Storage;

namespace GateChain.Engine.Live;

/// <summary>
/// What a service does, in numbers: the instruments of the meter <c>GateChain</c>. While nobody listens to them they
/// cost nothing worth telling. Thread-safe.
/// </summary>
public sealed class RunMeter : IDisposable
{
    /// <summary>The meter's name.</summary>
    public const string Name = "GateChain";

    /// <summary>From a thousandth of a second to a day: the bounds of what durations are counted in, in
    /// seconds.</summary>
    public static IReadOnlyList<double> Durations { get; } =
    [0.001, 0.01, 0.1, 0.5, 1, 5, 10, 30, 60, 300, 900, 3_600, 14_400, 86_400];

    readonly Meter _meter = new(Name);
    readonly TimeProvider _time;
    readonly Counter<long> _started,
        _ended,
        _late,
        _paused,
        _steps,
        _retries;
    readonly Histogram<double> _took,
        _attempts;

    // Runs that are counted here, with the time from which their leg is measured.
    readonly ConcurrentDictionary<long, (string Chain, DateTimeOffset Since)> _runs = new();
    IDisposable? _news,
        _decisions;

    internal RunMeter(TimeProvider time)
    {
        _time = time;
        _started = _meter.CreateCounter<long>("gatechain.runs.started", "{run}", "Legs of runs that began.");
        _ended = _meter.CreateCounter<long>("gatechain.runs.ended", "{run}", "Legs of runs that ended, by outcome.");
        _late = _meter.CreateCounter<long>("gatechain.runs.late", "{run}", "Runs that took longer than dueIn.");
        _paused = _meter.CreateCounter<long>("gatechain.runs.paused", "{run}", "Runs that wait for a person.");
        _steps = _meter.CreateCounter<long>("gatechain.steps.ended", "{step}", "Steps that settled, by outcome.");
        _retries = _meter.CreateCounter<long>(
            "gatechain.attempts.retried",
            "{attempt}",
            "Attempts that failed and are done again."
        );
        _took = _meter.CreateHistogram<double>("gatechain.run.duration", "s", "How long legs of runs took.");
        _attempts = _meter.CreateHistogram<double>(
            "gatechain.attempt.duration",
            "s",
            "How long attempts took, by kind of step."
        );
    }

    /// <summary>Begins to count.</summary>
    /// <param name="feed">What happens.</param>
    /// <param name="inFlight">How many runs continue here.</param>
    /// <param name="stranded">How many do not though they have not ended.</param>
    /// <param name="journal">Whether it can be written.</param>
    /// <param name="isHeld">Whether no trigger starts anything.</param>
    internal void Start(RunFeed feed, Func<int> inFlight, Func<int> stranded, IJournal journal, Func<bool> isHeld)
    {
        _meter.CreateObservableGauge("gatechain.runs.in_flight", inFlight, "{run}", "Runs that continue here.");
        _meter.CreateObservableGauge(
            "gatechain.runs.stranded",
            stranded,
            "{run}",
            "Runs that have not ended and do not continue; /health names them."
        );
        _meter.CreateObservableGauge(
            "gatechain.store.trouble",
            () => journal.Writer.Trouble is null ? 0 : 1,
            description: "1 while nothing can be written."
        );
        _meter.CreateObservableGauge(
            "gatechain.triggers.held",
            () => isHeld() ? 1 : 0,
            description: "1 while no trigger starts anything."
        );
        _news = feed.SubscribeToNotifications(Take);
        _decisions = feed.Subscribe(null, Take);
    }

    void Take(RunNotification news)
    {
        if (news.IsElsewhere)
        {
            // It is counted there; what it began with here is of no more use.
            _runs.TryRemove(news.Run, out _);
            return;
        }
        var chain = KeyValuePair.Create<string, object?>("chain", news.Chain);
        switch (news.Kind)
        {
            case RunNotificationKind.Started or RunNotificationKind.Resumed:
                _runs[news.Run] = (news.Chain, _time.GetUtcNow());
                _started.Add(1, chain);
                break;
            case RunNotificationKind.Late:
                _late.Add(1, chain);
                break;
            case RunNotificationKind.Paused:
                _paused.Add(1, chain);
                break;
            case RunNotificationKind.Ended when news.End is { } end:
                var outcome = Of("outcome", end.Outcome);
                _ended.Add(1, chain, outcome);
                if (_runs.TryRemove(news.Run, out var run))
                    _took.Record((_time.GetUtcNow() - run.Since).TotalSeconds, chain, outcome);
                break;
            default:
                break;
        }
    }

    void Take(RunChanged change)
    {
        if (!_steps.Enabled && !_retries.Enabled)
            return;
        foreach (var happened in change.Decision.Events)
        {
            switch (happened)
            {
                case StepSettled settled:
                    _steps.Add(1, Chain(change.Run), Of("outcome", settled.Outcome));
                    break;
                case AttemptFailed:
                    _retries.Add(1, Chain(change.Run));
                    break;
                default:
                    break;
            }
        }
    }

    /// <summary>An attempt has ended.</summary>
    /// <param name="kind">The kind of its step.</param>
    internal void Attempt(string kind, bool succeeded, TimeSpan took)
    {
        if (!_attempts.Enabled)
            return;
        _attempts.Record(
            took.TotalSeconds,
            KeyValuePair.Create<string, object?>("kind", kind),
            Of("outcome", succeeded ? Outcome.Succeeded : Outcome.Failed)
        );
    }

    /// <summary>A run continues that began before this process did.</summary>
    internal void Continues(StoredRun run) => _runs.TryAdd(run.Id, (run.Chain, run.Started));

    KeyValuePair<string, object?> Chain(long run) =>
        KeyValuePair.Create<string, object?>("chain", _runs.TryGetValue(run, out var known) ? known.Chain : "");

    static KeyValuePair<string, object?> Of(string name, Outcome outcome) =>
        KeyValuePair.Create<string, object?>(name, outcome.ToString().ToLowerInvariant());

    /// <summary>Nothing is counted any more.</summary>
    public void Dispose()
    {
        _news?.Dispose();
        _decisions?.Dispose();
        _meter.Dispose();
    }
}
