using GateChain.Core.Chains;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Live;

/// <summary>
/// Writes into the service's log what went wrong with runs, with run, chain and step as fields of the line: who gathers
/// logs finds them there. Only for runs that continue here, so each is told once.
/// </summary>
sealed class RunLog(RunFeed feed, ILogger logger) : IDisposable
{
    readonly IDisposable _news = feed.SubscribeToNotifications(news =>
    {
        if (news.IsElsewhere)
            return;
        switch (news)
        {
            case { Kind: RunNotificationKind.Ended, End: { Outcome: Outcome.Failed, Error: { } error } end }:
                logger.LogWarning(
                    "Run {Run} of {Chain} failed at step {Step}: {Reason}{Resume}",
                    news.Run,
                    news.Chain,
                    error.Origin?.Step ?? "-",
                    error.Origin?.Message ?? error.Message,
                    end.ResumeAt is { } at ? $"; it is resumed at {at:yyyy-MM-dd HH:mm:ss} UTC" : ""
                );
                break;
            case { Kind: RunNotificationKind.Paused }:
                logger.LogWarning("Run {Run} of {Chain} waits for a person", news.Run, news.Chain);
                break;
            case { Kind: RunNotificationKind.Late }:
                logger.LogWarning("Run {Run} of {Chain} is late", news.Run, news.Chain);
                break;
            default:
                break;
        }
    });

    public void Dispose() => _news.Dispose();
}
