using System.Diagnostics;
using GateChain.Storage.Postgres;
using GateChain.Tests;
using Npgsql;

namespace GateChain.Bench;

/// <summary>The engine with its journal in PostgreSQL, against what the same server does with appends alone.</summary>
static class OnPostgres
{
    const int Batch = 500,
        Writers = 2;

    static readonly int[] Nodes = [1, 2, 3];

    public static async Task MeasureAsync(int rounds)
    {
        using var server = PostgreSqlServer.Start(durable: true);
        var floors = new List<double>();
        var engines = Nodes.ToDictionary(n => n, _ => new List<(double Steps, double Ratio)>());
        for (var round = -1; round < rounds; round++)
        {
            var floor = await FloorAsync(await NewAsync(server), TimeSpan.FromSeconds(3));
            foreach (var nodes in Nodes)
            {
                var steps = await StepsAsync(await NewAsync(server), nodes);
                if (round >= 0)
                    engines[nodes].Add((steps, steps / floor));
            }
            if (round >= 0)
                floors.Add(floor);
        }
        Console.WriteLine($"{Writers} connections that append {Batch} rows of 200 bytes: {Median(floors):N0} rows/s");
        foreach (var (nodes, measured) in engines)
        {
            var ratios = measured.Select(m => m.Ratio).Order().ToList();
            Console.WriteLine(
                $"{nodes} engines on one database, 1,000 runs of 10 steps in flight: "
                    + $"{Median(measured.Select(m => m.Steps)):N0} durable steps/s; ratio {Median(ratios):0.00} "
                    + $"[{ratios[0]:0.00}-{ratios[^1]:0.00}]"
            );
        }
    }

    // All of them in this process: what more nodes cost the database, not what more machines bring.
    static async Task<double> StepsAsync(string database, int nodes)
    {
        var node = 0;
        EngineRate.Open = async _ =>
            await PostgresStore.OpenAsync(database, node: nodes == 1 ? null : $"n{Interlocked.Increment(ref node)}.0");
        var rates = await Task.WhenAll(
            Enumerable
                .Range(0, nodes)
                .Select(_ => Task.Run(() => EngineRate.StepsPerSecondAsync(1000 / nodes, 10, waves: 10)))
        );
        return rates.Sum();
    }

    static double Median(IEnumerable<double> values) => values.Order().ElementAt(values.Count() / 2);

    static async Task<string> NewAsync(PostgreSqlServer server)
    {
        var name = $"b{Guid.NewGuid():N}";
        await using var connection = new NpgsqlConnection(server.To("larkmoor"));
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand($"CREATE DATABASE {name}", connection);
        await command.ExecuteNonQueryAsync();
        return server.To(name);
    }

    static async Task<double> FloorAsync(string database, TimeSpan time)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using (
            var command = source.CreateCommand(
                "CREATE TABLE floor (run BIGINT, seq BIGINT, body BYTEA, PRIMARY KEY (run, seq))"
            )
        )
        {
            await command.ExecuteNonQueryAsync();
        }
        var clock = Stopwatch.StartNew();
        var rows = await Task.WhenAll(
            Enumerable
                .Range(0, Writers)
                .Select(async writer =>
                {
                    await using var connection = await source.OpenConnectionAsync();
                    var (written, body) = (0L, new byte[200]);
                    while (clock.Elapsed < time)
                    {
                        await using var transaction = await connection.BeginTransactionAsync();
                        await using var insert = new NpgsqlCommand(
                            "INSERT INTO floor SELECT * FROM unnest($1, $2, $3)",
                            connection
                        );
                        insert.Parameters.AddWithValue(
                            Enumerable.Range(0, Batch).Select(i => (long)(i * Writers + writer)).ToArray()
                        );
                        insert.Parameters.AddWithValue(Enumerable.Repeat(written / Batch, Batch).ToArray());
                        insert.Parameters.AddWithValue(Enumerable.Repeat(body, Batch).ToArray());
                        await insert.ExecuteNonQueryAsync();
                        await transaction.CommitAsync();
                        written += Batch;
                    }
                    return written;
                })
        );
        return rows.Sum() / clock.Elapsed.TotalSeconds;
    }
}
