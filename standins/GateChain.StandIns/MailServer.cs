using System.Net;
using System.Net.Sockets;
using System.Text;

namespace GateChain.StandIns;

/// <summary>A mail as the server got it.</summary>
/// <param name="Text">Header and body.</param>
public sealed record Mail(string From, IReadOnlyList<string> To, string Text);

/// <summary>
/// A mail server that keeps what it gets in memory, and refuses mails for <c>nobody@…</c>. Whoever signs in must be
/// <c>larkmoor</c>.
/// </summary>
/// <remarks>Source: RFC 5321; AUTH PLAIN, RFC 4954 and RFC 4616. No TLS.</remarks>
public sealed class MailServer : IDisposable
{
    public const string User = "larkmoor",
        Password = "made-up-mail-password";

    readonly TcpListener _listener;
    readonly List<Mail> _mails = [];
    readonly CancellationTokenSource _end = new();

    public MailServer(int port)
    {
        _listener = new(IPAddress.Loopback, port);
        _listener.Start();
        _ = ListenAsync();
    }

    public int Port => ((IPEndPoint)_listener.LocalEndpoint).Port;

    public IReadOnlyList<Mail> Mails
    {
        get
        {
            lock (_mails)
            {
                return [.. _mails];
            }
        }
    }

    async Task ListenAsync()
    {
        try
        {
            while (true)
                _ = ServeAsync(await _listener.AcceptTcpClientAsync(_end.Token));
        }
        catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException) { }
    }

    async Task ServeAsync(TcpClient client)
    {
        using var _ = client;
        try
        {
            using var reader = new StreamReader(client.GetStream(), Encoding.UTF8);
            await using var writer = new StreamWriter(client.GetStream(), new UTF8Encoding(false))
            {
                NewLine = "\r\n",
                AutoFlush = true,
            };
            await writer.WriteLineAsync("220 larkmoor stand-in");
            var (from, to) = ("", new List<string>());
            while (await reader.ReadLineAsync(_end.Token) is { } line)
            {
                switch (line.Split(' ', 2)[0].ToUpperInvariant())
                {
                    case "EHLO":
                        await writer.WriteLineAsync(
                            "250-larkmoor\r\n250-SIZE 10485760\r\n250-8BITMIME\r\n250-SMTPUTF8\r\n250 AUTH PLAIN"
                        );
                        break;
                    case "HELO" or "NOOP":
                        await writer.WriteLineAsync("250 larkmoor");
                        break;
                    case "AUTH":
                        var given = line.Split(' ') is [_, "PLAIN", var answer] ? answer : await AskAsync();
                        await writer.WriteLineAsync(
                            Encoding.UTF8.GetString(Convert.FromBase64String(given)) == $"\0{User}\0{Password}"
                                ? "235 welcome"
                                : "535 no such user or password"
                        );
                        break;
                    case "MAIL":
                        (from, to) = (Address(line), []);
                        await writer.WriteLineAsync("250 ok");
                        break;
                    case "RCPT":
                        if (Address(line).StartsWith("nobody@", StringComparison.Ordinal))
                        {
                            await writer.WriteLineAsync("550 nobody lives here");
                            break;
                        }
                        to.Add(Address(line));
                        await writer.WriteLineAsync("250 ok");
                        break;
                    case "DATA":
                        await writer.WriteLineAsync("354 go on");
                        var text = new StringBuilder();
                        while (await reader.ReadLineAsync(_end.Token) is { } part && part != ".")
                            text.Append(part.StartsWith('.') ? part[1..] : part).Append('\n');
                        lock (_mails)
                        {
                            _mails.Add(new(from, to, text.ToString()));
                        }
                        await writer.WriteLineAsync("250 kept");
                        break;
                    case "RSET":
                        await writer.WriteLineAsync("250 ok");
                        break;
                    case "QUIT":
                        await writer.WriteLineAsync("221 good night");
                        return;
                    default:
                        await writer.WriteLineAsync("502 not here");
                        break;
                }
            }

            async Task<string> AskAsync()
            {
                await writer.WriteLineAsync("334 ");
                return await reader.ReadLineAsync(_end.Token) ?? "";
            }
        }
        catch (Exception e) when (e is IOException or OperationCanceledException or FormatException) { }
    }

    static string Address(string line) =>
        line.IndexOf('<', StringComparison.Ordinal) is var a
        && line.IndexOf('>', StringComparison.Ordinal) is var b
        && a >= 0
        && b > a
            ? line[(a + 1)..b]
            : "";

    public void Dispose()
    {
        _end.Cancel();
        _listener.Dispose();
        _end.Dispose();
    }
}
