using System.Runtime.CompilerServices;
using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>The journal in its table. Thread-safe.</summary>
sealed class PostgresJournal(PostgresDatabase database, JournalWriter writer) : IJournal
{
    public WriterState Writer => writer.State;

    public void Append(JournalAppend append) => writer.Append(append);

    public async IAsyncEnumerable<JournalRow> ReadAsync(
        long run,
        long after = 0,
        [EnumeratorCancellation] CancellationToken cancel = default
    )
    {
        await using var connection = await database.ConnectAsync().ConfigureAwait(false);
        await using var command = new NpgsqlCommand(
            "SELECT seq, body FROM journal WHERE run = $1 AND seq > $2 ORDER BY seq",
            connection
        );
        command.Parameters.AddWithValue(run);
        command.Parameters.AddWithValue(after);
        await using var reader = await command.ExecuteReaderAsync(cancel).ConfigureAwait(false);
        while (await reader.ReadAsync(cancel).ConfigureAwait(false))
            yield return new(reader.GetInt64(0), reader.GetFieldValue<byte[]>(1));
    }
}
