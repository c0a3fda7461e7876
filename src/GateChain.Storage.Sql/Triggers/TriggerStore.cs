using System.Data.Common;
using System.Text.Json;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>What is known of triggers, in the database file. Thread-safe.</summary>
sealed class TriggerStore(ISqlDatabase database) : ITriggerStore
{
    sealed class StateRow
    {
        public string Name { get; set; } = "";
        public long IsOn { get; set; }
        public long FileSays { get; set; }
        public string Since { get; set; } = "";
        public string? ByWhom { get; set; }
        public string? Switched { get; set; }
        public string? Mark { get; set; }
        public string Text { get; set; } = "";
        public string? Memory { get; set; }

        public TriggerState ToState() =>
            new(Name, IsOn != 0, FileSays != 0, Times.Of(Since))
            {
                By = ByWhom,
                Switched = Switched is null ? null : Times.Of(Switched),
                Mark = Mark is null ? null : Times.Of(Mark),
                Text = Text,
                Memory = Memory,
            };
    }

    sealed class FireRow
    {
        public long Number { get; set; }
        public string FiredBy { get; set; } = "";
        public string At { get; set; } = "";
        public string Key { get; set; } = "";
        public string Event { get; set; } = "";
        public long Fate { get; set; }
        public string? Why { get; set; }
        public long? Run { get; set; }
        public long? Backfill { get; set; }

        public StoredFire ToFire() =>
            new(Number, new(FiredBy, Times.Of(At), Key, Event, (FireFate)Fate, Why) { Backfill = Backfill }, Run);
    }

    sealed class HoldRow
    {
        public string Area { get; set; } = "";
        public string ByWhom { get; set; } = "";
        public string At { get; set; } = "";
        public string? Why { get; set; }

        public Hold ToHold() => new(Area, ByWhom, Times.Of(At), Why);
    }

    const string FireColumns = "number, fired_by AS firedBy, at, key, event, fate, why, run, backfill";

