using System.Text.Json;
using Dapper;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>What is known of triggers, in the database file. Thread-safe.</summary>
sealed class TriggerStore(SqliteFile file, SqliteWriter writer) : ITriggerStore
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

    public ValueTask<IReadOnlyList<TriggerState>> StatesAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<StateRow>(
                    """
                    SELECT name, is_on AS isOn, file_says AS fileSays, since, by_whom AS byWhom, switched, mark, text, memory
                    FROM trigger_states ORDER BY name
                    """
                )
                .Select(r => r.ToState()),
        ]);
    }

    public Task SaveAsync(TriggerState state, AuditLine? audit = null) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute(
                """
                INSERT INTO trigger_states (name, is_on, file_says, since, by_whom, switched, mark, text, memory)
                VALUES (@Name, @IsOn, @FileSays, @since, @By, @switched, @mark, @Text, @Memory)
                ON CONFLICT (name) DO UPDATE SET is_on = excluded.is_on, file_says = excluded.file_says, since = excluded.since,
                  by_whom = excluded.by_whom, switched = excluded.switched, text = excluded.text,
                  memory = coalesce(excluded.memory, memory),
                  mark = CASE WHEN mark IS NULL OR mark < excluded.mark THEN excluded.mark ELSE mark END
                """,
                new
                {
                    state.Name,
                    state.IsOn,
                    state.FileSays,
                    since = Times.Utc(state.Since),
                    state.By,
                    switched = state.Switched is { } at ? Times.Utc(at) : null,
                    mark = state.Mark is { } mark ? Times.Utc(mark) : null,
                    state.Text,
                    state.Memory,
                }
            );
            if (audit is not null)
                AuditLog.Add(connection, audit);
        });

    public Task RenameAsync(string from, string to) =>
        writer.WriteAsync(connection =>
        {
            if (connection.ExecuteScalar<long>("SELECT count(*) FROM trigger_states WHERE name = @to", new { to }) > 0)
                return;
            connection.Execute(
                """
                UPDATE trigger_states SET name = @to WHERE name = @from;
                UPDATE OR IGNORE trigger_keys SET fired_by = @to WHERE fired_by = @from;
                """,
                new { from, to }
            );
        });

    public async Task<long?> RecordAsync(NewFire fire, AuditLine? audit = null)
    {
        long? number = null;
        await writer
            .WriteFireAsync(
                (connection, statements) =>
                {
                    if (statements.IsTaken(fire))
                        return;
                    number = statements.Add(fire, null);
                    if (audit is not null)
                        AuditLog.Add(connection, audit);
                }
            )
            .ConfigureAwait(false);
        return number;
    }

    public ValueTask<IReadOnlyList<StoredFire>> ListAsync(FireQuery query) =>
        new(
            Fires(
                """
                (@Trigger IS NULL OR fired_by = @Trigger) AND (@fate IS NULL OR fate = @fate) AND (@since IS NULL OR at >= @since)
                AND (@Run IS NULL OR run = @Run) AND (@Backfill IS NULL OR backfill = @Backfill) AND (@Before IS NULL OR number < @Before)
                AND (@names IS NULL OR fired_by IN (SELECT value FROM json_each(@names)))
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
        );

    public ValueTask<StoredFire?> FindAsync(long number) =>
        new(Fires("number = @number", new { number }).FirstOrDefault());

    public ValueTask<StoredFire?> FindAsync(string trigger, string key) =>
        new(
            Fires("fired_by = @trigger AND key = @key ORDER BY run IS NULL, number DESC LIMIT 1", new { trigger, key })
                .FirstOrDefault()
        );

    List<StoredFire> Fires(string condition, object values)
    {
        using var connection = file.Open();
        return
        [
            .. connection
                .Query<FireRow>($"SELECT {FireColumns} FROM fires WHERE {condition}", values)
                .Select(r => r.ToFire()),
        ];
    }

    public ValueTask<IReadOnlyList<(string Key, long Run)>> StartedAsync(string trigger, string beginning)
    {
        using var connection = file.Open();
        return new([
            .. connection.Query<(string, long)>(
                """
                SELECT key, run FROM fires
                WHERE fired_by = @trigger AND run IS NOT NULL AND substr(key, 1, length(@beginning)) = @beginning
                """,
                new { trigger, beginning }
            ),
        ]);
    }

    public ValueTask<IReadOnlySet<string>> TakenAsync(string trigger, IReadOnlyCollection<string> keys)
    {
        using var connection = file.Open();
        return new(
            connection
                .Query<string>(
                    """
                    SELECT key FROM trigger_keys
                    WHERE fired_by = @trigger AND key IN (SELECT value FROM json_each(@keys))
                    """,
                    new { trigger, keys = JsonSerializer.Serialize(keys) }
                )
                .ToHashSet()
        );
    }

    public ValueTask<IReadOnlyList<string>> KeysAsync(string trigger)
    {
        using var connection = file.Open();
        return new([
            .. connection.Query<string>("SELECT key FROM trigger_keys WHERE fired_by = @trigger", new { trigger }),
        ]);
    }

    public Task ChangeKeysAsync(
        string trigger,
        IReadOnlyCollection<string> take,
        IReadOnlyCollection<string> release,
        string? memory = null
    ) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute(
                """
                INSERT OR IGNORE INTO trigger_keys (fired_by, key, at)
                  SELECT @trigger, value, strftime('%Y-%m-%dT%H:%M:%fZ', 'now') FROM json_each(@take);
                DELETE FROM trigger_keys WHERE fired_by = @trigger AND key IN (SELECT value FROM json_each(@release));
                """,
                new
                {
                    trigger,
                    take = JsonSerializer.Serialize(take),
                    release = JsonSerializer.Serialize(release),
                }
            );
            if (memory is not null)
                Remember(connection, trigger, memory);
        });

    public Task RememberAsync(string trigger, string memory) =>
        writer.WriteAsync(connection => Remember(connection, trigger, memory));

    static void Remember(SqliteConnection connection, string trigger, string memory) =>
        connection.Execute("UPDATE trigger_states SET memory = @memory WHERE name = @trigger", new { trigger, memory });

    public Task ForgetAsync(DateTimeOffset fires, DateTimeOffset keys) =>
        writer.WriteAsync(connection =>
            connection.Execute(
                """
                DELETE FROM fires WHERE at < @fires;
                DELETE FROM trigger_keys WHERE at < @keys AND key NOT LIKE 'file:%';
                """,
                new { fires = Times.Utc(fires), keys = Times.Utc(keys) }
            )
        );

    public ValueTask<IReadOnlyList<Hold>> HoldsAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<HoldRow>("SELECT area, by_whom AS byWhom, at, why FROM holds ORDER BY area")
                .Select(r => r.ToHold()),
        ]);
    }

    public Task SetHoldAsync(string area, Hold? hold, AuditLine audit) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute("DELETE FROM holds WHERE area = @area", new { area });
            if (hold is not null)
            {
                connection.Execute(
                    "INSERT INTO holds (area, by_whom, at, why) VALUES (@area, @By, @at, @Why)",
                    new
                    {
                        area,
                        hold.By,
                        at = Times.Utc(hold.At),
                        hold.Why,
                    }
                );
            }
            AuditLog.Add(connection, audit);
        });

    public async Task<bool> IsMovedAsync(string place)
    {
        string? before = null;
        await writer
            .WriteAsync(connection =>
            {
                before = connection.ExecuteScalar<string?>("SELECT place FROM place");
                if (before != place)
                    connection.Execute("INSERT OR REPLACE INTO place (only, place) VALUES (1, @place)", new { place });
            })
            .ConfigureAwait(false);
        return before is not null && before != place;
    }
}
