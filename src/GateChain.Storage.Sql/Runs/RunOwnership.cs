using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>
/// Who owns a run, by the epoch in its line. Every claim has all that was written before in the tables: epochs change
/// only when nothing is left elsewhere. Thread-safe.
/// </summary>
sealed class RunOwnership(ISqlDatabase database, RunStore runs) : IRunOwnership
{
    public async Task<Claim?> ClaimAsync(long run)
    {
        RunRow? claimed = null;
        await database
            .WriteAsync(
                async connection =>
                    claimed = await connection
                        .QueryFirstOrDefaultAsync<RunRow>(
                            $"UPDATE runs SET epoch = epoch + 1 WHERE id = @run RETURNING {RunRow.Columns}",
                            new { run }
                        )
                        .ConfigureAwait(false),
                sortIn: true
            )
            .ConfigureAwait(false);
        return claimed is null ? null : new(claimed.ToStoredRun(), claimed.Epoch);
    }

    public async Task<IReadOnlyList<Claim>> ClaimUnendedAsync()
    {
        IEnumerable<RunRow> claimed = [];
        await database
            .WriteAsync(
                async connection =>
                    claimed = await connection
                        .QueryAsync<RunRow>(
                            $"UPDATE runs SET epoch = epoch + 1 WHERE ended IS NULL RETURNING {RunRow.Columns}"
                        )
                        .ConfigureAwait(false),
                sortIn: true
            )
            .ConfigureAwait(false);
        return [.. claimed.OrderBy(r => r.Id).Select(r => new Claim(r.ToStoredRun(), r.Epoch))];
    }

    public ValueTask<IReadOnlyList<DueRun>> NextDueAsync(DueRun? after, int most) => NextDueAsync(runs, after, most);

    /// <summary>The same for other ways to own runs.</summary>
    public static async ValueTask<IReadOnlyList<DueRun>> NextDueAsync(RunStore runs, DueRun? after, int most) =>
        [
            .. (await runs.ToResumeAsync().ConfigureAwait(false))
                .Select(h => new DueRun(h.Id, h.ResumeAt!.Value))
                .Where(d => after is not { } last || (d.At, d.Run).CompareTo((last.At, last.Run)) > 0)
                .OrderBy(d => d.At)
                .ThenBy(d => d.Run)
                .Take(Math.Clamp(most, 1, 500)),
        ];
}
