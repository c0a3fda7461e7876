using System.Diagnostics;
using System.Threading.Channels;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Bench;

/// <summary>
/// The bare rate of grouped single-row appends: one writer thread, a raw prepared insert per row, synchronous = FULL,
/// rows of 200 bytes; every producer waits for its row to be on disk before it appends the next. SQLite is as it comes,
/// or tuned with the pragmas of our journal. Runs that never end scatter the index: with them the floor is lower.
/// </summary>
static class Floor
{
    sealed record Row(long Run, long Seq, TaskCompletionSource Done);

    public static async Task<double> RateAsync(int producers, int rowsPerRun, int runsEach, bool tuned)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-floor-").FullName;
        try
        {
            using var connection = new SqliteConnection($"Data Source={Path.Combine(folder, "db")};Pooling=False");
            connection.Open();
            using (var command = connection.CreateCommand())
            {
                command.CommandText =
                    (tuned ? "PRAGMA page_size = 16384; PRAGMA wal_autocheckpoint = 8000;" : "")
                    + "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; CREATE TABLE journal (run "
                    + "INTEGER NOT NULL, seq INTEGER NOT NULL, body BLOB NOT NULL, PRIMARY KEY (run, seq))";
                command.ExecuteNonQuery();
            }
            var queue = Channel.CreateUnbounded<Row>(new() { SingleReader = true });
            var writer = new Thread(() => Write(connection.Handle!, queue.Reader));
            writer.Start();
            var clock = Stopwatch.StartNew();
            await Task.WhenAll(
                Enumerable
                    .Range(1, producers)
                    .Select(async run =>
                    {
                        for (var i = 0; i < rowsPerRun * runsEach; i++)
                        {
                            var row = new Row(
                                run + producers * (i / rowsPerRun),
                                i % rowsPerRun + 1,
                                new(TaskCreationOptions.RunContinuationsAsynchronously)
                            );
                            queue.Writer.TryWrite(row);
                            await row.Done.Task.ConfigureAwait(false);
                        }
                    })
            );
            var rate = producers * (double)rowsPerRun * runsEach / clock.Elapsed.TotalSeconds;
            queue.Writer.Complete();
            writer.Join();
            return rate;
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    static void Write(sqlite3 db, ChannelReader<Row> queue)
    {
        sqlite3_stmt Prepare(string sql)
        {
            raw.sqlite3_prepare_v2(db, sql, out var statement);
            return statement;
        }

        static void Run(sqlite3_stmt statement)
        {
            var result = raw.sqlite3_step(statement);
            raw.sqlite3_reset(statement);
            if (result != raw.SQLITE_DONE)
                throw new InvalidOperationException($"SQLite says {result}");
        }

        var (begin, commit, insert) = (
            Prepare("BEGIN IMMEDIATE"),
            Prepare("COMMIT"),
            Prepare("INSERT INTO journal VALUES (?1, ?2, ?3)")
        );
        var body = new byte[200];
        var batch = new List<Row>(1000);
        while (queue.WaitToReadAsync().AsTask().GetAwaiter().GetResult())
        {
            while (batch.Count < 1000 && queue.TryRead(out var row))
                batch.Add(row);
            Run(begin);
            foreach (var row in batch)
            {
                raw.sqlite3_bind_int64(insert, 1, row.Run);
                raw.sqlite3_bind_int64(insert, 2, row.Seq);
                raw.sqlite3_bind_blob(insert, 3, body);
                Run(insert);
            }
            Run(commit);
            foreach (var row in batch)
                row.Done.SetResult();
            batch.Clear();
        }
        foreach (var statement in (sqlite3_stmt[])[begin, commit, insert])
            raw.sqlite3_finalize(statement);
    }
}
