using Dapper;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// Who owns a run, by the epoch in its line. Every claim has the journal's tail sorted in first: epochs change only
/// when nothing is left there. Thread-safe.
/// </summary>
sealed class RunOwnership(SqliteWriter writer, RunStore runs) : IRunOwnership
{
    public async Task<Claim?> ClaimAsync(long run)
    {
        RunRow? claimed = null;
        await writer
            .WriteAsync(
                c =>
                    claimed = c.QueryFirstOrDefault<RunRow>(
                        $"UPDATE runs SET epoch = epoch + 1 WHERE id = @run RETURNING {RunRow.Columns}",
                        new { run }
                    ),
                sortIn: true
            )
            .ConfigureAwait(false);
        return claimed is null ? null : new(claimed.ToStoredRun(), claimed.Epoch);
    }

    public async Task<IReadOnlyList<Claim>> ClaimUnendedAsync()
    {
        List<RunRow> claimed = [];
        await writer
            .WriteAsync(
                c =>
                    claimed = [
                        .. c.Query<RunRow>(
                            $"UPDATE runs SET epoch = epoch + 1 WHERE ended IS NULL RETURNING {RunRow.Columns}"
                        ),
                    ],
                sortIn: true
            )
            .ConfigureAwait(false);
        return [.. claimed.OrderBy(r => r.Id).Select(r => new Claim(r.ToStoredRun(), r.Epoch))];
    }

    public ValueTask<IReadOnlyList<DueRun>> NextDueAsync(DueRun? after, int most) =>
        new([
            .. runs.ToResume()
                .Select(h => new DueRun(h.Id, h.ResumeAt!.Value))
                .Where(d => after is not { } last || (d.At, d.Run).CompareTo((last.At, last.Run)) > 0)
                .OrderBy(d => d.At)
                .ThenBy(d => d.Run)
                .Take(Math.Clamp(most, 1, 500)),
        ]);
}
