using System.Data.Common;
using System.Text.Json;
using Dapper;
using GateChain.Core.Identity;
using GateChain.Core.Retention;

namespace GateChain.Storage.Sql;

/// <summary>How long runs are kept, in tables. Thread-safe.</summary>
sealed class Retention(ISqlDatabase database) : IRetention
{
    sealed class RuleRow
    {
        public string Place { get; set; } = "";
        public long? Days { get; set; }
        public long AtLeast { get; set; }
        public long? AtMost { get; set; }
    }

    public async ValueTask<KeepRules> RulesAsync()
    {
        var rows = await database
            .ReadAsync(c =>
                c.QueryAsync<RuleRow>("SELECT place, days, at_least AS atLeast, at_most AS atMost FROM keep_rules")
            )
            .ConfigureAwait(false);
        var rules = new Dictionary<KeepPlace, KeepRule>();
        foreach (var row in rows)
        {
            if (KeepPlace.Read(row.Place) is { } place)
                rules[place] = new((int?)row.Days, (int)row.AtLeast, (int?)row.AtMost);
        }
        return new(rules);
    }

    public Task SetRuleAsync(KeepPlace place, KeepRule? rule, AuditLine audit) =>
        database.WriteAsync(async c =>
        {
            await c.ExecuteAsync("DELETE FROM keep_rules WHERE place = @place", new { place = place.ToString() })
                .ConfigureAwait(false);
            if (rule is not null)
            {
                await c.ExecuteAsync(
                        "INSERT INTO keep_rules (place, days, at_least, at_most) VALUES (@place, @days, @least, @most)",
                        new
                        {
                            place = place.ToString(),
                            days = rule.Days,
                            least = rule.AtLeast,
                            most = rule.AtMost,
                        }
                    )
                    .ConfigureAwait(false);
            }
            await AuditLog.AddAsync(c, audit).ConfigureAwait(false);
        });

    sealed class PinRow
    {
        public long Run { get; set; }
        public string ByWhom { get; set; } = "";
        public string At { get; set; } = "";
        public string? Why { get; set; }
    }

    public async ValueTask<IReadOnlyList<Pin>> PinsAsync() =>
        [
            .. (
                await database
                    .ReadAsync(c =>
                        c.QueryAsync<PinRow>("SELECT run, by_whom AS byWhom, at, why FROM pins ORDER BY run")
                    )
                    .ConfigureAwait(false)
            ).Select(r => new Pin(r.Run, r.ByWhom, Times.Of(r.At), r.Why)),
        ];

    public async Task<bool> PinAsync(Pin pin, AuditLine audit)
    {
        var isThere = false;
        await database
            .WriteAsync(
                async c =>
                {
                    isThere =
                        await c.ExecuteScalarAsync<int?>("SELECT 1 FROM runs WHERE id = @run", new { run = pin.Run })
                            .ConfigureAwait(false)
                            is not null;
                    if (!isThere)
                        return;
                    await c.ExecuteAsync("DELETE FROM pins WHERE run = @run", new { run = pin.Run })
                        .ConfigureAwait(false);
                    await c.ExecuteAsync(
                            "INSERT INTO pins (run, by_whom, at, why) VALUES (@run, @by, @at, @why)",
                            new
                            {
                                run = pin.Run,
                                by = pin.By,
                                at = Times.Utc(pin.At),
                                why = pin.Why,
                            }
                        )
                        .ConfigureAwait(false);
                    await AuditLog.AddAsync(c, audit).ConfigureAwait(false);
                },
                sortIn: true
            )
            .ConfigureAwait(false);
        return isThere;
    }

    public Task UnpinAsync(long run, AuditLine audit) =>
        database.WriteAsync(async c =>
        {
            if (await c.ExecuteAsync("DELETE FROM pins WHERE run = @run", new { run }).ConfigureAwait(false) > 0)
                await AuditLog.AddAsync(c, audit).ConfigureAwait(false);
        });

