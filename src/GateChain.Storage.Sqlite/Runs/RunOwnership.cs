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
        HeadRow? claimed = null;
        await writer
            .WriteAsync(
                c =>
                    claimed = c.QueryFirstOrDefault<HeadRow>(
                        $"UPDATE runs SET epoch = epoch + 1 WHERE id = @run RETURNING {HeadRow.Columns}",
                        new { run }
                    ),
                sortIn: true
            )
            .ConfigureAwait(false);
        return claimed is null ? null : new(claimed.ToHead(), claimed.Epoch);
    }

    public async Task<IReadOnlyList<Claim>> ClaimUnendedAsync()
    {
        List<HeadRow> claimed = [];
        await writer
            .WriteAsync(
                c =>
                    claimed = [
                        .. c.Query<HeadRow>(
                            $"UPDATE runs SET epoch = epoch + 1 WHERE ended IS NULL RETURNING {HeadRow.Columns}"
                        ),
                    ],
                sortIn: true
            )
            .ConfigureAwait(false);
        return [.. claimed.OrderBy(r => r.Id).Select(r => new Claim(r.ToHead(), r.Epoch))];
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
