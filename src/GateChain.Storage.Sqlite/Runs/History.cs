using System.Text.Json;
using Dapper;
using GateChain.Core.History;
using GateChain.Core.Identity;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>What is remembered of legs, in the database file. Thread-safe.</summary>
sealed class History(SqliteFile file, SqliteWriter writer) : IHistory
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
        writer.WriteAsync(connection =>
        {
            foreach (var leg in legs)
            {
                connection.Execute(
                    $"INSERT OR REPLACE INTO history ({Columns}, latest) VALUES (@Run, @Leg, @Chain, @Number, @State, "
                        + "@started, @ended, @IsLate, @source, @shape, @area, @steps, "
                        + "NOT EXISTS (SELECT 1 FROM history WHERE run = @Run AND leg > @Leg))",
                    new
                    {
                        leg.Run,
                        leg.Leg,
                        leg.Chain,
                        leg.Number,
                        leg.State,
                        started = Times.Utc(leg.Started),
                        ended = Times.Utc(leg.Ended),
                        leg.IsLate,
                        area = leg.Area.Path,
                        source = (int)leg.Source,
                        shape = ShapeOf(connection, leg.Steps),
                        steps = LegPacking.Pack(leg.Steps),
                    }
                );
                if (leg.Leg > 1)
                {
                    connection.Execute(
                        "UPDATE history SET latest = 0 WHERE run = @Run AND leg < @Leg AND latest = 1",
                        new { leg.Run, leg.Leg }
                    );
                }
            }
        });

    long ShapeOf(SqliteConnection connection, IReadOnlyList<StepHistory> steps)
    {
        var addresses = JsonSerializer.Serialize(steps.Select(s => s.Address));
        lock (_lock)
        {
            if (_shapes.TryGetValue(addresses, out var known))
                return known;
        }
        // Found in the transaction that may yet be taken back, so it is not remembered here.
        connection.Execute("INSERT OR IGNORE INTO history_shapes (addresses) VALUES (@addresses)", new { addresses });
        return connection.ExecuteScalar<long>(
            "SELECT id FROM history_shapes WHERE addresses = @addresses",
            new { addresses }
        );
    }

    public ValueTask<IReadOnlyList<LegHistory>> OfChainAsync(
        string chain,
        int most,
        long? before = null,
        string? state = null,
        bool tries = false
    ) =>
        Query(
            // A chain may have failed for very long: those of a state are found by their own index.
            "latest = 1 AND chain = @chain AND (@before IS NULL OR run < @before) "
                + $"{(state is null ? "" : "AND state = @state ")}AND (@tries OR source <> 2) "
                + "ORDER BY run DESC LIMIT @most",
            new
            {
                chain,
                before,
                state,
                tries,
                most = Math.Clamp(most, 1, 1000),
            }
        );

    public ValueTask<IReadOnlyList<LegHistory>> OfRunAsync(long run) => Query("run = @run ORDER BY leg", new { run });

    ValueTask<IReadOnlyList<LegHistory>> Query(string condition, object values)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>($"SELECT {Columns} FROM history WHERE {condition}", values)
                .Select(r => new LegHistory(
                    r.Run,
                    (int)r.Leg,
                    r.Chain,
                    (int?)r.Number,
                    r.State,
                    Times.Of(r.Started),
                    Times.Of(r.Ended),
                    r.Late != 0,
                    (LegSource)r.Source,
                    LegPacking.Unpack(AddressesOf(connection, r.Shape), r.Steps)
                )
                {
                    Area = new(r.Area),
                }),
        ]);
    }

    IReadOnlyList<string> AddressesOf(SqliteConnection connection, long shape)
    {
        lock (_lock)
        {
            if (_addresses.TryGetValue(shape, out var known))
                return known;
        }
        var text = connection.ExecuteScalar<string>(
            "SELECT addresses FROM history_shapes WHERE id = @shape",
            new { shape }
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

    public ValueTask<IReadOnlyList<HourCount>> CountAsync(
        DateTimeOffset from,
        DateTimeOffset to,
        IReadOnlyList<Area>? areas = null
    )
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<CountRow>(
                    "SELECT substr(ended, 1, 13) AS hour, state, count(*) AS count FROM history "
                        + "WHERE latest = 1 AND source = 0 AND ended >= @from AND ended < @to "
                        + (areas is null ? "" : $"AND {AreaCondition.Of("history")} ")
                        + "GROUP BY 1, 2 ORDER BY 1, 2",
                    new
                    {
                        from = Times.Utc(from),
                        to = Times.Utc(to),
                        areas = AreaCondition.Value(areas),
                    }
                )
                .Select(r => new HourCount(Times.Of($"{r.Hour}:00:00Z"), r.State, (int)r.Count)),
        ]);
    }

    sealed class MissingRow
    {
        public long Run { get; set; }
        public long Leg { get; set; }
    }

    public ValueTask<IReadOnlyList<LegKey>> MissingAsync(int most, long? before = null)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<MissingRow>(
                    "SELECT id AS run, leg FROM runs WHERE ended IS NOT NULL AND (@before IS NULL OR id < @before) "
                        + "AND NOT EXISTS (SELECT 1 FROM history h WHERE h.run = runs.id AND h.leg = runs.leg) "
                        + "ORDER BY id DESC LIMIT @most",
                    new { before, most }
                )
                .Select(r => new LegKey(r.Run, (int)r.Leg)),
        ]);
    }

    public async Task ClearAsync()
    {
        await writer
            .WriteAsync(connection =>
            {
                connection.Execute("DELETE FROM history");
                connection.Execute("DELETE FROM history_shapes");
            })
            .ConfigureAwait(false);
        lock (_lock)
        {
            _shapes.Clear();
            _addresses.Clear();
        }
    }
}