    sealed class ChainRow
    {
        public string Name { get; set; } = "";
        public string Area { get; set; } = "";
    }

    // From one name to the next by the index: a million runs of twenty chains are not read for it.
    const string Chains = """
        WITH RECURSIVE names (name) AS (
          SELECT min(chain) FROM runs
          UNION ALL
          SELECT (SELECT min(chain) FROM runs WHERE chain > names.name) FROM names WHERE names.name IS NOT NULL
        )
        SELECT names.name AS name,
          (SELECT area FROM runs WHERE chain = names.name ORDER BY id DESC LIMIT 1) AS area
        FROM names WHERE names.name IS NOT NULL
        """;

    public async ValueTask<IReadOnlyList<ChainOfRuns>> ChainsAsync()
    {
        await database.WriteAsync(_ => Task.CompletedTask, sortIn: true).ConfigureAwait(false);
        var rows = await database.ReadAsync(c => c.QueryAsync<ChainRow>(Chains)).ConfigureAwait(false);
        return [.. rows.Select(r => new ChainOfRuns(r.Name, new Area(r.Area)))];
    }

    // The number that a run's place from the newest has; 0 when there are not so many.
    const string Nth = """
        SELECT id FROM runs WHERE chain = @chain AND parent IS NULL ORDER BY id DESC LIMIT 1 OFFSET @nth
        """;

    const string Old = """
        SELECT id AS run, epoch FROM runs
        WHERE chain = @chain AND id > @after AND parent IS NULL AND ended IS NOT NULL AND resume_at IS NULL
          AND id <> @good AND id < (SELECT max(id) FROM runs) AND NOT EXISTS (SELECT 1 FROM pins WHERE pins.run = runs.id)
          AND (id < @below OR (id < @floor AND ended < @before))
        ORDER BY id LIMIT @most
        """;

    public async ValueTask<IReadOnlyList<OldRun>> OldAsync(
        string chain,
        KeepRule rule,
        DateTimeOffset now,
        long after,
        int most
    )
    {
        if (rule.IsEverything)
            return [];
        return await database
            .ReadAsync<IReadOnlyList<OldRun>>(async c =>
            {
                async Task<long> NthAsync(int nth) =>
                    await c.ExecuteScalarAsync<long?>(Nth, new { chain, nth }).ConfigureAwait(false) ?? 0;
                var good = await c.ExecuteScalarAsync<long?>(
                        "SELECT max(id) FROM runs WHERE chain = @chain AND parent IS NULL AND state = 'succeeded'",
                        new { chain }
                    )
                    .ConfigureAwait(false)
                    ?? 0;
                var below = rule.AtMost is { } bound ? await NthAsync(bound - 1).ConfigureAwait(false) : 0;
                var (floor, before) = (0L, "");
                if (rule.Days is { } days)
                {
                    before = Times.Utc(now.AddDays(-days));
                    // Who began since then has not ended before: the rest of the chain's runs is not looked at.
                    var since = await c.ExecuteScalarAsync<long?>(
                            "SELECT min(id) FROM runs WHERE started >= @before",
                            new { before }
                        )
                        .ConfigureAwait(false);
                    var least =
                        rule.AtLeast == 0 ? long.MaxValue : await NthAsync(rule.AtLeast - 1).ConfigureAwait(false);
                    floor = Math.Min(since ?? long.MaxValue, least);
                }
                return
                [
                    .. await c.QueryAsync<OldRun>(
                            Old,
                            new
                            {
                                chain,
                                after,
                                good,
                                below,
                                floor,
                                before,
                                most,
                            }
                        )
                        .ConfigureAwait(false),
                ];
            })
            .ConfigureAwait(false);
    }

