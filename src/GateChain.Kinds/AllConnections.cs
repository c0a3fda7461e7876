using GateChain.Kinds.Connections;
using GateChain.Kinds.Databases;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.FileServers.Ftp;
using GateChain.Kinds.Http;
using GateChain.Kinds.Mail;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds;

/// <summary>Every type of connection this version has.</summary>
public static class AllConnections
{
    public static IReadOnlyList<ConnectionType> Types { get; } =
    [
        .. Dialects.All.Select(Dialects.TypeOf),
        HttpConnection.Type,
        SmtpConnection.Type,
        SftpConnection.Type,
        FtpConnection.Type,
        Buckets.S3,
        Buckets.Azure,
        new(
            "folder",
            "A folder that file steps may name as `connection`.",
            SettingsShape.Of<FolderSettings>(),
            Folder,
            e => e is IOException or UnauthorizedAccessException ? e.Message : null
        ),
    ];

    static Task<string> Folder(Connection connection, ConnectionUse use, CancellationToken cancel)
    {
        var path = Path.GetFullPath(connection.As<FolderSettings>(use.Secrets).Path, use.WorkFolder);
        return Task.FromResult($"{Directory.GetFileSystemEntries(path).Length} entries in {path}");
    }
}
