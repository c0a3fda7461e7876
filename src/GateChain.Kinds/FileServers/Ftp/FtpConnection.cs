using System.Net.Sockets;
using System.Security.Authentication;
using GateChain.Core.Running.Events;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>The type <c>ftp</c>, and what goes wrong there.</summary>
static class FtpConnection
{
    public static ConnectionType Type { get; } =
        new(
            "ftp",
            "A server that gives and takes files over FTP, enciphered (FTPS) unless it is told otherwise.",
            SettingsShape.Of<FtpSettings>(),
            (connection, use, cancel) =>
                Task.Run(
                    () =>
                    {
                        using var server = new FtpServer(connection.As<FtpSettings>(use.Secrets), cancel);
                        return server.Greeting();
                    },
                    cancel
                ),
            e => e is FtpCertificateException found ? $"{found.Message}. {found.Advice}" : Error(e)?.Message
        );

    /// <summary>What an exception means; null for one of something else.</summary>
    public static StepError? Error(Exception e) =>
        e switch
        {
            FtpCertificateException found => new("certificate", found.Message, found.Advice),
            FtpException { Command: "PASS" or "USER", Reply.Code: 530 or 430 or 331 or 332 } refused => new(
                "login",
                $"the server refuses the user or the password: {refused.Message}",
                "Set the secret again, or correct the user in connections.yaml."
            ),
            FtpException { Command: "AUTH" } refused => new(
                "no-tls",
                $"the server does not encipher: {refused.Message}",
                "Nothing was said to it. tls: none in connections.yaml sends the password for all to read."
            ),
            FtpException { Reply.Code: 550 or 553 or 450 } refused => new(
                "no-file",
                $"the server does not do it ({refused.Command}): {refused.Message}",
                "There is no such path, or this user may not do it."
            ),
            FtpException { Reply.Code: 452 or 552 } refused => new("full", $"the server is full: {refused.Message}"),
            FtpException { Reply.Code: 425 } refused => new(
                "no-data",
                $"the server does not take the connection for data: {refused.Message}",
                "A server that wants TLS sessions used again has to be named by its name, not by an address."
            ),
            FtpException { Reply.Code: 421 or 426 } refused => new(
                "cut",
                $"the server ends the connection: {refused.Message}",
                "A file that was being transferred continues from where it was."
            ),
            FtpException refused => new("refused", $"the server refuses {refused.Command}: {refused.Message}"),
            FtpCutException => new("cut", e.Message, "A file that was being transferred continues from where it was."),
            AuthenticationException cipher => new("no-tls", $"the server can't be enciphered with: {cipher.Message}"),
            SocketException socket => new("unreachable", $"the server can't be reached: {socket.Message}"),
            IOException { InnerException: SocketException socket } => new(
                "cut",
                $"the connection was cut: {socket.Message}"
            ),
            _ => null,
        };
}