    const string Called = """
        WITH RECURSIVE called (id) AS (
          SELECT id FROM runs WHERE parent = @run
          UNION ALL
          SELECT runs.id FROM runs JOIN called ON runs.parent = called.id
        )
        SELECT id, CASE WHEN ended IS NULL OR EXISTS (SELECT 1 FROM pins WHERE pins.run = runs.id) THEN 1 ELSE 0 END AS stays
        FROM runs WHERE id IN (SELECT id FROM called)
        """;

    static readonly string[] OfRuns = ["journal", "history", "pins"];

    public async Task<IReadOnlyList<long>> RemoveAsync(IReadOnlyCollection<OldRun> runs)
    {
        var gone = new List<long>();
        await database
            .WriteAsync(
                async c =>
                {
                    gone.Clear();
                    // Numbers go on behind the newest run: as long as it is there, none is given twice.
                    var newest = await c.ExecuteScalarAsync<long?>("SELECT max(id) FROM runs").ConfigureAwait(false);
                    foreach (var run in runs)
                        gone.AddRange(await RemoveAsync(c, run, newest ?? 0).ConfigureAwait(false));
                    var ids = JsonSerializer.Serialize(gone);
                    foreach (var table in OfRuns)
                    {
                        await c.ExecuteAsync(
                                $"DELETE FROM {table} WHERE run IN ({database.Words.Numbers("@ids")})",
                                new { ids }
                            )
                            .ConfigureAwait(false);
                    }
                },
                sortIn: true
            )
            .ConfigureAwait(false);
        return gone;
    }

    static async Task<IReadOnlyList<long>> RemoveAsync(DbConnection c, OldRun old, long newest)
    {
        var called = (
            await c.QueryAsync<(long Id, long Stays)>(Called, new { run = old.Run }).ConfigureAwait(false)
        ).AsList();
        if (called.Any(r => r.Stays == 1 || r.Id == newest))
            return [];
        // Whoever continues with it has raised the epoch; who pins it comes before or after.
        var taken = await c.ExecuteAsync(
                "DELETE FROM runs WHERE id = @run AND epoch = @epoch AND ended IS NOT NULL "
                    + "AND NOT EXISTS (SELECT 1 FROM pins WHERE run = @run)",
                new { run = old.Run, epoch = old.Epoch }
            )
            .ConfigureAwait(false);
        if (taken == 0)
            return [];
        foreach (var (id, _) in called)
            await c.ExecuteAsync("DELETE FROM runs WHERE id = @id", new { id }).ConfigureAwait(false);
        return [old.Run, .. called.Select(r => r.Id)];
    }

    public async ValueTask<IReadOnlySet<long>> ThereAsync(IReadOnlyCollection<long> runs)
    {
        var there = database.Unflushed.All.Select(r => r.Id).Where(runs.Contains).ToHashSet();
        var ids = JsonSerializer.Serialize(runs);
        there.UnionWith(
            await database
                .ReadAsync(c =>
                    c.QueryAsync<long>(
                        $"SELECT id FROM runs WHERE id IN ({database.Words.Numbers("@ids")})",
                        new { ids }
                    )
                )
                .ConfigureAwait(false)
        );
        return there;
    }

    sealed class UseRow
    {
        public string What { get; set; } = "";
        public long? Bytes { get; set; }
    }

    public async ValueTask<IReadOnlyList<RoomUse>> UseAsync() =>
        await database
            .ReadAsync<IReadOnlyList<RoomUse>>(async c =>
            {
                var bytes = (await c.QueryAsync<UseRow>(database.Words.Room).ConfigureAwait(false)).ToDictionary(
                    r => r.What,
                    r => r.Bytes
                );
                var all = new List<RoomUse> { new("database", 0, bytes.GetValueOrDefault("database")) };
                foreach (var table in Tables.All.Select(t => t.Name).Append("journal"))
                {
                    var rows = await c.ExecuteScalarAsync<long>($"SELECT count(*) FROM {table}").ConfigureAwait(false);
                    all.Add(new(table, rows, bytes.GetValueOrDefault(table), IsPart: true));
                }
                return all;
            })
            .ConfigureAwait(false);
}
