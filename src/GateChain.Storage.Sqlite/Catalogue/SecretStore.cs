using Dapper;

namespace GateChain.Storage.Sqlite;

/// <summary>The secrets in the database file. Thread-safe.</summary>
sealed class SecretStore(SqliteFile file, SqliteWriter writer) : ISecretStore
{
    sealed class Row
    {
        public string Name { get; set; } = "";
        public string Cipher { get; set; } = "";
        public string Author { get; set; } = "";
        public string Changed { get; set; } = "";
    }

    public ValueTask<IReadOnlyList<StoredSecret>> AllAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>("SELECT name, cipher, author, changed FROM secrets ORDER BY name")
                .Select(r => new StoredSecret(r.Name, r.Cipher, r.Author, Times.Of(r.Changed))),
        ]);
    }

    public Task SetAsync(StoredSecret secret, AuditLine audit) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute(
                "INSERT INTO secrets (name, cipher, author, changed) VALUES (@Name, @Cipher, @Author, "
                    + "@changed) ON CONFLICT (name) DO UPDATE SET cipher = excluded.cipher, "
                    + "author = excluded.author, changed = excluded.changed",
                new
                {
                    secret.Name,
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
