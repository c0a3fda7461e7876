using System.Diagnostics;
using System.Globalization;
using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Tests;

namespace GateChain.Bench;

/// <summary>
/// Loads a CSV file into a table by <c>kind: load</c>, and the same file into a table like it by the database's own
/// bulk loader, one after the other in each round. Needs the servers and clients of Debian's packages postgresql,
/// mariadb-server and sqlite3.
/// </summary>
static class Loads
{
    const int Rounds = 3;
    const string Table =
        "CREATE TABLE {0} (pickup_id VARCHAR(20), depot VARCHAR(20), farm_id VARCHAR(20), "
        + "taken_at VARCHAR(30), litres DOUBLE PRECISION)";

    sealed record Target(
        string Name,
        Connection Connection,
        Func<string, string, ProcessStartInfo> Loader,
        Func<string, ProcessStartInfo> Client
    );

    public static async Task MeasureAsync(int rows, int many)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-load-").FullName;
        try
        {
            var (small, large) = (Path.Combine(folder, "small.csv"), Path.Combine(folder, "large.csv"));
            await WriteAsync(small, rows);
            using var postgres = PostgreSqlServer.Start();
            using var maria = MariaDbServer.Start();
            var targets = Targets(folder, postgres, maria).ToList();
            Console.WriteLine(
                $"kind: load, {rows:N0} rows of a CSV file into a table that is empty; "
                    + $"median of {Rounds} rounds, its ratio to the database's own loader"
            );
            foreach (var target in targets)
                await CompareAsync(target, folder, small, rows);
            if (many == 0)
                return;
            await WriteAsync(large, many);
            foreach (var target in targets)
            {
                Run(target.Client("DROP TABLE IF EXISTS ours"));
                Run(target.Client(Table.Replace("{0}", "ours", StringComparison.Ordinal)));
                ForgetPeak();
                var before = Peak();
                var took = await LoadAsync(target, folder, large);
                Console.WriteLine(
                    $"{target.Name}: {many:N0} rows in {took:0} s, {many / took:N0} a second; "
                        + $"memory of this process at most {Peak():N0} MiB (before {before:N0})"
                );
            }
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    static IEnumerable<Target> Targets(string folder, PostgreSqlServer postgres, MariaDbServer maria)
    {
        var sqlite = Path.Combine(folder, "warehouse.db");
        // As safe as ours: every commit on disk.
        yield return new(
            "SQLite (sqlite3 .import)",
            new("target", "sqlite", Settings(("path", sqlite))),
            (file, table) =>
                Program(
                    "sqlite3",
                    "-cmd",
                    "PRAGMA synchronous = FULL",
                    "-cmd",
                    ".mode csv",
                    sqlite,
                    $".import --skip 1 {file} {table}"
                ),
            sql => Program("sqlite3", sqlite, sql)
        );
        var psql = new[]
        {
            "-h",
            "127.0.0.1",
            "-p",
            Text(postgres.Port),
            "-U",
            "loader",
            "-d",
            "larkmoor",
            "-q",
            "-v",
            "ON_ERROR_STOP=1",
            "-c",
        };
        yield return new(
            "PostgreSQL (psql \\copy)",
            new(
                "target",
                "postgresql",
                Settings(
                    ("host", "127.0.0.1"),
                    ("port", postgres.Port),
                    ("database", "larkmoor"),
                    ("user", "loader"),
                    ("password", PostgreSqlServer.Password)
                )
            ),
            (file, table) =>
                Program(
                    "psql",
                    [.. psql, $"\\copy {table} FROM '{file}' CSV HEADER"],
                    "PGPASSWORD",
                    PostgreSqlServer.Password
                ),
            sql => Program("psql", [.. psql, sql], "PGPASSWORD", PostgreSqlServer.Password)
        );
        var mysql = new[]
        {
            "--no-defaults",
            "-h",
            "127.0.0.1",
            "-P",
            Text(maria.Port),
            "-u",
            "loader",
            "--local-infile=1",
            "larkmoor",
            "-e",
        };
        // Both ways of ours: with statements of many rows, and the server's own.
        foreach (var bulk in (bool[])[false, true])
        {
            yield return new(
                $"MariaDB (LOAD DATA){(bulk ? ", bulk: true" : "")}",
                new(
                    "target",
                    "mysql",
                    Settings(
                        ("host", "127.0.0.1"),
                        ("port", maria.Port),
                        ("database", "larkmoor"),
                        ("user", "loader"),
                        ("password", MariaDbServer.Password),
                        ("bulk", bulk)
                    )
                ),
                (file, table) =>
                    Program(
                        "mariadb",
                        [
                            .. mysql,
                            $"LOAD DATA LOCAL INFILE '{file}' INTO TABLE {table} FIELDS TERMINATED BY ',' "
                                + "IGNORE 1 LINES",
                        ],
                        "MYSQL_PWD",
                        MariaDbServer.Password
                    ),
                sql => Program("mariadb", [.. mysql, sql], "MYSQL_PWD", MariaDbServer.Password)
            );
        }
    }

    static async Task CompareAsync(Target target, string folder, string file, int rows)
    {
        List<double> ours = [],
            ratios = [];
        for (var round = -1; round < Rounds; round++)
        {
            Run(target.Client("DROP TABLE IF EXISTS ours"));
            Run(target.Client("DROP TABLE IF EXISTS theirs"));
            foreach (var table in (string[])["ours", "theirs"])
                Run(target.Client(Table.Replace("{0}", table, StringComparison.Ordinal)));
            var clock = Stopwatch.StartNew();
            Run(target.Loader(file, "theirs"));
            var theirs = clock.Elapsed.TotalSeconds;
            var took = await LoadAsync(target, folder, file);
            if (round < 0)
                continue;
            ours.Add(rows / took);
            ratios.Add(theirs / took);
        }
        ours.Sort();
        ratios.Sort();
        Console.WriteLine(
            $"{target.Name}: {ours[Rounds / 2]:N0} rows/s, ratio {ratios[Rounds / 2]:0.00} ["
                + $"{ratios[0]:0.00}-{ratios[^1]:0.00}]"
        );
    }

    static async Task<double> LoadAsync(Target target, string folder, string file)
    {
        var clock = Stopwatch.StartNew();
        var settings = Value.Map(
            ("from", Value.Map(("csv", Value.String(file)))),
            ("into", Value.Map(("connection", Value.String("target")), ("table", Value.String("ours"))))
        );
        var result = await new LoadKind().RunAsync(
            settings,
            new()
            {
                Run = 1,
                Step = "load",
                Attempt = 1,
                WorkKey = new(Guid.NewGuid().ToString("N"), "load", 0),
                WorkFolder = folder,
                StepsFolder = folder,
                Folders = new(folder),
                Log = new NoLog(),
                Connections = new One(target.Connection),
                Secrets = new One(target.Connection),
                Attachment = _ => null,
                Time = TimeProvider.System,
            },
            default
        );
        return result.Error is { } error
            ? throw new InvalidOperationException($"{target.Name}: {error.Message} {error.Detail}")
            : clock.Elapsed.TotalSeconds;
    }

    static async Task WriteAsync(string path, int rows)
    {
        var chance = new Random(20261122);
        await using var file = new StreamWriter(path, false, new UTF8Encoding(false), 1 << 16);
        await file.WriteAsync("pickup_id,depot,farm_id,taken_at,litres\n");
        for (var i = 1; i <= rows; i++)
        {
            await file.WriteAsync(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"N{i:00000000},north,farm-{chance.Next(1, 181):000},2026-11-22T"
                        + $"{chance.Next(3, 22):00}:{chance.Next(60):00}:00Z,"
                        + $"{chance.Next(2000, 98000) / 10.0:0.0}\n"
                )
            );
        }
    }

