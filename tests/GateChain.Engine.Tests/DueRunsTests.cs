using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Engine.Ownership;
using GateChain.Storage;
using Microsoft.Extensions.Logging.Abstractions;
using Microsoft.Extensions.Time.Testing;

namespace GateChain.Engine.Tests;

/// <summary>
/// Runs that resume by themselves do so at their time, also when it had passed before anybody was there.
/// </summary>
public sealed class DueRunsTests : IDisposable
{
    readonly FakeTimeProvider _clock = new();
    readonly RunFeed _feed = new(e => Assert.Fail(e.Message));
    readonly Register _register = new();
    readonly List<long> _resumed = [];
    readonly DueRuns _due;
    Func<long, Exception?> _fails = _ => null;

    public DueRunsTests() => _due = new(_register, _register, ResumeAsync, _clock, NullLogger.Instance);

    public void Dispose()
    {
        _due.Dispose();
        _register.Dispose();
    }

    Task ResumeAsync(long run)
    {
        lock (_resumed)
            _resumed.Add(run);
        if (_fails(run) is { } why)
            return Task.FromException(why);
        _register.Remove(run);
        return Task.CompletedTask;
    }

    /// <summary>What is due, in memory. Counts who looks.</summary>
    sealed class Register : IRunOwnership, IRunStore, IDisposable
    {
        readonly Lock _lock = new();
        readonly Dictionary<long, DateTimeOffset> _due = [];
        readonly SemaphoreSlim _looks = new(0);

        public void Put(long run, DateTimeOffset at)
        {
            lock (_lock)
                _due[run] = at;
        }

        public void Remove(long run)
        {
            lock (_lock)
                _due.Remove(run);
        }

        /// <summary>Waits until somebody has looked once more and found nothing new to do.</summary>
        public async Task LookedAsync()
        {
            Assert.True(await _looks.WaitAsync(TimeSpan.FromSeconds(20)));
            while (await _looks.WaitAsync(TimeSpan.FromMilliseconds(50)))
            {
                // Whoever was resumed has somebody look again.
            }
        }

        public ValueTask<IReadOnlyList<DueRun>> NextDueAsync(DueRun? after, int most)
        {
            List<DueRun> page;
            lock (_lock)
            {
                page =
                [
                    .. _due.Select(d => new DueRun(d.Key, d.Value))
                        .OrderBy(d => (d.At, d.Run))
                        .Where(d => after is not { } last || (d.At, d.Run).CompareTo((last.At, last.Run)) > 0)
                        .Take(most),
                ];
            }
            _looks.Release();
            return new(page);
        }

        public ValueTask<IReadOnlyDictionary<long, StoredRun>> FindAsync(IReadOnlyCollection<long> runs) =>
            throw new NotSupportedException();

        public ValueTask<StoredRun?> FindAsync(long run)
        {
            lock (_lock)
            {
                return new(
                    _due.TryGetValue(run, out var at)
                        ? new StoredRun(run, "t", "h", "failed", 1, Ann, default, at, "{}", null, ResumeAt: at)
                        : null
                );
            }
        }

        public void Dispose() => _looks.Dispose();

        public Task<Claim?> ClaimAsync(long run) => throw new NotSupportedException();

        public Task<IReadOnlyList<Claim>> ClaimUnendedAsync() => throw new NotSupportedException();

        public ValueTask<long> NextIdAsync() => throw new NotSupportedException();

        public ValueTask<StoredRun?> FindByOriginAsync(string key) => throw new NotSupportedException();

        public ValueTask<IReadOnlyList<StoredRun>> ListAsync(RunQuery query) => throw new NotSupportedException();

        public ValueTask<IReadOnlyDictionary<string, IReadOnlyList<StoredRun>>> NewestAsync(
            IEnumerable<string> chains,
            int each
        ) => throw new NotSupportedException();
    }

    async Task TurnAsync(int seconds)
    {
        _clock.Advance(TimeSpan.FromSeconds(seconds));
        await _register.LookedAsync();
    }

    [Theory]
    [InlineData(-60)]
    [InlineData(0)]
    [InlineData(60)]
    public async Task EachIsResumedOnceAtItsTime(int seconds)
    {
        _due.Start(_feed);
        await _register.LookedAsync();
        await FailAsync(7, seconds);
        if (seconds > 0)
        {
            Assert.Empty(_resumed);
            await TurnAsync(seconds);
        }
        Assert.Equal([7], _resumed);
    }

    [Fact]
    public async Task TheFirstComesFirstHoweverManyThereAre()
    {
        for (var run = 1; run <= 250; run++)
            _register.Put(run, _clock.GetUtcNow().AddSeconds(run <= 230 ? -run : 60));
        _due.Start(_feed);
        await _register.LookedAsync();
        Assert.Equal(Enumerable.Range(1, 230).Select(r => (long)r), _resumed.Order());
        await TurnAsync(60);
        Assert.Equal(250, _resumed.Count);
    }

    [Theory]
    [InlineData(RunNotificationKind.Resumed)]
    [InlineData(RunNotificationKind.Ended)]
    public async Task OneThatSomebodyElseSawToIsNot(RunNotificationKind kind)
    {
        _due.Start(_feed);
        await _register.LookedAsync();
        await FailAsync(7, 60);
        _register.Remove(7);
        _feed.Tell(kind == RunNotificationKind.Ended ? Failed(7, null) : new RunNotification(7, "t", kind));
        await TurnAsync(90);
        Assert.Empty(_resumed);
    }

    [Fact]
    public async Task WhoeverIsInTheWayNowIsNotLater()
    {
        _fails = run => _resumed.Count == 1 ? new RefusedException(RefusalKind.Conflict, $"{run} is busy") : null;
        _register.Put(7, _clock.GetUtcNow());
        _due.Start(_feed);
        await _register.LookedAsync();
        Assert.Equal([7], _resumed);
        await TurnAsync(30);
        Assert.Equal([7, 7], _resumed);
    }

    [Fact]
    public async Task WhatDoesNotFitAnyMoreKeepsNobodyElse()
    {
        _fails = run => run == 7 ? new RefusedException(RefusalKind.Invalid, "it does not fit") : null;
        _register.Put(7, _clock.GetUtcNow());
        _register.Put(8, _clock.GetUtcNow().AddSeconds(60));
        _due.Start(_feed);
        await _register.LookedAsync();
        await TurnAsync(60);
        Assert.Equal([7, 8], _resumed);
    }

    async Task FailAsync(long run, int seconds)
    {
        var at = _clock.GetUtcNow().AddSeconds(seconds);
        _register.Put(run, at);
        _feed.Tell(Failed(run, at));
        await _register.LookedAsync();
    }

    static RunNotification Failed(long run, DateTimeOffset? again) =>
        new(run, "t", RunNotificationKind.Ended, new(null, Outcome.Failed, Value.EmptyMap, null, [], again));
}
