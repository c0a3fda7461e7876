using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Storage;

namespace GateChain.Engine.Nodes;

/// <summary>
/// Tells the feed of this node what became of runs that go on in others: callers, waiting steps and lists hear of them
/// as of its own.
/// </summary>
/// <param name="reader">Shows how a run has ended.</param>
/// <param name="feed">What is told.</param>
/// <param name="isHere">Whether a run goes on here: then the feed has it already.</param>
/// <param name="also">Handles each row first.</param>
sealed class NewsOfOthers(
    RunReader reader,
    RunFeed feed,
    Func<long, bool> isHere,
    Func<OutboxRow, CancellationToken, Task> also
)
{
    public async Task HandleAsync(OutboxRow row, CancellationToken cancel)
    {
        await also(row, cancel).ConfigureAwait(false);
        if (row.Run == 0 || isHere(row.Run))
            return;
        RunEnd? end = null;
        if (row.Kind == RunNotificationKind.Ended)
        {
            try
            {
                end = await reader.ReadAsync(row.Run, (s, _) => s.HasEnded ? RunEnd.Of(s) : null).ConfigureAwait(false);
            }
            catch (RefusedException)
            {
                // A chain that can't be read here: who waits for the run reads it too, and is told why.
            }
        }
        feed.Tell(new RunNotification(row.Run, row.Chain, row.Kind, end) { IsElsewhere = true });
    }
}
