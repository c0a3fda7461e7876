using System.Collections.Concurrent;
using System.Runtime.ExceptionServices;

namespace GateChain.Kinds.Load;

/// <summary>
/// Reads and writes at the same time: mostly both have to do with a processor. Two batches go round between the
/// caller's thread, which fills one, and a thread that writes the other, so what a load takes of memory does not hang
/// on its length.
/// </summary>
/// <param name="columns">How many cells a row has.</param>
sealed class BatchPipe(int columns)
{
    const int Going = 2;

    /// <summary>
    /// Reads until the source has ended and all of it is written. Nothing is running any more when this returns or
    /// throws.
    /// </summary>
    /// <param name="fill">Fills a batch that is empty, and says whether it is the last one. On the caller's
    /// thread.</param>
    /// <param name="write">Writes it. On a thread of its own.</param>
    /// <exception cref="Exception">What either of them threw; what the writing threw, when both did.</exception>
    public void Run(Action<RowBatch> fill, Action<RowBatch> write)
    {
        using var empty = new BlockingCollection<RowBatch>();
        using var full = new BlockingCollection<RowBatch>();
        for (var i = 0; i < Going; i++)
            empty.Add(new(columns));
        var writer = Task.Factory.StartNew(
            () => WriteAll(full, empty, write),
            CancellationToken.None,
            TaskCreationOptions.LongRunning,
            TaskScheduler.Default
        );
        ExceptionDispatchInfo? failure = null;
        try
        {
            // The writer gives no more batches back once it has failed.
            for (var ended = false; !ended && empty.TryTake(out var batch, Timeout.Infinite); )
            {
                batch.Clear();
                fill(batch);
                ended = batch.IsLast;
                full.Add(batch);
            }
        }
        catch (Exception e)
        {
            failure = ExceptionDispatchInfo.Capture(e);
        }
        full.CompleteAdding();
        writer.GetAwaiter().GetResult();
        failure?.Throw();
    }

    static void WriteAll(BlockingCollection<RowBatch> full, BlockingCollection<RowBatch> empty, Action<RowBatch> write)
    {
        try
        {
            foreach (var batch in full.GetConsumingEnumerable())
            {
                write(batch);
                empty.Add(batch);
            }
        }
        finally
        {
            empty.CompleteAdding();
        }
    }
}
