using System.Globalization;
using System.Net;
using System.Net.Security;
using System.Net.Sockets;
using System.Text;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>
/// Speaks with an FTP server: commands and their answers on one connection, data on another one for each list or file,
/// which always leads to the same machine. After RFC 959, 2389, 2428, 3659 and 4217. Used by one thread.
/// </summary>
sealed class FtpSession : IDisposable
{
    // What a server says is not to fill the memory.
    const int MostLine = 8 * 1024;
    const int MostLines = 1_000;

    static readonly TimeSpan Reach = TimeSpan.FromSeconds(15);
    static readonly TimeSpan Silence = TimeSpan.FromSeconds(100);

    readonly FtpSettings _settings;
    readonly FtpCipher? _cipher;
    readonly TcpClient _client = new() { NoDelay = true };
    readonly CancellationTokenRegistration _stop;
    readonly HashSet<string> _features = new(StringComparer.OrdinalIgnoreCase);
    readonly byte[] _line = new byte[MostLine];
    Stream _control = Stream.Null;
    TcpClient? _data;
    bool _short = true;

    /// <summary>Connects and signs in.</summary>
    /// <exception cref="FtpException">The server refuses it.</exception>
    /// <exception cref="FtpCertificateException">Its certificate is not the one that it should be.</exception>
    public FtpSession(FtpSettings settings, CancellationToken cancel)
    {
        _settings = settings;
        _cipher = settings.Tls == FtpTls.None ? null : new(settings);
        _stop = cancel.Register(() =>
        {
            _data?.Close();
            _client.Close();
        });
        try
        {
            Open(cancel);
        }
        catch
        {
            Dispose();
            throw;
        }
    }

    /// <summary>What the server said first.</summary>
    public string Greeting { get; private set; } = "";

    /// <summary>Whether the server says that it knows a command.</summary>
    public bool Has(string feature) => _features.Contains(feature);

    void Open(CancellationToken cancel)
    {
        const int plainPort = 21;
        const int implicitPort = 990;
        var implicitly = _settings.Tls == FtpTls.Implicit;
        Connect(_client, _settings.Host, _settings.Port ?? (implicitly ? implicitPort : plainPort), cancel);
        _control = _client.GetStream();
        if (implicitly)
            _control = _cipher!.Over(_control);
        var greeting = Reply();
        // A server may say that it needs a while.
        while (greeting.IsBegun)
            greeting = Reply();
        if (!greeting.IsDone)
            throw new FtpException("", greeting);
        Greeting = greeting.Text;
        if (_settings.Tls == FtpTls.Explicit)
        {
            Must("AUTH", "TLS");
            // Whatever was sent before is not taken for something that was sent enciphered: nothing is buffered.
            _control = _cipher!.Over(_control);
        }
        SignIn();
        if (_cipher is not null)
        {
            Must("PBSZ", "0");
            Must("PROT", "P");
        }
        var features = Ask("FEAT");
        if (features.IsDone)
            _features.UnionWith(features.Lines.Select(l => l.Trim().Split(' ')[0]));
        if (Has("UTF8"))
            Ask("OPTS", "UTF8 ON");
        Must("TYPE", "I");
    }

    void SignIn()
    {
        var user = Ask("USER", _settings.User);
        if (user.IsMore)
            user = Ask("PASS", _settings.Password ?? "");
        if (!user.IsDone)
            throw new FtpException("PASS", user);
    }

    static void Connect(TcpClient client, string host, int port, CancellationToken cancel)
    {
        using var late = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        late.CancelAfter(Reach);
        try
        {
            client.ConnectAsync(host, port, late.Token).AsTask().GetAwaiter().GetResult();
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            throw new SocketException((int)SocketError.TimedOut);
        }
        client.ReceiveTimeout = client.SendTimeout = (int)Silence.TotalMilliseconds;
    }

    /// <summary>Says a command and hears the answer, whatever it is.</summary>
    public FtpReply Ask(string command, string? about = null)
    {
        // A name with a line end in it would be two commands.
        if (about?.AsSpan().IndexOfAny('\r', '\n', '\0') >= 0)
        {
            throw new StepFailedException("path", "a path with a line end in it can't be said to an FTP server");
        }
        _control.Write(Encoding.UTF8.GetBytes(about is null ? $"{command}\r\n" : $"{command} {about}\r\n"));
        _control.Flush();
        return Reply();
    }

