[assembly: AssemblyFixture(typeof(GateChain.Kinds.Tests.Servers.Databases))]

namespace GateChain.Kinds.Tests.Servers;

/// <summary>The servers that tests of this assembly share, each started when the first test asks for it.</summary>
public sealed class Databases : IDisposable
{
    readonly Lazy<PostgreSqlServer> _postgres = new(() => PostgreSqlServer.Start());
    readonly Lazy<MariaDbServer> _maria = new(MariaDbServer.Start);

    /// <summary>Connects a bench, as <c>target</c>, to a database of a type.</summary>
    internal void Connect(Bench bench, string type, string name = "target")
    {
        switch (type)
        {
            case "postgresql":
                Server(_postgres.Value.Port, PostgreSqlServer.Password);
                break;
            case "mysql":
                Server(_maria.Value.Port, MariaDbServer.Password);
                break;
            // Its own way for many rows.
            case "mysql-bulk":
                type = "mysql";
                Server(_maria.Value.Port, MariaDbServer.Password, ("bulk", true));
                break;
            default:
                bench.Connect(name, type, ("path", $"{name}.{type}"));
                break;
        }

        void Server(int port, string password, params (string, object)[] more)
        {
            bench.Secrets["loader"] = password;
            bench.Connect(
                name,
                type,
                [
                    ("host", "127.0.0.1"),
                    ("port", port),
                    ("database", "larkmoor"),
                    ("user", "loader"),
                    ("password", "secret:loader"),
                    .. more,
                ]
            );
        }
    }

    /// <summary>A server for one test alone, which may do to it what it likes.</summary>
    internal static IDisposable ConnectOwn(Bench bench, string type)
    {
        var server = type == "postgresql" ? (ServerProcess)PostgreSqlServer.Start() : MariaDbServer.Start();
        bench.Secrets["loader"] = type == "postgresql" ? PostgreSqlServer.Password : MariaDbServer.Password;
        bench.Connect(
            "target",
            type,
            ("host", "127.0.0.1"),
            ("port", server.Port),
            ("database", "larkmoor"),
            ("user", "loader"),
            ("password", "secret:loader")
        );
        return server;
    }

    public void Dispose()
    {
        if (_postgres.IsValueCreated)
            _postgres.Value.Dispose();
        if (_maria.IsValueCreated)
            _maria.Value.Dispose();
    }
}
