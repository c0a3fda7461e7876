using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>The secrets in the database file. Thread-safe.</summary>
sealed class SecretStore(ISqlDatabase database) : ISecretStore
{
    sealed class Row
    {
        public string Name { get; set; } = "";
        public string Area { get; set; } = "";
        public string Cipher { get; set; } = "";
        public string Author { get; set; } = "";
        public string Changed { get; set; } = "";
    }

    public async ValueTask<IReadOnlyList<StoredSecret>> AllAsync()
    {
        return await database
            .ReadAsync<IReadOnlyList<StoredSecret>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<Row>("SELECT name, area, cipher, author, changed FROM secrets ORDER BY name")
                            .ConfigureAwait(false)
                    ).Select(r => new StoredSecret(r.Name, new(r.Area), r.Cipher, r.Author, Times.Of(r.Changed))),
                ];
            })
            .ConfigureAwait(false);
    }

    public Task SetAsync(StoredSecret secret, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await connection
                .ExecuteAsync(
                    "INSERT INTO secrets (name, area, cipher, author, changed) VALUES (@Name, @area, @Cipher, @Author, "
                        + "@changed) ON CONFLICT (name) DO UPDATE SET area = excluded.area, "
                        + "cipher = excluded.cipher, "
                        + "author = excluded.author, changed = excluded.changed",
                    new
                    {
                        secret.Name,
                        area = secret.Area.Path,
                        secret.Cipher,
                        secret.Author,
                        changed = Times.Text(secret.Changed),
                    }
                )
                .ConfigureAwait(false);
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
        });

    public Task RemoveAsync(string name, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await connection.ExecuteAsync("DELETE FROM secrets WHERE name = @name", new { name }).ConfigureAwait(false);
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
        });
}