    public async ValueTask<IReadOnlyList<TriggerState>> StatesAsync()
    {
        return await database
            .ReadAsync<IReadOnlyList<TriggerState>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<StateRow>(
                                """
                                SELECT name, is_on AS isOn, file_says AS fileSays, since, by_whom AS byWhom, switched, mark, text, memory
                                FROM trigger_states ORDER BY name
                                """
                            )
                            .ConfigureAwait(false)
                    ).Select(r => r.ToState()),
                ];
            })
            .ConfigureAwait(false);
    }

    public Task SaveAsync(TriggerState state, AuditLine? audit = null) =>
        database.WriteAsync(async connection =>
        {
            await connection
                .ExecuteAsync(
                    """
                    INSERT INTO trigger_states (name, is_on, file_says, since, by_whom, switched, mark, text, memory)
                    VALUES (@Name, @IsOn, @FileSays, @since, @By, @switched, @mark, @Text, @Memory)
                    ON CONFLICT (name) DO UPDATE SET is_on = excluded.is_on, file_says = excluded.file_says, since = excluded.since,
                      by_whom = excluded.by_whom, switched = excluded.switched, text = excluded.text,
                      memory = coalesce(excluded.memory, trigger_states.memory),
                      mark = CASE WHEN trigger_states.mark IS NULL OR trigger_states.mark < excluded.mark
                        THEN excluded.mark ELSE trigger_states.mark END
                    """,
                    new
                    {
                        state.Name,
                        IsOn = state.IsOn ? 1 : 0,
                        FileSays = state.FileSays ? 1 : 0,
                        since = Times.Utc(state.Since),
                        state.By,
                        switched = state.Switched is { } at ? Times.Utc(at) : null,
                        mark = state.Mark is { } mark ? Times.Utc(mark) : null,
                        state.Text,
                        state.Memory,
                    }
                )
                .ConfigureAwait(false);
            if (audit is not null)
                await AuditLog.AddAsync(connection, audit);
        });

    public Task RenameAsync(string from, string to) =>
        database.WriteAsync(async connection =>
        {
            if (
                (
                    await connection
                        .ExecuteScalarAsync<long>("SELECT count(*) FROM trigger_states WHERE name = @to", new { to })
                        .ConfigureAwait(false)
                ) > 0
            )
            {
                return;
            }
            await connection
                .ExecuteAsync(
                    """
                    UPDATE trigger_states SET name = @to WHERE name = @from;
                    UPDATE trigger_keys SET fired_by = @to WHERE fired_by = @from
                      AND NOT EXISTS (SELECT 1 FROM trigger_keys taken
                        WHERE taken.fired_by = @to AND taken.key = trigger_keys.key);
                    """,
                    new { from, to }
                )
                .ConfigureAwait(false);
        });

    public async Task<long?> RecordAsync(NewFire fire, AuditLine? audit = null)
    {
        long? number = null;
        await database
            .WriteAsync(async connection =>
            {
                number = null;
                if (await Fires.IsTakenAsync(connection, fire).ConfigureAwait(false))
                    return;
                var added = await Fires.AddAsync(connection, fire, null).ConfigureAwait(false);
                if (audit is not null)
                    await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
                await Fires.TellAsync(connection, fire, added).ConfigureAwait(false);
                number = added;
            })
            .ConfigureAwait(false);
        return number;
    }

    public async ValueTask<IReadOnlyList<StoredFire>> ListAsync(FireQuery query) =>
        [
            .. await FiresAsync(
                    $"""
                    (@Trigger IS NULL OR fired_by = @Trigger) AND (@fate IS NULL OR fate = @fate) AND (@since IS NULL OR at >= @since)
                    AND (@Run IS NULL OR run = @Run) AND (@Backfill IS NULL OR backfill = @Backfill) AND (@Before IS NULL OR number < @Before)
                    AND (@names IS NULL OR fired_by IN ({database.Words.Texts("@names")}))
                    ORDER BY number DESC LIMIT @limit
                    """,
                    new
                    {
                        query.Trigger,
                        fate = (int?)query.Fate,
                        since = query.Since is { } since ? Times.Utc(since) : null,
                        query.Run,
                        query.Backfill,
                        query.Before,
                        names = query.Triggers is null ? null : JsonSerializer.Serialize(query.Triggers),
                        limit = Math.Clamp(query.Limit, 1, 1000),
                    }
                )
                .ConfigureAwait(false),
        ];

    public async ValueTask<StoredFire?> FindAsync(long number) =>
        (await FiresAsync("number = @number", new { number }).ConfigureAwait(false)).FirstOrDefault();

    public async ValueTask<StoredFire?> FindAsync(string trigger, string key) =>
        (
            await FiresAsync(
                    "fired_by = @trigger AND key = @key ORDER BY run IS NULL, number DESC LIMIT 1",
                    new { trigger, key }
                )
                .ConfigureAwait(false)
        ).FirstOrDefault();

    async Task<IEnumerable<StoredFire>> FiresAsync(string condition, object values)
    {
        return await database
            .ReadAsync<IEnumerable<StoredFire>>(async connection =>
            {
                var rows = await connection
                    .QueryAsync<FireRow>($"SELECT {FireColumns} FROM fires WHERE {condition}", values)
                    .ConfigureAwait(false);
                return rows.Select(r => r.ToFire());
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<(string Key, long Run)>> StartedAsync(string trigger, string beginning)
    {
        return await database
            .ReadAsync<IReadOnlyList<(string Key, long Run)>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<(string, long)>(
                                """
                                SELECT key, run FROM fires
                                WHERE fired_by = @trigger AND run IS NOT NULL AND substr(key, 1, length(@beginning)) = @beginning
                                """,
                                new { trigger, beginning }
                            )
                            .ConfigureAwait(false)
                    ),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlySet<string>> TakenAsync(string trigger, IReadOnlyCollection<string> keys)
    {
        return await database
            .ReadAsync<IReadOnlySet<string>>(async connection =>
            {
                return (
                    await connection
                        .QueryAsync<string>(
                            $"""
                            SELECT key FROM trigger_keys
                            WHERE fired_by = @trigger AND key IN ({database.Words.Texts("@keys")})
                            """,
                            new { trigger, keys = JsonSerializer.Serialize(keys) }
                        )
                        .ConfigureAwait(false)
                ).ToHashSet();
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<string>> KeysAsync(string trigger)
    {
        return await database
            .ReadAsync<IReadOnlyList<string>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<string>(
                                "SELECT key FROM trigger_keys WHERE fired_by = @trigger",
                                new { trigger }
                            )
                            .ConfigureAwait(false)
                    ),
                ];
            })
            .ConfigureAwait(false);
    }

    public Task ChangeKeysAsync(
        string trigger,
        IReadOnlyCollection<string> take,
        IReadOnlyCollection<string> release,
        string? memory = null
    ) =>
        database.WriteAsync(async connection =>
        {
            var at = Times.Utc(DateTimeOffset.UtcNow);
            await connection
                .ExecuteAsync(
                    Fires.Take,
                    take.Select(key => new
                    {
                        trigger,
                        key,
                        at,
                    })
                )
                .ConfigureAwait(false);
            await connection
                .ExecuteAsync(
                    "DELETE FROM trigger_keys WHERE fired_by = @trigger "
                        + $"AND key IN ({database.Words.Texts("@release")})",
                    new { trigger, release = JsonSerializer.Serialize(release) }
                )
                .ConfigureAwait(false);
            if (memory is not null)
                await RememberAsync(connection, trigger, memory).ConfigureAwait(false);
        });

    public Task RememberAsync(string trigger, string memory) =>
        database.WriteAsync(connection => RememberAsync(connection, trigger, memory));

    static Task RememberAsync(DbConnection connection, string trigger, string memory) =>
        connection.ExecuteAsync(
            "UPDATE trigger_states SET memory = @memory WHERE name = @trigger",
            new { trigger, memory }
        );

    public Task ForgetAsync(DateTimeOffset fires, DateTimeOffset keys) =>
        database.WriteAsync(connection =>
            connection.ExecuteAsync(
                """
                DELETE FROM fires WHERE at < @fires;
                DELETE FROM trigger_keys WHERE at < @keys AND key NOT LIKE 'file:%';
                """,
                new { fires = Times.Utc(fires), keys = Times.Utc(keys) }
            )
        );

    public async ValueTask<IReadOnlyList<Hold>> HoldsAsync()
    {
        return await database
            .ReadAsync<IReadOnlyList<Hold>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<HoldRow>("SELECT area, by_whom AS byWhom, at, why FROM holds ORDER BY area")
                            .ConfigureAwait(false)
                    ).Select(r => r.ToHold()),
                ];
            })
            .ConfigureAwait(false);
    }

    public Task SetHoldAsync(string area, Hold? hold, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await connection.ExecuteAsync("DELETE FROM holds WHERE area = @area", new { area }).ConfigureAwait(false);
            if (hold is not null)
            {
                await connection
                    .ExecuteAsync(
                        "INSERT INTO holds (area, by_whom, at, why) VALUES (@area, @By, @at, @Why)",
                        new
                        {
                            area,
                            hold.By,
                            at = Times.Utc(hold.At),
                            hold.Why,
                        }
                    )
                    .ConfigureAwait(false);
            }
            await AuditLog.AddAsync(connection, audit);
        });

    public ValueTask<string?> PlaceAsync() =>
        database.ReadAsync(c => c.ExecuteScalarAsync<string?>("SELECT place FROM place"));

    public Task SetPlaceAsync(string place) =>
        database.WriteAsync(c =>
            c.ExecuteAsync(
                "INSERT INTO place (\"only\", place) VALUES (1, @place) "
                    + "ON CONFLICT (\"only\") DO UPDATE SET place = excluded.place",
                new { place }
            )
        );
}
