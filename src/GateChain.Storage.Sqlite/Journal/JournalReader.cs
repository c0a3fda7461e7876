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
        command.CommandText =
            "SELECT seq, count, body, sum FROM journal WHERE run = $run AND seq > $after ORDER BY seq";
        command.Parameters.AddWithValue("$run", run);
        command.Parameters.AddWithValue("$after", after);
        var last = after;
        using (var reader = command.ExecuteReader())
        {
            while (reader.Read())
            {
                var (seq, count, body) = (reader.GetInt64(0), reader.GetInt64(1), (byte[])reader.GetValue(2));
                if (!reader.IsDBNull(3) && reader.GetInt64(3) != Checksum.Of(body))
                    throw new DamagedRunException(run, $"decision {seq}");
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
        ReadWriteBuffer(connection.Handle!, (block, isDamaged) =>
        {
            foreach (var entry in JournalBlocks.Read(block))
            {
                if (entry.Run != run || entry.Seq <= after)
                    continue;
                if (isDamaged)
                    throw new DamagedRunException(run, $"decision {entry.Seq}, or one beside it,");
                found.Add(new(entry.Seq, block.Slice(entry.Start, entry.Length).ToArray()));
            }
        });
        return found;
    }

    /// <summary>Takes a block, and whether it is not what was written.</summary>
    public delegate void TakeBlock(ReadOnlySpan<byte> block, bool isDamaged);

    /// <summary>Goes through the blocks of the buffer, in order, without copying them.</summary>
    /// <exception cref="SqliteException">They can't be read.</exception>
    public static void ReadWriteBuffer(sqlite3 db, TakeBlock each)
    {
        SqliteException.ThrowExceptionForRC(
            raw.sqlite3_prepare_v2(db, "SELECT block, sum FROM journal_tail ORDER BY id", out var blocks),
            db
        );
        using (blocks)
        {
            int result;
            while ((result = raw.sqlite3_step(blocks)) == raw.SQLITE_ROW)
            {
                var block = raw.sqlite3_column_blob(blocks, 0);
                each(
                    block,
                    raw.sqlite3_column_type(blocks, 1) != raw.SQLITE_NULL
                        && raw.sqlite3_column_int64(blocks, 1) != Checksum.Of(block)
                );
            }
            SqliteException.ThrowExceptionForRC(result, db);
        }
    }
}
