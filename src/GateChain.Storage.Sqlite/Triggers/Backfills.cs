using System.Text.Json;
using Dapper;

namespace GateChain.Storage.Sqlite;

/// <summary>The backfills in the database file. Thread-safe.</summary>
sealed class Backfills(SqliteFile file, SqliteWriter writer) : IBackfills
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
        await writer
            .WriteAsync(connection =>
            {
                number = connection.ExecuteScalar<long>(
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
                        backfill.NewestFirst,
                        backfill.Keeps,
                        backfill.By,
                        at = Times.Utc(backfill.At),
                        state = (int)backfill.State,
                    }
                );
                connection.Execute(
                    """
                    INSERT INTO backfill_times (backfill, place, due, since)
                    SELECT @number, key, value ->> 0, value ->> 1 FROM json_each(@times)
                    """,
                    new
                    {
                        number,
                        times = JsonSerializer.Serialize(
                            times.Select(t => new[] { Times.Utc(t.Due), Times.Utc(t.From) })
                        ),
                    }
                );
                AuditLog.Add(connection, audit with { Object = $"{audit.Object} {number}" });
            })
            .ConfigureAwait(false);
        return number;
    }

    public ValueTask<Backfill?> FindAsync(long number) => new(Query("WHERE number = @number", number).FirstOrDefault());

    public ValueTask<IReadOnlyList<Backfill>> ListAsync() => new(Query("ORDER BY number DESC LIMIT 500", 0));

    List<Backfill> Query(string rest, long number)
    {
        using var connection = file.Open();
        return
        [
            .. connection
                .Query<Row>($"SELECT {Columns} FROM backfills {rest}", new { number })
                .Select(r => r.ToBackfill()),
        ];
    }

    public ValueTask<IReadOnlyList<BackfillTime>> TimesAsync(long number)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<(string Due, string Since)>(
                    "SELECT due, since FROM backfill_times WHERE backfill = @number ORDER BY place",
                    new { number }
                )
                .Select(t => new BackfillTime(Times.Of(t.Due), Times.Of(t.Since))),
        ]);
    }

    public ValueTask<IReadOnlyList<BackfillFire>> FiresAsync(long number)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<(string Key, long Fate, long? Run, string? Why)>(
                    "SELECT key, fate, run, why FROM fires WHERE backfill = @number ORDER BY number",
                    new { number }
                )
                .Select(f => new BackfillFire(f.Key, (FireFate)f.Fate, f.Run, f.Why)),
        ]);
    }

    public Task SetStateAsync(long number, BackfillState state, AuditLine? audit) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute(
                "UPDATE backfills SET state = @state WHERE number = @number",
                new { number, state = (int)state }
            );
            if (audit is not null)
                AuditLog.Add(connection, audit);
        });
}
