using System.Net;
using System.Net.Sockets;
using System.Text;
using GateChain.Kinds.Contract;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.FileServers.Ftp;

namespace GateChain.Kinds.Tests.Transfer;

/// <summary>Servers that speak FTP in ways of their own, or mean no good.</summary>
public sealed class FtpServersOfAllSortsTests
{
    [Theory]
    [InlineData("-rw-r--r--   1 ftp      ftp          1234 Nov 30 16:20 north 1.csv", "north 1.csv", false, true)]
    [InlineData(
        "-rw-r--r--   1 0        0               0 Feb 28  2019  begins with a gap",
        " begins with a gap",
        false,
        true
    )]
    [InlineData("drwxr-xr-x   2 depot    depot        4096 Nov 30 16:20 in", "in", true, false)]
    [InlineData(
        "lrwxrwxrwx   1 depot    depot          12 Nov 30 16:20 a.link -> real -> x.txt",
        "a.link",
        false,
        false
    )]
    [InlineData("11-30-26  04:20PM       <DIR>          in and out", "in and out", true, false)]
    [InlineData("11-30-26  04:20PM                 1234 north 1.csv", "north 1.csv", false, true)]
    [InlineData("total 12", null, false, false)]
    [InlineData("drwxr-xr-x   2 depot    depot        4096 Nov 30 16:20 ..", null, false, false)]
    [InlineData("-rw-r--r--", null, false, false)]
    [InlineData("", null, false, false)]
    public void LinesOfListsAreRead(string line, string? name, bool isFolder, bool isFile)
    {
        var entry = FtpEntry.OfList(line);
        Assert.Equal((name, isFolder, isFile), (entry?.Name, entry?.IsFolder ?? false, entry?.IsFile ?? false));
    }

    [Theory]
    [InlineData(
        "type=file;size=12;modify=20261130162001.123;UNIX.mode=0644; a;b =c",
        "a;b =c",
        12L,
        "2026-11-30T16:20:01"
    )]
    [InlineData("Type=OS.unix=slink:/x;Size=9; l", "l", 9L, null)]
    [InlineData("type=dir;modify=20261130; in", "in", null, null)]
    [InlineData("type=cdir;modify=20261130162001; .", null, null, null)]
    [InlineData("type=file;size=many;modify=20261399999999; x", "x", null, null)]
    [InlineData("nothing", null, null, null)]
    public void LinesOfFactsAreRead(string line, string? name, long? size, string? changed)
    {
        var entry = FtpEntry.OfFacts(line);
        Assert.Equal((name, size, changed), (entry?.Name, entry?.Size, entry?.Changed?.ToString("s")));
    }

    /// <summary>Answers each command with what is given for it, until the client goes.</summary>
    static FtpSettings Serve(string greeting, Func<string, string?> answer)
    {
        var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        _ = Task.Run(() =>
        {
            using var client = listener.AcceptTcpClient();
            listener.Stop();
            using var stream = client.GetStream();
            // One that says nothing hangs up at once.
            if (greeting.Length == 0)
                return;
            using var reader = new StreamReader(stream, Encoding.UTF8);
            Say(stream, greeting);
            while (reader.ReadLine() is { } line && answer(line) is { } text)
                Say(stream, text);
        });
        return new()
        {
            Host = "127.0.0.1",
            Port = ((IPEndPoint)listener.LocalEndpoint).Port,
            User = "u",
            Password = "p",
            Tls = FtpTls.None,
        };
    }

    static void Say(NetworkStream stream, string text) => stream.Write(Encoding.UTF8.GetBytes(text));

    static string? Usual(string line) =>
        line.Split(' ')[0] switch
        {
            "USER" => "331 go on\r\n",
            "PASS" => "230-welcome\r\n 230 is not the end\r\n230 in\r\n",
            "FEAT" => "211-\r\n MLST type*;\r\n211 end\r\n",
            "PWD" => "257 \"/a \"\"b\"\"\" is it\r\n",
            "SIZE" or "MDTM" => "550 none\r\n",
            _ => "200 yes\r\n",
        };

    [Theory]
    [InlineData("HTTP/1.1 400 Bad Request\r\n\r\n", "cut", "this is no FTP server")]
    [InlineData("", "cut", "closed the connection")]
    [InlineData("421 too many\r\n", "cut", "too many")]
    public void WhoIsNoServerIsTold(string greeting, string code, string sentence)
    {
        var e = Assert.ThrowsAny<Exception>(() => new FtpServer(Serve(greeting, _ => null), default).Dispose());
        var error = FileServer.Error(e);
        Assert.Equal(code, error?.Code);
        Assert.Contains(sentence, error!.Message);
    }

    [Fact]
    public void AnAnswerWithoutEndEndsTheConversation()
    {
        var line = Serve("220 " + new string('x', 100_000), _ => null);
        Assert.Contains("no end", Assert.ThrowsAny<Exception>(() => new FtpServer(line, default)).Message);
        var lines = Serve("220-\r\n" + string.Concat(Enumerable.Repeat("x\r\n", 5_000)), _ => null);
        Assert.Contains("no end", Assert.ThrowsAny<Exception>(() => new FtpServer(lines, default)).Message);
    }

    // Who does not encipher hears neither the user nor the password.
    [Fact]
    public void WhoDoesNotEncipherHearsNoPassword()
    {
        var heard = new List<string>();
        var settings = Serve("220 hello\r\n", line =>
        {
            heard.Add(line);
            return "500 what\r\n";
        }) with { Tls = FtpTls.Explicit };
        var e = Assert.ThrowsAny<Exception>(() => new FtpServer(settings, default));
        Assert.Equal("no-tls", FileServer.Error(e)?.Code);
        Assert.Equal(["AUTH TLS"], heard);
    }

    // An answer that names another machine's address does not make this one go there.
    [Fact]
    public void DataComesFromTheMachineThatWasAsked()
    {
        using var data = new TcpListener(IPAddress.Loopback, 0);
        data.Start();
        var port = ((IPEndPoint)data.LocalEndpoint).Port;
        _ = Task.Run(() =>
        {
            using var client = data.AcceptTcpClient();
            Say(
                client.GetStream(),
                "type=file;size=1;modify=20261130162001; ../../etc/passwd\r\n"
                    + "type=file;size=1;modify=20261130162001; ..\r\n"
                    + "type=file;size=1;modify=20261130162001; good\r\n"
            );
        });
        using var server = new FtpServer(Serve("220 hello\r\n", line => line switch
                {
                    "EPSV" => "500 what\r\n",
                    "PASV" => $"227 Entering (192,0,2,1,{port >> 8},{port & 255})\r\n",
                    "MLSD" => "150 here\r\n226 that was it\r\n",
                    _ => Usual(line),
                }), default);
        Assert.Equal("/a \"b\"/good", Assert.Single(server.Match("*")).Path);
        Assert.Equal("/a \"b\"/x", server.Full("x"));
        Assert.Throws<StepFailedException>(() => server.Delete("a\r\nDELE b"));
    }
}
