using System.Net.Sockets;
using System.Text;
using GateChain.Core.Running.Events;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;
using Renci.SshNet;
using Renci.SshNet.Common;

namespace GateChain.Kinds.FileServers;

/// <summary>A connection of type <c>sftp</c>.</summary>
public sealed record SftpSettings
{
    [Setting("The server's name or address.", Required = true)]
    public string Host { get; init; } = "";

    [Setting("Its port.", Min = 1, Max = 65_535)]
    public int Port { get; init; } = 22;

    [Setting("The user's name.", Required = true)]
    public string User { get; init; } = "";

    [Setting("The password, as `secret:name`.", Secret = true)]
    public string? Password { get; init; }

    [Setting("The private key (PEM or OpenSSH), as `secret:name`.", Secret = true)]
    public string? PrivateKey { get; init; }

    [Setting("What the private key is locked with, as `secret:name`.", Secret = true)]
    public string? Passphrase { get; init; }

    [Setting(
        "The fingerprint of the server's key, `SHA256:…`. A server with another one is not spoken to. "
            + "The test of a connection without it says which one the server has."
    )]
    public string? HostKey { get; init; }
}

/// <summary>The server has another key than the one that is expected.</summary>
public sealed class HostKeyException(string host, string found, string? expected)
    : Exception(
        expected is null
            ? $"the key of {host} is not known: it has {found}"
            : $"{host} has another key than it should: {found} instead of {expected}"
    )
{
    /// <summary>What to do about it.</summary>
    public string Advice { get; } =
        expected is null
            ? $"Ask who runs the server whether that is its key, and write hostKey: {found} to the connection."
            : "Somebody may be standing between, or the server was set up again. "
                + "Ask who runs it before the connection is changed. Nothing was sent to it.";
}

/// <summary>Goes to SFTP servers.</summary>
static class SftpConnection
{
    const string Sha = "SHA256:";

    /// <summary>What the type is, and how to see whether it works.</summary>
    public static ConnectionType Type { get; } =
        new(
            "sftp",
            "A server that gives and takes files over SFTP.",
            SettingsShape.Of<SftpSettings>(),
            (connection, use, cancel) =>
                Task.Run(
                    () =>
                    {
                        using var client = Open(connection.As<SftpSettings>(use.Secrets));
                        return $"SFTP {client.ProtocolVersion}, {client.ConnectionInfo.ServerVersion}, "
                            + $"in {client.WorkingDirectory}";
                    },
                    cancel
                ),
            e => e is HostKeyException key ? $"{key.Message}. {key.Advice}" : Error(e)?.Message
        );

    /// <summary>A client that is connected to the right server and signed in.</summary>
    /// <exception cref="HostKeyException">The server has another key.</exception>
    public static SftpClient Open(SftpSettings settings)
    {
        var methods = new List<AuthenticationMethod>();
        if (settings.PrivateKey is { } key)
        {
            using var stream = new MemoryStream(
                Encoding.UTF8.GetBytes(key.Replace("\r", "", StringComparison.Ordinal).TrimEnd() + "\n")
            );
            methods.Add(
                new PrivateKeyAuthenticationMethod(
                    settings.User,
                    settings.Passphrase is null
                        ? new PrivateKeyFile(stream)
                        : new PrivateKeyFile(stream, settings.Passphrase)
                )
            );
        }
        if (settings.Password is { } password)
            methods.Add(new PasswordAuthenticationMethod(settings.User, password));
        if (methods.Count == 0)
            throw new StepFailedException("connection", "an sftp connection needs “password” or “privateKey”");
        var client = new SftpClient(
            new ConnectionInfo(settings.Host, settings.Port, settings.User, [.. methods])
            {
                Timeout = TimeSpan.FromSeconds(15),
            }
        )
        {
            KeepAliveInterval = TimeSpan.FromSeconds(30),
        };
        string? found = null;
        client.HostKeyReceived += (_, e) =>
        {
            found = Sha + e.FingerPrintSHA256.TrimEnd('=');
            e.CanTrust = found == settings.HostKey?.TrimEnd('=');
        };
        try
        {
            client.Connect();
            return client;
        }
        catch (SshConnectionException) when (found is not null && found != settings.HostKey?.TrimEnd('='))
        {
            client.Dispose();
            throw new HostKeyException(settings.Host, found, settings.HostKey);
        }
        catch
        {
            client.Dispose();
            throw;
        }
    }

    /// <summary>What an exception means; null for one of something else.</summary>
    public static StepError? Error(Exception e) =>
        e switch
        {
            HostKeyException key => new("host-key", key.Message, key.Advice),
            SshAuthenticationException => new(
                "login",
                "the server refuses the user, the password or the key",
                "Set the secret again, or correct the user in connections.yaml."
            ),
            SftpPathNotFoundException path => new("no-file", $"the server has no such path: {path.Message}"),
            SftpPermissionDeniedException denied => new("denied", $"the server does not allow it: {denied.Message}"),
            SshOperationTimeoutException => new("unreachable", "the server does not answer"),
            SshConnectionException or SshException => new(
                "cut",
                $"the connection was cut: {e.Message}",
                "A file that was being transferred continues from where it was."
            ),
            SocketException socket => new("unreachable", $"the server can't be reached: {socket.Message}"),
            _ => null,
        };
}
