using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>The backfills in the database file. Thread-safe.</summary>
sealed class Backfills(ISqlDatabase database) : IBackfills
{
    sealed class Row
    {
        public long Number { get; set; }
        public string FiredBy { get; set; } = "";
        public string First { get; set; } = "";
        public string Until { get; set; } = "";
        public string Release { get; set; } = "";
        public long Parallel { get; set; }
        public long NewestFirst { get; set; }
        public long Keeps { get; set; }
        public string ByWhom { get; set; } = "";
        public string At { get; set; } = "";
        public long State { get; set; }

        public Backfill ToBackfill() =>
            new(
                Number,
                FiredBy,
                Times.Of(First),
                Times.Of(Until),
                Release,
                (int)Parallel,
                NewestFirst != 0,
                Keeps != 0,
                ByWhom,
                Times.Of(At),
                (BackfillState)State
            );
    }

    const string Columns =
        "number, fired_by AS firedBy, first, until, release, parallel, newest_first AS newestFirst, keeps, "
        + "by_whom AS byWhom, at, state";

    public async Task<long> CreateAsync(Backfill backfill, IReadOnlyList<BackfillTime> times, AuditLine audit)
    {
        var number = 0L;
        await database
            .WriteAsync(async connection =>
            {
                number = (
                    await connection
                        .ExecuteScalarAsync<long>(
                            """
                            INSERT INTO backfills (fired_by, first, until, release, parallel, newest_first, keeps, by_whom, at, state)
                            VALUES (@Trigger, @from, @to, @Release, @Parallel, @NewestFirst, @Keeps, @By, @at, @state) RETURNING number
                            """,
                            new
                            {
                                backfill.Trigger,
                                from = Times.Utc(backfill.From),
                                to = Times.Utc(backfill.To),
                                backfill.Release,
                                backfill.Parallel,
                                NewestFirst = backfill.NewestFirst ? 1 : 0,
                                Keeps = backfill.Keeps ? 1 : 0,
                                backfill.By,
                                at = Times.Utc(backfill.At),
                                state = (int)backfill.State,
                            }
                        )
                        .ConfigureAwait(false)
                );
                await connection
                    .ExecuteAsync(
                        """
                        INSERT INTO backfill_times (backfill, place, due, since) VALUES (@number, @place, @due, @since)
                        """,
                        times.Select(
                            (t, place) =>
                                new
                                {
                                    number,
                                    place,
                                    due = Times.Utc(t.Due),
                                    since = Times.Utc(t.From),
                                }
                        )
                    )
                    .ConfigureAwait(false);
                await AuditLog.AddAsync(connection, audit with { Object = $"{audit.Object} {number}" });
            })
            .ConfigureAwait(false);
        return number;
    }

    public async ValueTask<Backfill?> FindAsync(long number) =>
        (await QueryAsync("WHERE number = @number", number).ConfigureAwait(false)).FirstOrDefault();

    public async ValueTask<IReadOnlyList<Backfill>> ListAsync() =>
        [.. await QueryAsync("ORDER BY number DESC LIMIT 500", 0).ConfigureAwait(false)];

    async Task<IEnumerable<Backfill>> QueryAsync(string rest, long number)
    {
        return await database
            .ReadAsync<IEnumerable<Backfill>>(async connection =>
            {
                return (
                    await connection
                        .QueryAsync<Row>($"SELECT {Columns} FROM backfills {rest}", new { number })
                        .ConfigureAwait(false)
                ).Select(r => r.ToBackfill());
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<BackfillTime>> TimesAsync(long number)
    {
        return await database
            .ReadAsync<IReadOnlyList<BackfillTime>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<(string Due, string Since)>(
                                "SELECT due, since FROM backfill_times WHERE backfill = @number ORDER BY place",
                                new { number }
                            )
                            .ConfigureAwait(false)
                    ).Select(t => new BackfillTime(Times.Of(t.Due), Times.Of(t.Since))),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<BackfillFire>> FiresAsync(long number)
    {
        return await database
            .ReadAsync<IReadOnlyList<BackfillFire>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<(string Key, long Fate, long? Run, string? Why)>(
                                "SELECT key, fate, run, why FROM fires WHERE backfill = @number ORDER BY number",
                                new { number }
                            )
                            .ConfigureAwait(false)
                    ).Select(f => new BackfillFire(f.Key, (FireFate)f.Fate, f.Run, f.Why)),
                ];
            })
            .ConfigureAwait(false);
    }

    public Task SetStateAsync(long number, BackfillState state, AuditLine? audit) =>
        database.WriteAsync(async connection =>
        {
            await connection
                .ExecuteAsync(
                    "UPDATE backfills SET state = @state WHERE number = @number",
                    new { number, state = (int)state }
                )
                .ConfigureAwait(false);
            if (audit is not null)
                await AuditLog.AddAsync(connection, audit);
        });
}
