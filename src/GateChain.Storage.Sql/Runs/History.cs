using System.Data.Common;
using System.Text.Json;
using Dapper;
using GateChain.Core.History;
using GateChain.Core.Identity;

namespace GateChain.Storage.Sql;

/// <summary>What is remembered of legs, in the database file. Thread-safe.</summary>
sealed class History(ISqlDatabase database) : IHistory
{
    // What chains have come to is said once; few are used at a time.
    readonly Dictionary<string, long> _shapes = [];
    readonly Dictionary<long, IReadOnlyList<string>> _addresses = [];
    readonly Lock _lock = new();

    sealed class Row
    {
        public long Run { get; set; }
        public long Leg { get; set; }
        public string Chain { get; set; } = "";
        public long? Number { get; set; }
        public string State { get; set; } = "";
        public string Started { get; set; } = "";
        public string Ended { get; set; } = "";
        public long Late { get; set; }
        public long Source { get; set; }
        public long Shape { get; set; }
        public string Area { get; set; } = "";
        public byte[] Steps { get; set; } = [];
    }

    const string Columns = "run, leg, chain, number, state, started, ended, late, source, shape, area, steps";

    public Task AddAsync(IReadOnlyList<LegHistory> legs) =>
        database.WriteAsync(async connection =>
        {
            foreach (var leg in legs)
            {
                var shape = await ShapeOfAsync(connection, leg.Steps).ConfigureAwait(false);
                await connection
                    .ExecuteAsync(
                        $"""
                        INSERT INTO history ({Columns}, latest)
                        VALUES (@Run, @Leg, @Chain, @Number, @State, @started, @ended, @late, @source, @shape, @area,
                          @steps, CASE WHEN EXISTS (SELECT 1 FROM history WHERE run = @Run AND leg > @Leg) THEN 0 ELSE 1 END)
                        ON CONFLICT (run, leg) DO UPDATE SET chain = excluded.chain, number = excluded.number,
                          state = excluded.state, started = excluded.started, ended = excluded.ended,
                          late = excluded.late, source = excluded.source, shape = excluded.shape,
                          area = excluded.area, steps = excluded.steps, latest = excluded.latest
                        """,
                        new
                        {
                            leg.Run,
                            leg.Leg,
                            leg.Chain,
                            leg.Number,
                            leg.State,
                            started = Times.Utc(leg.Started),
                            ended = Times.Utc(leg.Ended),
                            late = leg.IsLate ? 1 : 0,
                            area = leg.Area.Path,
                            source = (int)leg.Source,
                            shape,
                            steps = LegPacking.Pack(leg.Steps),
                        }
                    )
                    .ConfigureAwait(false);
                if (leg.Leg > 1)
                {
                    await connection
                        .ExecuteAsync(
                            "UPDATE history SET latest = 0 WHERE run = @Run AND leg < @Leg AND latest = 1",
                            new { leg.Run, leg.Leg }
                        )
                        .ConfigureAwait(false);
                }
            }
        });

    async Task<long> ShapeOfAsync(DbConnection connection, IReadOnlyList<StepHistory> steps)
    {
        var addresses = JsonSerializer.Serialize(steps.Select(s => s.Address));
        lock (_lock)
        {
            if (_shapes.TryGetValue(addresses, out var known))
                return known;
        }
        // Found in the transaction that may yet be taken back, so it is not remembered here.
        await connection
            .ExecuteAsync(
                "INSERT INTO history_shapes (addresses) VALUES (@addresses) ON CONFLICT DO NOTHING",
                new { addresses }
            )
            .ConfigureAwait(false);
        return (
            await connection
                .ExecuteScalarAsync<long>(
                    "SELECT id FROM history_shapes WHERE addresses = @addresses",
                    new { addresses }
                )
                .ConfigureAwait(false)
        );
    }

    public async ValueTask<IReadOnlyList<LegHistory>> OfChainAsync(
        string chain,
        int most,
        long? before = null,
        string? state = null,
        bool tries = false
    ) =>
        await QueryAsync(
                // A chain may have failed for very long: those of a state are found by their own index.
                "latest = 1 AND chain = @chain AND (@before IS NULL OR run < @before) "
                    + $"{(state is null ? "" : "AND state = @state ")}AND (@tries = 1 OR source <> 2) "
                    + "ORDER BY run DESC LIMIT @most",
                new
                {
                    chain,
                    before,
                    state,
                    tries = tries ? 1 : 0,
                    most = Math.Clamp(most, 1, 1000),
                }
            )
            .ConfigureAwait(false);