    // What the rounds before have taken is given back, and the kernel begins again with the highest.
    static void ForgetPeak()
    {
        GC.Collect(2, GCCollectionMode.Aggressive, blocking: true, compacting: true);
        File.WriteAllText("/proc/self/clear_refs", "5");
    }

    // In MiB; the kernel keeps the highest.
    static long Peak() =>
        long.Parse(
            File.ReadLines("/proc/self/status")
                .First(l => l.StartsWith("VmHWM", StringComparison.Ordinal))
                .Split(' ', StringSplitOptions.RemoveEmptyEntries)[^2],
            CultureInfo.InvariantCulture
        ) / 1024;

    static string Text(int number) => number.ToString(CultureInfo.InvariantCulture);

    static Dictionary<string, Value> Settings(params ReadOnlySpan<(string Key, object Value)> settings)
    {
        var all = new Dictionary<string, Value>();
        foreach (var (key, value) in settings)
        {
            all[key] = value switch
            {
                int n => Value.Int(n),
                bool b => Value.Bool(b),
                _ => Value.String((string)value),
            };
        }
        return all;
    }

    static ProcessStartInfo Program(string program, params string[] arguments) =>
        new(program, arguments) { RedirectStandardOutput = true, RedirectStandardError = true };

    static ProcessStartInfo Program(string program, string[] arguments, string variable, string value)
    {
        var start = Program(program, arguments);
        start.Environment[variable] = value;
        return start;
    }

    static string Run(ProcessStartInfo start)
    {
        using var process = Process.Start(start)!;
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        process.WaitForExit();
        return process.ExitCode == 0
            ? output.Result
            : throw new InvalidOperationException($"{start.FileName}: {error.Result}");
    }

    sealed class NoLog : IAttemptLog
    {
        public void Out(string line) { }

        public void Err(string line) { }

        public void Note(string line) { }
    }

    sealed class One(Connection connection) : IConnections, ISecrets
    {
        public Connection? Find(string name) => connection;

        string? ISecrets.Find(string name) => null;
    }
}