    /// <summary>Says a command that has to be done.</summary>
    /// <exception cref="FtpException">The server refuses it.</exception>
    public FtpReply Must(string command, string? about = null) =>
        Ask(command, about) is var reply && reply.IsDone ? reply : throw new FtpException(command, reply);

    /// <summary>Says two commands, of which the first asks for the second.</summary>
    public FtpReply Both(string first, string about, string second, string aboutSecond)
    {
        var reply = Ask(first, about);
        return reply.IsMore ? Ask(second, aboutSecond) : reply;
    }

    FtpReply Reply()
    {
        var lines = new List<string>();
        var first = Line();
        if (first.Length < 3 || !int.TryParse(first.AsSpan(0, 3), CultureInfo.InvariantCulture, out var code))
            throw new FtpCutException($"this is no FTP server: it says “{first[..Math.Min(first.Length, 60)]}”");
        lines.Add(first[Math.Min(4, first.Length)..]);
        for (var goesOn = first.Length > 3 && first[3] == '-'; goesOn; )
        {
            var line = Line();
            goesOn = !line.StartsWith($"{first[..3]} ", StringComparison.Ordinal);
            lines.Add(goesOn ? line : line[4..]);
            if (lines.Count > MostLines)
                throw new FtpCutException("the server's answer has no end");
        }
        return new(code, lines);
    }

    string Line()
    {
        var length = 0;
        while (true)
        {
            var next = _control.ReadByte();
            if (next < 0)
                throw new FtpCutException("the server has closed the connection");
            if (next == '\n')
                return Encoding.UTF8.GetString(_line, 0, length).TrimEnd('\r');
            if (length == MostLine)
                throw new FtpCutException("the server's answer has no end");
            _line[length++] = (byte)next;
        }
    }

    /// <summary>The data that a command brings: it has to be read to its end, or let go.</summary>
    public Stream Receive(string command, string? about, long from = 0) =>
        new FtpData(this, command, Begin(command, about, from));

    /// <summary>Sends data.</summary>
    public void Send(string command, string about, Stream content)
    {
        using (var data = Begin(command, about, 0))
        {
            content.CopyTo(data, 1 << 16);
            data.Flush();
            // The end is said too: an upload that was cut off is none that is whole.
            if (data is SslStream cipher)
                cipher.ShutdownAsync().GetAwaiter().GetResult();
        }
        End(command);
    }

    /// <summary>Hears how it went with data.</summary>
    internal void End(string command)
    {
        CloseData();
        var reply = Reply();
        if (!reply.IsDone)
            throw new FtpException(command, reply);
    }

    internal void CloseData()
    {
        _data?.Dispose();
        _data = null;
    }

    /// <summary>Hears what the server says to data that was let go.</summary>
    internal void LetGo()
    {
        CloseData();
        Reply();
    }

    Stream Begin(string command, string? about, long from)
    {
        var port = Passive();
        var address = ((IPEndPoint)_client.Client.RemoteEndPoint!).Address;
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        _data = new TcpClient(address.AddressFamily);
        Connect(_data, address.ToString(), port, CancellationToken.None);
        if (from > 0 && Ask("REST", from.ToString(CultureInfo.InvariantCulture)) is { IsMore: false } refused)
            throw new FtpException("REST", refused);
        var begun = Ask(command, about);
        if (!begun.IsBegun)
            throw new FtpException(command, begun);
        return _cipher is null ? _data.GetStream() : _cipher.Over(_data.GetStream());
    }

    // The address in an old answer is not looked at: data comes from the machine that was asked.
    int Passive()
    {
        if (_short)
        {
            var reply = Ask("EPSV");
            if (reply.IsDone && int.TryParse(Between(reply.Text, '(', ')')?.Trim('|'), out var port))
                return port;
            _short = false;
        }
        var old = Must("PASV");
        var digits = new string([.. old.Text.Select(c => char.IsAsciiDigit(c) ? c : ' ')]);
        var parts = digits.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return parts.Length >= 6 && byte.TryParse(parts[^2], out var high) && byte.TryParse(parts[^1], out var low)
            ? (high << 8) + low
            : throw new FtpException("PASV", old);
    }

    static string? Between(string text, char open, char close)
    {
        var (from, to) = (text.IndexOf(open, StringComparison.Ordinal), text.LastIndexOf(close));
        return from >= 0 && to > from ? text[(from + 1)..to] : null;
    }

    public void Dispose()
    {
        _stop.Dispose();
        CloseData();
        _control.Dispose();
        _client.Dispose();
    }
}
