using Dapper;

namespace GateChain.Storage.Sqlite;

/// <summary>The secrets in the database file. Thread-safe.</summary>
sealed class SecretStore(SqliteFile file, SqliteWriter writer) : ISecretStore
{
    sealed class Row
    {
        public string Name { get; set; } = "";
        public string Area { get; set; } = "";
        public string Cipher { get; set; } = "";
        public string Author { get; set; } = "";
        public string Changed { get; set; } = "";
    }

    public ValueTask<IReadOnlyList<StoredSecret>> AllAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>("SELECT name, area, cipher, author, changed FROM secrets ORDER BY name")
                .Select(r => new StoredSecret(r.Name, new(r.Area), r.Cipher, r.Author, Times.Of(r.Changed))),
        ]);
    }

    public Task SetAsync(StoredSecret secret, AuditLine audit) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute(
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
            );
            AuditLog.Add(connection, audit);
        });

    public Task RemoveAsync(string name, AuditLine audit) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute("DELETE FROM secrets WHERE name = @name", new { name });
            AuditLog.Add(connection, audit);
        });
}
