using Dapper;
using GateChain.Storage.Sql;

namespace GateChain.Storage.Postgres;

/// <summary>Who owns a run, where several services may. Thread-safe.</summary>
sealed class PostgresOwnership(PostgresDatabase database, RunStore runs) : IRunOwnership
{
    public async Task<Claim?> ClaimAsync(long run)
    {
        IReadOnlyList<RunRow> claimed = [];
        await database
            .WriteAsync(async connection =>
                claimed = await Claims.TakeAsync(connection, database.Node, [run]).ConfigureAwait(false)
            )
            .ConfigureAwait(false);
        return claimed is [var own] ? new(own.ToStoredRun(), own.Epoch) : null;
    }

    public async Task<IReadOnlyList<Claim>> ClaimUnendedAsync()
    {
        IReadOnlyList<RunRow> claimed = [];
        await database
            .WriteAsync(async connection =>
            {
                var unended = await connection
                    .QueryAsync<long>("SELECT id FROM runs WHERE ended IS NULL")
                    .ConfigureAwait(false);
                claimed = await Claims
                    .TakeAsync(connection, database.Node, [.. unended], "ended IS NULL")
                    .ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        return [.. claimed.OrderBy(r => r.Id).Select(r => new Claim(r.ToStoredRun(), r.Epoch))];
    }

    public ValueTask<IReadOnlyList<DueRun>> NextDueAsync(DueRun? after, int most) =>
        RunOwnership.NextDueAsync(runs, after, most);
}
