using System.Net.Sockets;

namespace GateChain.Tests;

/// <summary>A stand-in for a store of objects, of the npm packages in <c>tests/emulators</c>.</summary>
sealed class ObjectStore : ServerProcess
{
    /// <summary>The account and its key that Azurite always has; made up by it, and known to all.</summary>
    public const string Account = "devstoreaccount1",
        AccountKey = "Eby8vdM02xNOcqFlqUwJPLlmEtlCDXJ1OUzFT50uSRZ6IFsuFq2UVErCz4I6tq/K1SZFPTOtr/KBHBeksoGMGw==";

    ObjectStore(string folder, int port, params IReadOnlyList<string> arguments)
        : base(null, folder, port, "node", arguments) =>
        Await(() =>
        {
            using var client = new TcpClient("127.0.0.1", port);
        });

    static string Module(string path) => Path.Combine(MadeDocs.Root, "tests/emulators/node_modules", path);

    /// <summary>A bucket <c>larkmoor</c> behind the S3 protocol, for the keys <c>S3RVER</c>.</summary>
    public static ObjectStore S3()
    {
        var (folder, port) = (FolderOf(null), FreePort());
        return new(
            folder,
            port,
            Module("s3rver/bin/s3rver.js"),
            "--directory",
            folder,
            "--address",
            "127.0.0.1",
            "--port",
            $"{port}",
            "--silent",
            "--configure-bucket",
            "larkmoor"
        );
    }

    /// <summary>An account without containers.</summary>
    public static ObjectStore Azure()
    {
        var (folder, port) = (FolderOf(null), FreePort());
        return new(
            folder,
            port,
            Module("azurite/dist/src/blob/main.js"),
            "--location",
            folder,
            "--blobHost",
            "127.0.0.1",
            "--blobPort",
            $"{port}",
            "--silent",
            "--skipApiVersionCheck",
            "--disableTelemetry"
        );
    }
}
