using System.Data.Common;
using System.Text.Json;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>Accounts, tokens, sessions and links in the database file. Thread-safe.</summary>
sealed class AccessStore(ISqlDatabase database) : IAccessStore
{
    static readonly JsonSerializerOptions Json = new()
    {
        DefaultIgnoreCondition = System.Text.Json.Serialization.JsonIgnoreCondition.WhenWritingNull,
    };

    sealed class Row
    {
        public string Body { get; set; } = "";
        public string? Touched { get; set; }

        public T Of<T>() => JsonSerializer.Deserialize<T>(Body, Json)!;

        public DateTimeOffset? At => Touched is null ? null : Times.Of(Touched);
    }

    public async ValueTask<AccessContent> LoadAsync()
    {
        return await database
            .ReadAsync<AccessContent>(async connection =>
            {
                return new AccessContent(
                    [
                        .. (
                            await connection
                                .QueryAsync<Row>("SELECT body FROM accounts ORDER BY name")
                                .ConfigureAwait(false)
                        ).Select(r => r.Of<Account>()),
                    ],
                    [
                        .. (
                            await connection
                                .QueryAsync<Row>("SELECT body, used AS touched FROM access_tokens")
                                .ConfigureAwait(false)
                        ).Select(r => r.Of<AccessToken>() with { Used = r.At }),
                    ],
                    [
                        .. (
                            await connection
                                .QueryAsync<Row>("SELECT body, seen AS touched FROM sessions")
                                .ConfigureAwait(false)
                        ).Select(r => r.Of<Session>() with { Seen = r.At!.Value }),
                    ],
                    (
                        await connection
                            .QueryAsync<(string Name, string Value)>("SELECT name, value FROM access_settings")
                            .ConfigureAwait(false)
                    ).ToDictionary(s => s.Name, s => s.Value)
                );
            })
            .ConfigureAwait(false);
    }

    public async Task<bool> SaveAsync(Account account, AuditLine? audit)
    {
        var saved = true;
        await database
            .WriteAsync(async connection =>
            {
                var row = new
                {
                    account.Id,
                    name = account.Name.ToLowerInvariant(),
                    outside = account.Issuer is null ? null : $"{account.Issuer} {account.Subject}",
                    body = JsonSerializer.Serialize(account, Json),
                };
                saved =
                    await connection
                        .ExecuteScalarAsync<long>(
                            "SELECT count(*) FROM accounts WHERE id <> @Id AND (name = @name OR outside = @outside)",
                            row
                        )
                        .ConfigureAwait(false) == 0;
                if (!saved)
                    return;
                await connection
                    .ExecuteAsync(
                        """
                        INSERT INTO accounts (id, name, outside, body) VALUES (@Id, @name, @outside, @body)
                        ON CONFLICT (id) DO UPDATE SET name = excluded.name, outside = excluded.outside,
                            body = excluded.body
                        """,
                        row
                    )
                    .ConfigureAwait(false);
                await AddAsync(connection, audit).ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        return saved;
    }

    public Task RemoveAsync(string account, AuditLine audit) =>
        WriteAsync("DELETE FROM accounts WHERE id = @account", new { account }, audit);

    public Task AddAsync(AccessToken token, AuditLine audit) =>
        WriteAsync(
            "INSERT INTO access_tokens (id, hash, account, body) VALUES (@Id, @Hash, @Account, @body)",
            new
            {
                token.Id,
                token.Hash,
                token.Account,
                body = JsonSerializer.Serialize(token, Json),
            },
            audit
        );

    public Task RemoveTokenAsync(string id, AuditLine audit) =>
        WriteAsync("DELETE FROM access_tokens WHERE id = @id", new { id }, audit);

    public Task AddAsync(Session session, AuditLine audit) =>
        WriteAsync(
            "INSERT INTO sessions (hash, account, body, seen) VALUES (@Hash, @Account, @body, @seen)",
            new
            {
                session.Hash,
                session.Account,
                body = JsonSerializer.Serialize(session, Json),
                seen = Times.Utc(session.Seen),
            },
            audit
        );

    public Task RemoveSessionsAsync(IReadOnlyCollection<string> hashes, AuditLine? audit) =>
        WriteAsync(
            $"DELETE FROM sessions WHERE hash IN ({database.Words.Texts("@hashes")})",
            new { hashes = JsonSerializer.Serialize(hashes) },
            audit
        );

    public Task TouchAsync(
        IReadOnlyDictionary<string, DateTimeOffset> tokens,
        IReadOnlyDictionary<string, DateTimeOffset> sessions
    ) =>
        database.WriteAsync(async connection =>
        {
            foreach (var (id, at) in tokens)
            {
                await connection
                    .ExecuteAsync("UPDATE access_tokens SET used = @at WHERE id = @id", new { id, at = Times.Utc(at) })
                    .ConfigureAwait(false);
            }
            foreach (var (hash, at) in sessions)
            {
                await connection
                    .ExecuteAsync("UPDATE sessions SET seen = @at WHERE hash = @hash", new { hash, at = Times.Utc(at) })
                    .ConfigureAwait(false);
            }
        });

    public Task AddAsync(OneTimeLink link, AuditLine? audit) =>
        WriteAsync(
            """
            DELETE FROM one_time_links WHERE account IS NOT DISTINCT FROM @Account;
            INSERT INTO one_time_links (hash, account, expires) VALUES (@Hash, @Account, @expires)
            """,
            new
            {
                link.Hash,
                link.Account,
                expires = Times.Utc(link.Expires),
            },
            audit
        );

    public async ValueTask<OneTimeLink?> FindLinkAsync(string hash)
    {
        return await database
            .ReadAsync<OneTimeLink?>(async connection =>
            {
                return
                    (
                        await connection
                            .QueryAsync<(string? Account, string Expires)>(
                                "SELECT account, expires FROM one_time_links WHERE hash = @hash",
                                new { hash }
                            )
                            .ConfigureAwait(false)
                    ).ToList()
                        is [var found]
                    ? new(hash, found.Account, Times.Of(found.Expires))
                    : null;
            })
            .ConfigureAwait(false);
    }

    public async Task<bool> TakeLinkAsync(string hash)
    {
        var taken = false;
        await database
            .WriteAsync(async connection =>
                taken =
                    (
                        await connection
                            .ExecuteAsync("DELETE FROM one_time_links WHERE hash = @hash", new { hash })
                            .ConfigureAwait(false)
                    ) > 0
            )
            .ConfigureAwait(false);
        return taken;
    }

    public Task SetAsync(string name, string? value, AuditLine audit) =>
        WriteAsync(
            value is null
                ? "DELETE FROM access_settings WHERE name = @name"
                : "INSERT INTO access_settings (name, value) VALUES (@name, @value) "
                    + "ON CONFLICT (name) DO UPDATE SET value = excluded.value",
            new { name, value },
            audit
        );

    Task WriteAsync(string sql, object values, AuditLine? audit) =>
        database.WriteAsync(async connection =>
        {
            await connection.ExecuteAsync(sql, values).ConfigureAwait(false);
            await AddAsync(connection, audit).ConfigureAwait(false);
        });

    static async Task AddAsync(DbConnection connection, AuditLine? audit)
    {
        if (audit is not null)
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
    }
}
