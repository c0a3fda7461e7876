using Dapper;

namespace GateChain.Storage.Sqlite;

/// <summary>What chains keep, in the database file. Thread-safe.</summary>
sealed class KeptValues(SqliteFile file, SqliteWriter writer) : IKeptValues
{
    sealed class Row
    {
        public string Chain { get; set; } = "";
        public string Profile { get; set; } = "";
        public long Version { get; set; }
        public string Content { get; set; } = "";
        public long? Run { get; set; }
        public string? ByWhom { get; set; }
        public string At { get; set; } = "";

        public KeptSet ToSet() =>
            new(Chain, Profile, Version, Content)
            {
                Run = Run,
                By = ByWhom,
                At = Times.Of(At),
            };
    }

    /// <summary>Sets values; the journal's writer prepares the same and binds its values in this order.</summary>
    internal const string Put = """
        INSERT OR REPLACE INTO kept_sets (chain, profile, version, content, run, by_whom, at)
        VALUES (@Chain, @Profile, @Version, @Values, @Run, @By, @at)
        """;

    const string Columns = "chain, profile, version, content, run, by_whom AS byWhom, at";

    public ValueTask<KeptSet?> FindAsync(string chain, string profile)
    {
        using var connection = file.Open();
        return new(
            connection
                .QueryFirstOrDefault<Row>(
                    $"SELECT {Columns} FROM kept_sets WHERE chain = @chain AND profile = @profile",
                    new { chain, profile }
                )
                ?.ToSet()
        );
    }

    public ValueTask<IReadOnlyList<KeptSet>> ListAsync(string chain)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>($"SELECT {Columns} FROM kept_sets WHERE chain = @chain ORDER BY profile", new { chain })
                .Select(r => r.ToSet()),
        ]);
    }

    public Task SetAsync(KeptSet set, AuditLine audit) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute(
                Put,
                new
                {
                    set.Chain,
                    set.Profile,
                    set.Version,
                    set.Values,
                    set.Run,
                    set.By,
                    at = Times.Utc(set.At),
                }
            );
            AuditLog.Add(connection, audit);
        });
}
