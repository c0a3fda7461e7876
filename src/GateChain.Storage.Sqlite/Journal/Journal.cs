using System.Runtime.CompilerServices;

namespace GateChain.Storage.Sqlite;

/// <summary>The journal in the database file. Thread-safe.</summary>
sealed class Journal(SqliteFile file, SqliteWriter writer) : IJournal
{
    public WriterState Writer => writer.State;

    public void Append(JournalAppend append) => writer.Append(append);

    public async IAsyncEnumerable<JournalRow> ReadAsync(
        long run,
        long after = 0,
        [EnumeratorCancellation] CancellationToken cancel = default
    )
    {
        using var connection = file.Open();
        foreach (var row in JournalReader.Read(connection, run, after))
        {
            cancel.ThrowIfCancellationRequested();
            yield return row;
        }
    }
}
