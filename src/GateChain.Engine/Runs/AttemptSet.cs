using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Engine.Runs;

/// <summary>The attempts of one run that are running.</summary>
sealed class AttemptSet(RunState state, long epoch, RunServices services, Action<RunInput> post)
{
    readonly ConcurrentDictionary<string, Attempt> _working = new(concurrencyLevel: 1, capacity: 3);

    sealed class Attempt(AttemptSet set, AttemptOrder order, Chain chain) : IThreadPoolWorkItem
    {
        public AttemptOrder Order => order;
        public Chain Chain => chain;
        public CancellationTokenSource Cancel { get; } = new();

        /// <summary>The label of the nodes that do it; null for this one.</summary>
        public Value? Place { get; init; }

        /// <summary>Whether it may be going on already: its run had another owner.</summary>
        public bool Attach { get; init; }

        /// <summary>How long it is left alone when it is lost: its node may still be ending it.</summary>
        public TimeSpan QuietFor { get; init; }

        public void Execute() => _ = set.WorkAsync(this);
    }

    public bool IsEmpty => _working.IsEmpty;

    /// <summary>The paths of the steps that this service is at itself.</summary>
    public IEnumerable<string> WorkingHere =>
        _working.Values.Where(a => a is { Place: null, Attach: false }).Select(a => a.Order.Step);

    TaskCompletionSource? _whenEmpty;

    /// <summary>Ends when nothing is running any more.</summary>
    public async Task EndedAsync()
    {
        while (!IsEmpty)
        {
            var ended = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
            ended = Interlocked.CompareExchange(ref _whenEmpty, ended, null) ?? ended;
            // The last one may have ended before it could see that somebody waits.
            if (IsEmpty)
                return;
            await ended.Task.ConfigureAwait(false);
        }
    }

    /// <summary>Starts the work of an attempt whose start is on disk.</summary>
    public void Start(StepState step) => Put(new(this, OrderOf(step), state.Chain) { Place = PlaceOf(step) });

    void Put(Attempt attempt)
    {
        _working[attempt.Order.Step] = attempt;
        ThreadPool.UnsafeQueueUserWorkItem(attempt, preferLocal: true);
    }

    // A service that has its runs alone is every place.
    Value? PlaceOf(StepState step)
    {
        if (services.Far is null || step.Step.Place is null)
            return null;
        using var limit = new CancellationTokenSource(services.Options.Bounds.EvaluationTime);
        return AttemptPlaces.Of(state, step, services.Time.GetUtcNow(), services.Options.Bounds, limit.Token);
    }

    AttemptOrder OrderOf(StepState step) =>
        new(
            state.Id,
            step.Path,
            step.Step.Address,
            step.Attempt,
            step.Record!.Number,
            step.Step.Kind.Name,
            state.Release,
            state.Area.Path,
            state.IsTry,
            state.WorkKey(step),
            step.Inputs,
            state.ProfileName,
            TraceContext.Shown(state, step.Record.Number)
        );

    // How long until what could not be ended is tried again.
    static readonly TimeSpan SweepPause = TimeSpan.FromSeconds(5);

    /// <summary>
    /// Ends what a lost attempt had started outside; only when that is done is the attempt told as lost, and anything
    /// of its step begins again.
    /// </summary>
    /// <param name="step">The step whose attempt was in flight when its owner ended.</param>
    /// <param name="quietFor">How long it is left alone: its node may still be ending it.</param>
    public void Sweep(StepState step, TimeSpan quietFor)
    {
        var order = OrderOf(step);
        // What another node does for it goes on all the same.
        if (services.Far is not null && step.Step.Place is not null)
        {
            var attempt = new Attempt(this, order, state.Chain) { Attach = true, QuietFor = quietFor };
            Put(attempt);
            if (step.IsEnding)
                attempt.Cancel.Cancel();
            return;
        }
        _ = Task.Run(() => SweepAsync(order, quietFor));
    }

    async Task SweepAsync(AttemptOrder order, TimeSpan quietFor)
    {
        var work = new AttemptWork(order, state.Chain, services);
        if (quietFor > TimeSpan.Zero)
            await Task.Delay(quietFor, services.Time).ConfigureAwait(false);
        while (!_closed)
        {
            try
            {
                await work.SweepAsync().ConfigureAwait(false);
                break;
            }
            catch (Exception e)
            {
                post(
                    new LeftoverInput(
                        services.Time.GetUtcNow(),
                        order.Step,
                        order.Attempt,
                        services.Secrets.Mask.Text(e.Message)
                    )
                );
                await Task.Delay(SweepPause, services.Time).ConfigureAwait(false);
            }
        }
        work.Dispose();
        if (!_closed)
            post(new LostInput(services.Time.GetUtcNow(), order.Step, order.Attempt));
    }

    volatile bool _closed;

    async Task WorkAsync(Attempt attempt)
    {
        var order = attempt.Order;
        AttemptResult? result;
        if (attempt is { Place: null, Attach: false })
        {
            using var work = new AttemptWork(order, attempt.Chain, services);
            result = await work.RunAsync(attempt.Cancel.Token).ConfigureAwait(false);
        }
        else
        {
            result = await FarAsync(attempt).ConfigureAwait(false);
        }
        _working.TryRemove(KeyValuePair.Create(order.Step, attempt));
        if (_whenEmpty is not null && IsEmpty)
            Interlocked.Exchange(ref _whenEmpty, null)?.TrySetResult();
        if (result is null)
        {
            if (!_closed)
                await SweepAsync(order, attempt.QuietFor).ConfigureAwait(false);
            return;
        }
        // Ended for the service's own end: nothing is journaled, the next start finds the attempt in flight and does it
        // again.
        if (services.Ending.IsCancellationRequested && attempt.Cancel.IsCancellationRequested && !result.Succeeded)
            return;
        post(new AttemptEndedInput(services.Time.GetUtcNow(), order.Step, order.Attempt, result));
    }

    // Null when it is lost, or its run is not this service's any more.
    Task<AttemptResult?> FarAsync(Attempt attempt) =>
        attempt.Place is { IsError: true } place
            ? Task.FromResult<AttemptResult?>(
                AttemptResult.Fail("expression", $"its place can't be computed: {place.AsError.Message}")
            )
            : services.Far!.DoAsync(
                attempt.Order,
                attempt.Place is { } label ? ValueText.ToPlainString(label) : null,
                epoch,
                () => _closed,
                attempt.Cancel.Token
            );

    public void Cancel(string step)
    {
        if (_working.TryGetValue(step, out var attempt))
            attempt.Cancel.Cancel();
    }

    public void CancelAll()
    {
        _closed = true;
        foreach (var attempt in _working.Values)
            attempt.Cancel.Cancel();
    }
}
