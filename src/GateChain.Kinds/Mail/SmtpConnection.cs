using System.Net.Sockets;
using GateChain.Core.Running.Events;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;
using MailKit.Net.Smtp;
using MailKit.Security;

namespace GateChain.Kinds.Mail;

/// <summary>A connection of type <c>smtp</c>.</summary>
public sealed record SmtpSettings
{
    [Setting("The mail server's name or address.", Required = true)]
    public string Host { get; init; } = "";

    [Setting("Its port: 587 for `startTls`, 465 for `tls`, 25 for `off` when absent.", Min = 1, Max = 65_535)]
    public int? Port { get; init; }

    [Setting("`startTls` asks for TLS after the greeting, `tls` from the first byte on, `off` does without.")]
    public SmtpTls Tls { get; init; } = SmtpTls.StartTls;

    [Setting("The user's name; nobody signs in when absent.")]
    public string? User { get; init; }

    [Setting("The password, as `secret:name`.", Secret = true)]
    public string? Password { get; init; }

    [Setting("Who mails are from, for example `Larkmoor nightly <nightly@larkmoor.example>`.", Required = true)]
    public string From { get; init; } = "";
}

public enum SmtpTls
{
    StartTls,
    Tls,
    Off,
}

/// <summary>Goes to mail servers.</summary>
/// <remarks>Source: RFC 5321, RFC 3207, RFC 4954.</remarks>
static class SmtpConnection
{
    /// <summary>What the type is, and how to see whether it works.</summary>
    public static ConnectionType Type { get; } =
        new(
            "smtp",
            "A mail server that takes mails.",
            SettingsShape.Of<SmtpSettings>(),
            async (connection, use, cancel) =>
            {
                using var client = await OpenAsync(connection.As<SmtpSettings>(use.Secrets), cancel)
                    .ConfigureAwait(false);
                var found =
                    $"SMTP server{(client.IsSecure ? $", {client.SslProtocol}" : "")}"
                    + $"{(client.IsAuthenticated ? ", signed in" : "")}"
                    + $"{(client.MaxSize > 0 ? $", mails up to {client.MaxSize >> 20} MiB" : "")}";
                await client.DisconnectAsync(true, cancel).ConfigureAwait(false);
                return found;
            },
            e => Error(e)?.Message
        );

    /// <summary>A client that is connected and, when the settings name a user, signed in.</summary>
    public static async Task<SmtpClient> OpenAsync(SmtpSettings settings, CancellationToken cancel)
    {
        var client = new SmtpClient { Timeout = 30_000 };
        try
        {
            var (port, security) = settings.Tls switch
            {
                SmtpTls.Tls => (465, SecureSocketOptions.SslOnConnect),
                SmtpTls.Off => (25, SecureSocketOptions.None),
                _ => (587, SecureSocketOptions.StartTls),
            };
            // Whoever listens would have it.
            if (settings.User is not null && security == SecureSocketOptions.None && !Hosts.IsLoopback(settings.Host))
            {
                throw new StepFailedException(
                    "tls",
                    $"with tls: off the password would go to {settings.Host} readable by everybody on the way",
                    "Use tls: startTls or tls, or leave out the user. Nothing was sent."
                );
            }

            try
            {
                await client.ConnectAsync(settings.Host, settings.Port ?? port, security, cancel).ConfigureAwait(false);
            }
            catch (SocketException e)
            {
                throw new StepFailedException(
                    "unreachable",
                    $"the mail server {settings.Host}:{settings.Port ?? port} can't be reached: {e.Message}"
                );
            }
            if (settings.User is { } user)
                await client.AuthenticateAsync(user, settings.Password ?? "", cancel).ConfigureAwait(false);
            return client;
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
            StepFailedException known => known.Error,
            AuthenticationException => new(
                "login",
                "the mail server refuses the user or the password",
                "Set the secret again, or correct the user in connections.yaml."
            ),
            SslHandshakeException tls => new(
                "tls",
                $"the mail server's certificate is not accepted: {tls.InnerException?.Message ?? tls.Message}"
            ),
            SmtpCommandException { ErrorCode: SmtpErrorCode.RecipientNotAccepted } smtp => new(
                "recipient",
                $"the mail server does not take mails for {smtp.Mailbox}: {smtp.Message}",
                "Nothing was sent to anybody."
            ),
            SmtpCommandException smtp => new("mail", $"the mail server says no: {smtp.Message}"),
            MailKit.ServiceNotConnectedException or SmtpProtocolException or IOException => new(
                "cut",
                $"the connection to the mail server was cut: {e.Message}"
            ),
            NotSupportedException => new(
                "tls",
                e.Message,
                "Say tls: off for a server without TLS; mails can be read on their way then."
            ),
            TimeoutException => new("unreachable", "the mail server does not answer"),
            _ => null,
        };
}
