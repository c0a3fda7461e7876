using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Storage.Sqlite;

/// <summary>Reads the decisions of a run, wherever they lie.</summary>
static class JournalReader
{
    /// <summary>
    /// The decisions behind a number, in order. Decisions that are sorted in meanwhile are neither missed nor given
    /// twice.
    /// </summary>
    public static IEnumerable<JournalRow> Read(SqliteConnection connection, long run, long after)
    {
        // Journal and tail as they are at one moment.
        using var moment = connection.BeginTransaction(deferred: true);
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT seq, count, body FROM journal WHERE run = $run AND seq > $after ORDER BY seq";
        command.Parameters.AddWithValue("$run", run);
        command.Parameters.AddWithValue("$after", after);
        var last = after;
        using (var reader = command.ExecuteReader())
        {
            while (reader.Read())
            {
                var (seq, count, body) = (reader.GetInt64(0), reader.GetInt64(1), (byte[])reader.GetValue(2));
                foreach (var decision in count == 1 ? [body] : JournalBlocks.Unpack(body))
                {
                    // The row has the number of its last decision.
                    if (seq - --count > after)
                        yield return new(seq - count, decision);
                }
                last = seq;
            }
        }
        // The tail may still have what is sorted in.
        foreach (var decision in OfWriteBuffer(connection, run, last))
            yield return decision;
    }

    static List<JournalRow> OfWriteBuffer(SqliteConnection connection, long run, long after)
    {
        var found = new List<JournalRow>();
        ReadWriteBuffer(connection.Handle!, block =>
        {
            foreach (var entry in JournalBlocks.Read(block))
            {
                if (entry.Run == run && entry.Seq > after)
                    found.Add(new(entry.Seq, block.Slice(entry.Start, entry.Length).ToArray()));
            }
        });
        return found;
    }

    /// <summary>Goes through the blocks of the buffer, in order, without copying them.</summary>
    /// <exception cref="SqliteException">They can't be read.</exception>
    public static void ReadWriteBuffer(sqlite3 db, Action<ReadOnlySpan<byte>> each)
    {
        SqliteException.ThrowExceptionForRC(
            raw.sqlite3_prepare_v2(db, "SELECT block FROM journal_tail ORDER BY id", out var blocks),
            db
        );
        using (blocks)
        {
            int result;
            while ((result = raw.sqlite3_step(blocks)) == raw.SQLITE_ROW)
                each(raw.sqlite3_column_blob(blocks, 0));
            SqliteException.ThrowExceptionForRC(result, db);
        }
    }
}
