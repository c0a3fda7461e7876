using MySqlConnector;

namespace GateChain.Tests;

/// <summary>MariaDB with a database <c>larkmoor</c> and a user <c>loader</c>.</summary>
sealed class MariaDbServer : ServerProcess
{
    public const string Password = "made-up-for-tests";

    MariaDbServer(string folder, int port)
        : base(
            "mysql",
            folder,
            port,
            "/usr/sbin/mariadbd",
            "--no-defaults",
            $"--datadir={folder}/data",
            $"--port={port}",
            $"--socket={folder}/socket",
            "--bind-address=127.0.0.1",
            $"--init-file={folder}/init.sql",
            "--innodb-flush-log-at-trx-commit=0",
            // As some servers are set: what is too long is cut, and nobody told.
            "--sql-mode="
        ) =>
        Await(() =>
        {
            using var connection = new MySqlConnection(
                $"Server=127.0.0.1;Port={port};User ID=loader;Password={Password}"
                    + ";Database=larkmoor;Pooling=False;Connection Timeout=2"
            );
            connection.Open();
        });

    public static MariaDbServer Start()
    {
        var folder = FolderOf("mysql");
        File.WriteAllText(
            Path.Combine(folder, "init.sql"),
            $"CREATE DATABASE larkmoor;\nCREATE USER 'loader'@'%' IDENTIFIED BY '{Password}';\nGRANT ALL "
                + "ON larkmoor.* TO 'loader'@'%';\n"
        );
        Run(
            "mysql",
            "mariadb-install-db",
            "--no-defaults",
            $"--datadir={folder}/data",
            "--auth-root-authentication-method=normal",
            "--skip-test-db"
        );
        return new(folder, FreePort());
    }
}