    public async ValueTask<IReadOnlyList<LegHistory>> OfRunAsync(long run) =>
        await QueryAsync("run = @run ORDER BY leg", new { run }).ConfigureAwait(false);

    async Task<IReadOnlyList<LegHistory>> QueryAsync(string condition, object values)
    {
        return await database
            .ReadAsync<IReadOnlyList<LegHistory>>(async connection =>
            {
                var rows = await connection
                    .QueryAsync<Row>($"SELECT {Columns} FROM history WHERE {condition}", values)
                    .ConfigureAwait(false);
                var legs = new List<LegHistory>();
                foreach (var r in rows)
                {
                    var addresses = await AddressesOfAsync(connection, r.Shape).ConfigureAwait(false);
                    legs.Add(
                        new(
                            r.Run,
                            (int)r.Leg,
                            r.Chain,
                            (int?)r.Number,
                            r.State,
                            Times.Of(r.Started),
                            Times.Of(r.Ended),
                            r.Late != 0,
                            (LegSource)r.Source,
                            LegPacking.Unpack(addresses, r.Steps)
                        )
                        {
                            Area = new(r.Area),
                        }
                    );
                }
                return legs;
            })
            .ConfigureAwait(false);
    }

    async Task<IReadOnlyList<string>> AddressesOfAsync(DbConnection connection, long shape)
    {
        lock (_lock)
        {
            if (_addresses.TryGetValue(shape, out var known))
                return known;
        }
        var text = (
            await connection
                .ExecuteScalarAsync<string>("SELECT addresses FROM history_shapes WHERE id = @shape", new { shape })
                .ConfigureAwait(false)
        );
        IReadOnlyList<string> addresses = JsonSerializer.Deserialize<string[]>(text ?? "[]") ?? [];
        lock (_lock)
        {
            // What was read was on disk.
            _addresses[shape] = addresses;
            if (text is not null)
                _shapes[text] = shape;
        }
        return addresses;
    }

    sealed class CountRow
    {
        public string Hour { get; set; } = "";
        public string State { get; set; } = "";
        public long Count { get; set; }
    }

    public async ValueTask<IReadOnlyList<HourCount>> CountAsync(
        DateTimeOffset from,
        DateTimeOffset to,
        IReadOnlyList<Area>? areas = null
    )
    {
        return await database
            .ReadAsync<IReadOnlyList<HourCount>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<CountRow>(
                                "SELECT substr(ended, 1, 13) AS hour, state, count(*) AS count FROM history "
                                    + "WHERE latest = 1 AND source = 0 AND ended >= @from AND ended < @to "
                                    + (areas is null ? "" : $"AND {AreaCondition.Of("history", database.Words)} ")
                                    + "GROUP BY 1, 2 ORDER BY 1, 2",
                                new
                                {
                                    from = Times.Utc(from),
                                    to = Times.Utc(to),
                                    areas = AreaCondition.Value(areas),
                                }
                            )
                            .ConfigureAwait(false)
                    ).Select(r => new HourCount(Times.Of($"{r.Hour}:00:00Z"), r.State, (int)r.Count)),
                ];
            })
            .ConfigureAwait(false);
    }

    sealed class MissingRow
    {
        public long Run { get; set; }
        public long Leg { get; set; }
    }

    public async ValueTask<IReadOnlyList<LegKey>> MissingAsync(int most, long? before = null)
    {
        return await database
            .ReadAsync<IReadOnlyList<LegKey>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<MissingRow>(
                                """
                                SELECT id AS run, leg FROM runs WHERE ended IS NOT NULL AND (@before IS NULL OR id < @before)
                                AND NOT EXISTS (SELECT 1 FROM history h WHERE h.run = runs.id AND h.leg = runs.leg)
                                ORDER BY id DESC LIMIT @most
                                """,
                                new { before, most }
                            )
                            .ConfigureAwait(false)
                    ).Select(r => new LegKey(r.Run, (int)r.Leg)),
                ];
            })
            .ConfigureAwait(false);
    }

    public async Task ClearAsync()
    {
        await database
            .WriteAsync(async connection =>
            {
                await connection.ExecuteAsync("DELETE FROM history").ConfigureAwait(false);
                await connection.ExecuteAsync("DELETE FROM history_shapes").ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        lock (_lock)
        {
            _shapes.Clear();
            _addresses.Clear();
        }
    }
}
