using System.Text.Json;
using Dapper;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>Accounts, tokens, sessions and links in the database file. Thread-safe.</summary>
sealed class AccessStore(SqliteFile file, SqliteWriter writer) : IAccessStore
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

    public ValueTask<AccessContent> LoadAsync()
    {
        using var connection = file.Open();
        return new(
            new AccessContent(
                [.. connection.Query<Row>("SELECT body FROM accounts ORDER BY name").Select(r => r.Of<Account>())],
                [
                    .. connection
                        .Query<Row>("SELECT body, used AS touched FROM access_tokens")
                        .Select(r => r.Of<AccessToken>() with { Used = r.At }),
                ],
                [
                    .. connection
                        .Query<Row>("SELECT body, seen AS touched FROM sessions")
                        .Select(r => r.Of<Session>() with { Seen = r.At!.Value }),
                ],
                connection
                    .Query<(string Name, string Value)>("SELECT name, value FROM access_settings")
                    .ToDictionary(s => s.Name, s => s.Value)
            )
        );
    }

    const int IsTaken = 19;

    public async Task<bool> SaveAsync(Account account, AuditLine? audit)
    {
        var saved = true;
        await writer
            .WriteAsync(connection =>
            {
                try
                {
                    connection.Execute(
                        """
                        INSERT INTO accounts (id, name, outside, body) VALUES (@Id, @name, @outside, @body)
                        ON CONFLICT (id) DO UPDATE SET name = excluded.name, outside = excluded.outside,
                            body = excluded.body
                        """,
                        new
                        {
                            account.Id,
                            name = account.Name.ToLowerInvariant(),
                            outside = account.Issuer is null ? null : $"{account.Issuer} {account.Subject}",
                            body = JsonSerializer.Serialize(account, Json),
                        }
                    );
                }
                catch (SqliteException e) when (e.SqliteErrorCode == IsTaken)
                {
                    saved = false;
                    return;
                }
                Add(connection, audit);
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
        WriteAsync("DELETE FROM sessions WHERE hash IN @hashes", new { hashes }, audit);

    public Task TouchAsync(
        IReadOnlyDictionary<string, DateTimeOffset> tokens,
        IReadOnlyDictionary<string, DateTimeOffset> sessions
    ) =>
        writer.WriteAsync(connection =>
        {
            foreach (var (id, at) in tokens)
            {
                connection.Execute(
                    "UPDATE access_tokens SET used = @at WHERE id = @id",
                    new { id, at = Times.Utc(at) }
                );
            }
            foreach (var (hash, at) in sessions)
            {
                connection.Execute(
                    "UPDATE sessions SET seen = @at WHERE hash = @hash",
                    new { hash, at = Times.Utc(at) }
                );
            }
        });

    public Task AddAsync(OneTimeLink link, AuditLine? audit) =>
        WriteAsync(
            """
            DELETE FROM one_time_links WHERE account IS @Account;
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

    public ValueTask<OneTimeLink?> FindLinkAsync(string hash)
    {
        using var connection = file.Open();
        return
            connection
                .Query<(string? Account, string Expires)>(
                    "SELECT account, expires FROM one_time_links WHERE hash = @hash",
                    new { hash }
                )
                .ToList()
                is [var found]
            ? new(new OneTimeLink(hash, found.Account, Times.Of(found.Expires)))
            : new((OneTimeLink?)null);
    }

    public async Task<bool> TakeLinkAsync(string hash)
    {
        var taken = false;
        await writer
            .WriteAsync(connection =>
                taken = connection.Execute("DELETE FROM one_time_links WHERE hash = @hash", new { hash }) > 0
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
        writer.WriteAsync(connection =>
        {
            connection.Execute(sql, values);
            Add(connection, audit);
        });

    static void Add(SqliteConnection connection, AuditLine? audit)
    {
        if (audit is not null)
            AuditLog.Add(connection, audit);
    }
}
