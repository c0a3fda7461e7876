using GateChain.Core.Chains;
using GateChain.Core.Values;
using GateChain.Engine.Live;
using GateChain.Engine.Runs;
using GateChain.Storage;
using Microsoft.Extensions.Logging.Abstractions;
using Microsoft.Extensions.Time.Testing;

namespace GateChain.Engine.Tests;

/// <summary>
/// Runs that resume by themselves do so at their time, also when it had passed before anybody was there.
/// </summary>
public sealed class AutomaticResumesTests
{
    [Theory]
    [InlineData(-60)]
    [InlineData(0)]
    [InlineData(60)]
    public void EachIsResumedOnce(int seconds)
    {
        var clock = new FakeTimeProvider();
        var resumed = new List<long>();
        var feed = new RunFeed(e => Assert.Fail(e.Message));
        using var resumes = new AutomaticResumes(
            null!,
            feed,
            run =>
            {
                resumed.Add(run);
                return Task.CompletedTask;
            },
            clock,
            NullLogger.Instance
        );
        feed.Tell(Failed(7, clock.GetUtcNow().AddSeconds(seconds)));
        clock.Advance(TimeSpan.FromSeconds(90));
        clock.Advance(TimeSpan.FromSeconds(90));
        Assert.Equal([7], resumed);
    }

    [Theory]
    [InlineData(RunNewsKind.Resumed)]
    [InlineData(RunNewsKind.Ended)]
    public void OneThatSomebodyElseSawToIsNot(RunNewsKind kind)
    {
        var clock = new FakeTimeProvider();
        var feed = new RunFeed(e => Assert.Fail(e.Message));
        using var resumes = new AutomaticResumes(
            null!,
            feed,
            run => throw new InvalidOperationException($"run {run} was resumed"),
            clock,
            NullLogger.Instance
        );
        feed.Tell(Failed(7, clock.GetUtcNow().AddSeconds(60)));
        feed.Tell(kind == RunNewsKind.Ended ? Failed(7, null) : new RunNews(7, "t", kind));
        clock.Advance(TimeSpan.FromSeconds(90));
    }

    static RunNews Failed(long run, DateTimeOffset? again) =>
        new(run, "t", RunNewsKind.Ended, new(null, Outcome.Failed, Value.EmptyMap, null, [], again));
}
