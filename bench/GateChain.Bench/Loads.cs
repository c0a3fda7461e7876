using System.Diagnostics;
using System.Globalization;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
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

    sealed record Target(
        string Name,
        Connection Connection,
        Func<string, string, ProcessStartInfo> Loader,
        Func<string, ProcessStartInfo> Client
    );

    /// <param name="rows">Rows of the loads that are compared.</param>
    /// <param name="many">Rows of the load whose memory is told; 0 for none.</param>
    /// <param name="columns">Columns of the file, 5 or more.</param>
    public static async Task MeasureAsync(int rows, int many, int columns)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-load-").FullName;
        try
        {
            var (small, large) = (Path.Combine(folder, "small.csv"), Path.Combine(folder, "large.csv"));
            await RowFile.WriteAsync(small, rows, columns);
            using var postgres = PostgreSqlServer.Start();
            using var maria = MariaDbServer.Start();
            var targets = Targets(folder, postgres, maria).ToList();
            Console.WriteLine(
                $"kind: load, {rows:N0} rows of {columns} columns of a CSV file into a table that is empty; "
                    + $"median of {Rounds} rounds, its ratio to the database's own loader"
            );
            foreach (var target in targets)
                await CompareAsync(target, folder, small, rows, columns);
            if (many == 0)
                return;
            await RowFile.WriteAsync(large, many, columns);
            foreach (var target in targets)
            {
                Run(target.Client("DROP TABLE IF EXISTS ours"));
                Run(target.Client(RowFile.Table("ours", columns)));
                PeakMemory.Forget();
                var before = PeakMemory.MiB();
                var took = await LoadAsync(target, folder, large);
                Console.WriteLine(
                    $"{target.Name}: {many:N0} rows in {took:0} s, {many / took:N0} a second; "
                        + $"memory of this process at most {PeakMemory.MiB():N0} MiB (before {before:N0})"
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

    static async Task CompareAsync(Target target, string folder, string file, int rows, int columns)
    {
        List<double> ours = [],
            ratios = [];
        for (var round = -1; round < Rounds; round++)
        {
            Run(target.Client("DROP TABLE IF EXISTS ours"));
            Run(target.Client("DROP TABLE IF EXISTS theirs"));
            foreach (var table in (string[])["ours", "theirs"])
                Run(target.Client(RowFile.Table(table, columns)));
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
        var result = await new LoadKind().RunAsync(settings, Alone.In(folder, target.Connection), default);
        return result.Error is { } error
            ? throw new InvalidOperationException($"{target.Name}: {error.Message} {error.Detail}")
            : clock.Elapsed.TotalSeconds;
    }

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
}
