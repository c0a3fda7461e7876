using System.Data.Common;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>What chains keep, in the database file. Thread-safe.</summary>
sealed class KeptValues(ISqlDatabase database) : IKeptValues
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
        INSERT INTO kept_sets (chain, profile, version, content, run, by_whom, at)
        VALUES (@Chain, @Profile, @Version, @Values, @Run, @By, @at)
        ON CONFLICT (chain, profile) DO UPDATE SET version = excluded.version, content = excluded.content,
          run = excluded.run, by_whom = excluded.by_whom, at = excluded.at
        WHERE kept_sets.version < excluded.version
        """;

    const string Columns = "chain, profile, version, content, run, by_whom AS byWhom, at";

    public async ValueTask<KeptSet?> FindAsync(string chain, string profile)
    {
        return await database
            .ReadAsync<KeptSet?>(async connection =>
            {
                return connection
                    .QueryFirstOrDefault<Row>(
                        $"SELECT {Columns} FROM kept_sets WHERE chain = @chain AND profile = @profile",
                        new { chain, profile }
                    )
                    ?.ToSet();
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<KeptSet>> ListAsync(string chain)
    {
        return await database
            .ReadAsync<IReadOnlyList<KeptSet>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<Row>(
                                $"SELECT {Columns} FROM kept_sets WHERE chain = @chain ORDER BY profile",
                                new { chain }
                            )
                            .ConfigureAwait(false)
                    ).Select(r => r.ToSet()),
                ];
            })
            .ConfigureAwait(false);
    }

    public Task SetAsync(KeptSet set, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await PutAsync(connection, set).ConfigureAwait(false);
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
        });

    readonly Positions _positions = new(database);

    public ValueTask<IReadOnlyList<KeptPosition>> PositionsAsync(string chain) => _positions.ListAsync(chain);

    public ValueTask<KeptPosition?> FindPositionAsync(string chain, string profile, string name) =>
        _positions.FindAsync(chain, profile, name);

    public Task SetPositionAsync(KeptPosition position, AuditLine audit) => _positions.SetAsync(position, audit);

    public Task ForgetPositionAsync(string chain, string profile, string name, AuditLine audit) =>
        _positions.ForgetAsync(chain, profile, name, audit);

    /// <summary>Sets values within a transaction that is continuing.</summary>
    internal static Task PutAsync(DbConnection connection, KeptSet set) =>
        connection.ExecuteAsync(
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
}
