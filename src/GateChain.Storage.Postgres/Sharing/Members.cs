using Dapper;

namespace GateChain.Storage.Postgres;

/// <summary>The table in which services agree on who is there. Thread-safe.</summary>
sealed class Members(PostgresDatabase database) : IMembers
{
    public ValueTask<MemberTable> ReadAsync() =>
        database.ReadAsync(async connection =>
        {
            // As of one moment: a row that is younger than the version would be told as older than it is.
            await using var transaction = await connection
                .BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead)
                .ConfigureAwait(false);
            var (version, now) = await connection
                .QuerySingleAsync<(long, DateTime)>("SELECT version, clock_timestamp() FROM members_version")
                .ConfigureAwait(false);
            IReadOnlyList<MemberRow> rows =
            [
                .. await connection
                    .QueryAsync<MemberRow>("SELECT id, version, body FROM members ORDER BY id")
                    .ConfigureAwait(false),
            ];
            return new MemberTable(version, new(DateTime.SpecifyKind(now, DateTimeKind.Utc)), rows);
        });

    public async Task<bool> WriteAsync(MemberRow row, long version)
    {
        var written = false;
        await database
            .WriteAsync(async connection =>
            {
                written = false;
                // Takes the row of the version: of two who change something at once, the second sees it changed.
                var now = await connection
                    .ExecuteScalarAsync<long>("SELECT version FROM members_version FOR UPDATE")
                    .ConfigureAwait(false);
                var before = await connection
                    .ExecuteScalarAsync<long?>("SELECT version FROM members WHERE id = @Id", row)
                    .ConfigureAwait(false);
                if (now != version - 1 || (before ?? 0) != row.Version - 1)
                    return;
                await connection
                    .ExecuteAsync(
                        """
                        INSERT INTO members (id, version, body) VALUES (@Id, @Version, @Body)
                        ON CONFLICT (id) DO UPDATE SET version = excluded.version, body = excluded.body;
                        UPDATE members_version SET version = version + 1
                        """,
                        row
                    )
                    .ConfigureAwait(false);
                written = true;
            })
            .ConfigureAwait(false);
        return written;
    }

    public Task TouchAsync(string id, Func<string, string> body) =>
        database.WriteAsync(async connection =>
        {
            if (
                await connection
                    .ExecuteScalarAsync<string?>("SELECT body FROM members WHERE id = @id FOR UPDATE", new { id })
                    .ConfigureAwait(false) is
                { } now
            )
            {
                await connection
                    .ExecuteAsync("UPDATE members SET body = @body WHERE id = @id", new { id, body = body(now) })
                    .ConfigureAwait(false);
            }
        });

    public Task RemoveAsync(IReadOnlyCollection<string> ids) =>
        database.WriteAsync(connection =>
            connection.ExecuteAsync("DELETE FROM members WHERE id = ANY (@ids)", new { ids = ids.ToArray() })
        );
}
