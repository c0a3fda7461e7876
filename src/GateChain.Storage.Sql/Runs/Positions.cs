using System.Data.Common;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>How far steps have got in what they read. Thread-safe.</summary>
sealed class Positions(ISqlDatabase database)
{
    sealed class Row
    {
        public string Chain { get; set; } = "";
        public string Profile { get; set; } = "";
        public string Name { get; set; } = "";
        public string Content { get; set; } = "";
        public long? Run { get; set; }
        public string? Step { get; set; }
        public string? ByWhom { get; set; }
        public string At { get; set; } = "";

        public KeptPosition ToPosition() =>
            new(Chain, Profile, Name, Content)
            {
                Run = Run,
                Step = Step,
                By = ByWhom,
                At = Times.Of(At),
            };
    }

    /// <summary>Sets one; the journal's writer prepares the same and binds its values in this order.</summary>
    internal const string Put = """
        INSERT INTO positions (chain, profile, name, content, run, step, by_whom, at)
        VALUES (@Chain, @Profile, @Name, @Content, @Run, @Step, @By, @at)
        ON CONFLICT (chain, profile, name) DO UPDATE SET content = excluded.content, run = excluded.run,
          step = excluded.step, by_whom = excluded.by_whom, at = excluded.at
        """;

    const string Columns = "chain, profile, name, content, run, step, by_whom AS byWhom, at";

    public ValueTask<IReadOnlyList<KeptPosition>> ListAsync(string chain) =>
        database.ReadAsync<IReadOnlyList<KeptPosition>>(async connection =>
            [
                .. (
                    await connection
                        .QueryAsync<Row>(
                            $"SELECT {Columns} FROM positions WHERE chain = @chain ORDER BY profile, name",
                            new { chain }
                        )
                        .ConfigureAwait(false)
                ).Select(r => r.ToPosition()),
            ]
        );

    public ValueTask<KeptPosition?> FindAsync(string chain, string profile, string name) =>
        database.ReadAsync<KeptPosition?>(async connection =>
            (
                await connection
                    .QueryFirstOrDefaultAsync<Row>(
                        $"SELECT {Columns} FROM positions "
                            + "WHERE chain = @chain AND profile = @profile AND name = @name",
                        new
                        {
                            chain,
                            profile,
                            name,
                        }
                    )
                    .ConfigureAwait(false)
            )?.ToPosition()
        );

    public Task SetAsync(KeptPosition position, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await PutAsync(connection, position).ConfigureAwait(false);
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
        });

    public Task ForgetAsync(string chain, string profile, string name, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await connection
                .ExecuteAsync(
                    "DELETE FROM positions WHERE chain = @chain AND profile = @profile AND name = @name",
                    new
                    {
                        chain,
                        profile,
                        name,
                    }
                )
                .ConfigureAwait(false);
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
        });

    /// <summary>Sets one within a transaction that is continuing.</summary>
    internal static Task PutAsync(DbConnection connection, KeptPosition position) =>
        connection.ExecuteAsync(
            Put,
            new
            {
                position.Chain,
                position.Profile,
                position.Name,
                position.Content,
                position.Run,
                position.Step,
                position.By,
                at = Times.Utc(position.At),
            }
        );
}
