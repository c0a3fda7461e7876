using Npgsql;

namespace GateChain.Tests;

/// <summary>PostgreSQL with a database <c>larkmoor</c> and a user <c>loader</c>.</summary>
sealed class PostgreSqlServer : ServerProcess
{
    public const string Password = "made-up-for-tests";

    static string Bin(string name) =>
        Path.Combine(Directory.GetDirectories("/usr/lib/postgresql").Order().Last(), "bin", name);

    PostgreSqlServer(string folder, int port, bool durable)
        : base(
            "postgres",
            folder,
            port,
            Bin("postgres"),
            "-D",
            Path.Combine(folder, "data"),
            "-p",
            port.ToString(),
            "-c",
            "listen_addresses=127.0.0.1",
            "-c",
            "unix_socket_directories=",
            "-c",
            durable ? "fsync=on" : "fsync=off"
        ) =>
        Await(() =>
        {
            using var connection = new NpgsqlConnection(
                $"Host=127.0.0.1;Port={port};Username=loader;Password={Password}"
                    + ";Database=postgres;Pooling=False;Timeout=2"
            );
            connection.Open();
            using var command = new NpgsqlCommand("CREATE DATABASE larkmoor", connection);
            command.ExecuteNonQuery();
        });

    /// <summary>How a database of it is reached.</summary>
    public string To(string database) =>
        $"Host=127.0.0.1;Port={Port};Username=loader;Password={Password};Database={database}";

    /// <param name="durable">Whether it waits for the disk; a killed process loses nothing without.</param>
    public static PostgreSqlServer Start(bool durable = false)
    {
        var folder = FolderOf("postgres");
        var password = Path.Combine(folder, "password");
        File.WriteAllText(password, Password);
        Run(
            "postgres",
            Bin("initdb"),
            "-D",
            Path.Combine(folder, "data"),
            "-U",
            "loader",
            "-A",
            "scram-sha-256",
            "--pwfile",
            password,
            "-E",
            "UTF8",
            "--locale=C"
        );
        return new(folder, FreePort(), durable);
    }
}
