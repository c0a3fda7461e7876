using System.Text.Json;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>News of runs in the database. Thread-safe.</summary>
sealed class Outbox(ISqlDatabase database) : IOutbox
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

    public async Task<IReadOnlyDictionary<string, long>> OpenAsync(
        IReadOnlyCollection<string> consumers,
        bool alone = true
    )
    {
        var cursors = new Dictionary<string, long>();
        await database.GivePlacesAsync().ConfigureAwait(false);
        await database
            .WriteAsync(async connection =>
            {
                if (alone)
                {
                    await connection
                        .ExecuteAsync(
                            $"DELETE FROM outbox_cursors WHERE consumer NOT IN ({database.Words.Texts("@consumers")})",
                            new { consumers = JsonSerializer.Serialize(consumers) }
                        )
                        .ConfigureAwait(false);
                }
                // The table may be empty: how far it ever came stands elsewhere.
                var end = (
                    await connection.ExecuteScalarAsync<long>(database.Words.LastPosition).ConfigureAwait(false)
                );
                foreach (var consumer in consumers)
                {
                    await connection
                        .ExecuteAsync(
                            "INSERT INTO outbox_cursors (consumer, position) VALUES (@consumer, @end) "
                                + "ON CONFLICT DO NOTHING",
                            new { consumer, end }
                        )
                        .ConfigureAwait(false);
                }
                cursors = (
                    await connection
                        .QueryAsync<CursorRow>("SELECT consumer, position FROM outbox_cursors")
                        .ConfigureAwait(false)
                ).ToDictionary(c => c.Consumer, c => c.Position);
                await connection
                    .ExecuteAsync(
                        "DELETE FROM outbox WHERE position <= @all",
                        new { all = cursors.Count > 0 ? cursors.Values.Min() : end }
                    )
                    .ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        var own = cursors.Where(c => consumers.Contains(c.Key)).ToDictionary();
        database.Cursors.Begin(own, alone);
        return own;
    }

    public Task CloseAsync(string consumer) =>
        database.WriteAsync(connection =>
            connection.ExecuteAsync("DELETE FROM outbox_cursors WHERE consumer = @consumer", new { consumer })
        );

    public async ValueTask<IReadOnlyList<OutboxRow>> ReadAsync(long after, int most)
    {
        await database.GivePlacesAsync().ConfigureAwait(false);
        return await database
            .ReadAsync<IReadOnlyList<OutboxRow>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<Row>(
                                "SELECT position, run, seq, chain, kind, state FROM outbox WHERE position > @after "
                                    + "ORDER BY position LIMIT @most",
                                new { after, most }
                            )
                            .ConfigureAwait(false)
                    ).Select(r => new OutboxRow(
                        r.Position,
                        r.Run,
                        r.Seq,
                        r.Chain,
                        (RunNotificationKind)r.Kind,
                        r.State
                    )),
                ];
            })
            .ConfigureAwait(false);
    }

    public void Handled(string consumer, long position) => database.Cursors.Handled(consumer, position);
}
