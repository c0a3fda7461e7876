using System.Runtime.CompilerServices;
using Dapper;

namespace GateChain.Storage.Postgres;

/// <summary>The journal in its table. Thread-safe.</summary>
sealed class PostgresJournal(PostgresDatabase database, JournalWriter writer) : IJournal
{
    // A long run is read part by part.
    const int Most = 500;

    public WriterState Writer => writer.State;

    public void Append(JournalAppend append) => writer.Append(append);

    public async IAsyncEnumerable<JournalRow> ReadAsync(
        long run,
        long after = 0,
        [EnumeratorCancellation] CancellationToken cancel = default
    )
    {
        // As it is at this moment: who writes on meanwhile is not followed.
        var last = await database
            .ReadAsync(connection =>
                connection.ExecuteScalarAsync<long>(
                    "SELECT coalesce(max(seq), 0) FROM journal WHERE run = @run",
                    new { run }
                )
            )
            .ConfigureAwait(false);
        while (after < last)
        {
            cancel.ThrowIfCancellationRequested();
            var rows = await database
                .ReadAsync(connection =>
                    connection.QueryAsync<(long Seq, byte[] Body)>(
                        "SELECT seq, body FROM journal WHERE run = @run AND seq > @after AND seq <= @last "
                            + "ORDER BY seq LIMIT @Most",
                        new
                        {
                            run,
                            after,
                            last,
                            Most,
                        }
                    )
                )
                .ConfigureAwait(false);
            foreach (var (seq, body) in rows)
            {
                after = seq;
                yield return new(seq, body);
            }
        }
    }
}
