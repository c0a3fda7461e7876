using GateChain.Engine.Runs;
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
        using var resumes = new AutomaticResumes(clock, run =>
        {
            resumed.Add(run);
            return Task.CompletedTask;
        });
        resumes.Plan(7, clock.GetUtcNow().AddSeconds(seconds));
        clock.Advance(TimeSpan.FromSeconds(90));
        clock.Advance(TimeSpan.FromSeconds(90));
        Assert.Equal([7], resumed);
    }
}
