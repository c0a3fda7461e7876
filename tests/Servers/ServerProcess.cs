using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace GateChain.Tests;

/// <summary>
/// A server from Debian's packages on loopback, in a folder and a process of its own; it ends with this object.
/// </summary>
abstract class ServerProcess : IDisposable
{
    readonly IReadOnlyList<string> _line;
    Process _process;

    protected ServerProcess(
        string? user,
        string folder,
        int port,
        string program,
        params IReadOnlyList<string> arguments
    )
    {
        (Port, Folder) = (port, folder);
        _line = As(user, program, arguments);
        _process = Begin();
    }

    Process Begin()
    {
        var process = Process.Start(
            new ProcessStartInfo(_line[0], _line.Skip(1))
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                WorkingDirectory = Folder,
            }
        )!;
        process.OutputDataReceived += (_, e) => Say(e.Data);
        process.ErrorDataReceived += (_, e) => Say(e.Data);
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        return process;
    }

    /// <summary>Starts it again where it was, after it was killed.</summary>
    public void Restart()
    {
        _process.Dispose();
        _process = Begin();
    }

    public int Port { get; }
    protected string Folder { get; }
    readonly List<string> _said = [];

    void Say(string? line)
    {
        lock (_said)
        {
            if (line is not null)
                _said.Add(line);
        }
    }

    public static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    /// <summary>A new folder that belongs to a user.</summary>
    protected static string FolderOf(string? user)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-server-").FullName;
        if (user is not null && Environment.UserName == "root")
            Run(null, "chown", user, folder);
        return folder;
    }

    // Some servers refuse to be root.
    static List<string> As(string? user, string program, IReadOnlyList<string> arguments) =>
        user is not null && Environment.UserName == "root"
            ? ["setpriv", $"--reuid={user}", $"--regid={user}", "--clear-groups", program, .. arguments]
            : [program, .. arguments];

    protected static void Run(string? user, string program, params IReadOnlyList<string> arguments)
    {
        var line = As(user, program, arguments);
        using var process = Process.Start(
            new ProcessStartInfo(line[0], line.Skip(1))
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                WorkingDirectory = "/tmp",
            }
        )!;
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        process.WaitForExit();
        if (process.ExitCode != 0)
            throw new InvalidOperationException($"{program}: {output.Result} {error.Result}");
    }

    /// <summary>Waits until it answers.</summary>
    protected void Await(Action ask)
    {
        var clock = Stopwatch.StartNew();
        while (true)
        {
            try
            {
                ask();
                return;
            }
            catch (Exception e)
            {
                if (_process.HasExited || clock.Elapsed > TimeSpan.FromSeconds(60))
                {
                    lock (_said)
                    {
                        throw new InvalidOperationException(
                            $"the server does not answer: {e.Message}\n{string.Join('\n', _said.TakeLast(20))}"
                        );
                    }
                }
            }
            Thread.Sleep(100);
        }
    }

    /// <summary>Ends it at once, as a power cut would.</summary>
    public void Kill()
    {
        if (!_process.HasExited)
            _process.Kill(entireProcessTree: true);
        _process.WaitForExit();
    }

    public void Dispose()
    {
        Kill();
        _process.Dispose();
        try
        {
            Directory.Delete(Folder, recursive: true);
        }
        // A child of it may still be writing its last words.
        catch (IOException) { }
    }
}
