using Dapper;

namespace GateChain.Storage.Sqlite;

/// <summary>News of runs in the database file. Thread-safe.</summary>
sealed class Outbox(SqliteFile file, SqliteWriter writer) : IOutbox
{
    sealed class Row
    {
        public long Position { get; set; }
        public long Run { get; set; }
        public long Seq { get; set; }
        public string Chain { get; set; } = "";
        public long Kind { get; set; }
        public string State { get; set; } = "";
    }

    sealed class CursorRow
    {
        public string Consumer { get; set; } = "";
        public long Position { get; set; }
    }

    public async Task<IReadOnlyDictionary<string, long>> OpenAsync(IReadOnlyCollection<string> consumers)
    {
        var cursors = new Dictionary<string, long>();
        await writer
            .WriteAsync(connection =>
            {
                connection.Execute(
                    "DELETE FROM outbox_cursors WHERE consumer NOT IN @consumers",
                    new { consumers = consumers.Append("") }
                );
                // The table may be empty: how far it ever came stands elsewhere.
                var end = connection.ExecuteScalar<long>(
                    "SELECT coalesce(max(seq), 0) FROM sqlite_sequence WHERE name = 'outbox'"
                );
                foreach (var consumer in consumers)
                {
                    connection.Execute(
                        "INSERT OR IGNORE INTO outbox_cursors (consumer, position) VALUES (@consumer, @end)",
                        new { consumer, end }
                    );
                }
                cursors = connection
                    .Query<CursorRow>("SELECT consumer, position FROM outbox_cursors")
                    .ToDictionary(c => c.Consumer, c => c.Position);
                connection.Execute(
                    "DELETE FROM outbox WHERE position <= @all",
                    new { all = cursors.Count > 0 ? cursors.Values.Min() : end }
                );
            })
            .ConfigureAwait(false);
        writer.Cursors.Begin(cursors);
        return cursors;
    }

    public ValueTask<IReadOnlyList<OutboxRow>> ReadAsync(long after, int most)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>(
                    "SELECT position, run, seq, chain, kind, state FROM outbox WHERE position > @after "
                        + "ORDER BY position LIMIT @most",
                    new { after, most }
                )
                .Select(r => new OutboxRow(r.Position, r.Run, r.Seq, r.Chain, (RunNotificationKind)r.Kind, r.State)),
        ]);
    }

    public void Handled(string consumer, long position) => writer.Cursors.Handled(consumer, position);
}
