using System.Diagnostics;
using System.Globalization;
using GateChain.Client;
using GateChain.Tests;
using Npgsql;

namespace GateChain.Bench;

/// <summary>
/// Real nodes on one PostgreSQL: durable steps a second of one, two and three, beside what the same server does with
/// appends alone; and what a node takes beside a service that has its database alone. All of it shares the processors.
/// </summary>
static class Cluster
{
    // So many runs are in flight at each node; each has a loop of steps that do nothing but count.
    const int InFlight = 60;

    static readonly TimeSpan Window = TimeSpan.FromSeconds(8);

    const string Chain = """
        chain: counts
        vars: { n: { type: int, initial: 0 } }
        steps:
          again:
            kind: repeat
            until: vars.n >= 100000
            limit: 100000
            steps:
              one: { kind: assign, assign: { vars.n: vars.n + 1 } }
        """;

    public static async Task MeasureAsync(int rounds)
    {
        foreach (var nodes in (int[])[0, 1, 2, 3])
        {
            var (rates, floors, ratios) = (new List<double>(), new List<double>(), new List<double>());
            var (memory, start) = (0.0, 0.0);
            for (var round = 0; round < rounds; round++)
            {
                using var server = PostgreSqlServer.Start(durable: true);
                var floor = await OnPostgres.FloorAsync(await OnPostgres.NewAsync(server), TimeSpan.FromSeconds(3));
                var (rate, mib, seconds) = await RateAsync(await OnPostgres.NewAsync(server), nodes);
                rates.Add(rate);
                floors.Add(floor);
                ratios.Add(rate / floor);
                (memory, start) = (mib, seconds);
            }
            ratios.Sort();
            Console.WriteLine(
                $"{(nodes == 0 ? "alone" : $"{nodes} nodes")}: {OnPostgres.Median(rates):N0} decisions/s; floor "
                    + $"{OnPostgres.Median(floors):N0} rows/s; ratio {OnPostgres.Median(ratios):0.00} "
                    + $"[{ratios[0]:0.00}-{ratios[^1]:0.00}]; each {memory:0} MiB, {start:0.0} s from start to listening"
            );
        }
    }

    // Without a node: a service that has the database alone.
    static async Task<(double Rate, double MiB, double Start)> RateAsync(string database, int count)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-cluster-").FullName;
        var services = new List<Process>();
        try
        {
            await File.WriteAllTextAsync(Path.Combine(folder, "key"), Convert.ToBase64String(new byte[32]));
            var addresses = new List<Uri>();
            var started = 0.0;
            for (var i = 0; i < Math.Max(1, count); i++)
            {
                var clock = Stopwatch.StartNew();
                var (service, address) = await StartAsync(folder, database, i, joins: count > 0);
                started = clock.Elapsed.TotalSeconds;
                services.Add(service);
                addresses.Add(address);
            }
            using (var client = new GateChainClient(addresses[0], "bench"))
            {
                await client.PushAsync(
                    new Dictionary<string, byte[]> { ["counts.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Chain) }
                );
            }
            await Task.Delay(1000);
            foreach (var address in addresses)
            {
                using var client = new GateChainClient(address, "bench");
                for (var i = 0; i < InFlight; i++)
                    await client.StartAsync(new("counts", new Dictionary<string, System.Text.Json.JsonElement>()));
            }
            await Task.Delay(3000);
            var before = await RowsAsync(database);
            var window = Stopwatch.StartNew();
            await Task.Delay(Window);
            var rows = await RowsAsync(database) - before;
            var rate = rows / window.Elapsed.TotalSeconds;
            services[0].Refresh();
            return (rate, services[0].WorkingSet64 / 1048576.0, started);
        }
        finally
        {
            foreach (var service in services)
            {
                service.Kill();
                await service.WaitForExitAsync();
                service.Dispose();
            }
            Directory.Delete(folder, recursive: true);
        }
    }

    static async Task<long> RowsAsync(string database)
    {
        await using var connection = new NpgsqlConnection(database);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(
            "SELECT sum(last) FROM (SELECT max(seq) AS last FROM journal GROUP BY run) AS runs",
            connection
        );
        return Convert.ToInt64(await command.ExecuteScalarAsync(), CultureInfo.InvariantCulture);
    }

    static async Task<(Process Service, Uri Address)> StartAsync(string folder, string database, int number, bool joins)
    {
        var program = Path.GetFullPath(Path.Combine(AppContext.BaseDirectory, "../../GateChain.Cli/release/gatechain"));
        var work = Directory.CreateDirectory(Path.Combine(folder, $"work{number}")).FullName;
        var start = new ProcessStartInfo(
            program,
            [
                "serve",
                "--listen",
                "http://127.0.0.1:0",
                "--data",
                Path.Combine(folder, $"data{number}"),
                "--work",
                work,
                "--database",
                database,
                .. joins ? ["--join", "127.0.0.1:0", "--name", $"n{number}"] : Array.Empty<string>(),
            ]
        )
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        start.Environment["GATECHAIN_SECRET_KEY_FILE"] = Path.Combine(folder, "key");
        var service = Process.Start(start)!;
        service.ErrorDataReceived += (_, _) => { };
        service.BeginErrorReadLine();
        var line = await service.StandardOutput.ReadLineAsync();
        return (service, new(line!["Gate Chain listens at ".Length..]));
    }
}
