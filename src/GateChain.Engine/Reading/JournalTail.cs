using GateChain.Core.Running.Events;
using GateChain.Storage;

namespace GateChain.Engine.Reading;

/// <summary>
/// Looks up what runs have written that go on elsewhere. What it finds is taken in like news; twice is once.
/// Thread-safe.
/// </summary>
/// <param name="journal">Where it is.</param>
/// <param name="isHere">Whether a run goes on here: then everything is told.</param>
sealed class JournalTail(IJournal journal, Func<long, bool> isHere)
{
    /// <summary>Takes in what is on disk.</summary>
    /// <exception cref="StorageException">It could not be read.</exception>
    public async Task CatchUpAsync(long run, ShownRun shown)
    {
        // Who is not folded yet will be from what is on disk.
        if (isHere(run) || shown.Known is not { } known)
            return;
        await foreach (var row in journal.ReadAsync(run, known).ConfigureAwait(false))
            shown.Tell(new(run, row.Seq, Decision.FromBytes(row.Body)));
    }
}
