using System.Diagnostics;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Access;

/// <summary>A service as somebody starts it by hand, with what it prints.</summary>
sealed class ServiceProcess(string data, string work) : IAsyncDisposable
{
    Process? _process;

    public Uri Address { get; private set; } = null!;

    /// <summary>Starts it; gives what it printed until it could be used.</summary>
    public async Task<IReadOnlyList<string>> StartAsync(string listen, params string[] options)
    {
        Directory.CreateDirectory(work);
        _process = Process.Start(
            new ProcessStartInfo(
                Place.Program,
                ["serve", "--listen", listen, "--data", data, "--work", work, .. options]
            )
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        _process.ErrorDataReceived += (_, _) => { };
        _process.BeginErrorReadLine();
        var lines = new List<string>();
        async Task<string> Next() =>
            await _process.StandardOutput.ReadLineAsync().WaitAsync(TimeSpan.FromMinutes(2)) ?? "";
        lines.Add(await Next());
        Assert.StartsWith("Gate Chain listens at ", lines[0]);
        Address = new(lines[0]["Gate Chain listens at ".Length..]);
        if (options.Contains("--behind-proxy"))
        {
            while (!lines[^1].StartsWith("Until then", StringComparison.Ordinal))
                lines.Add(await Next());
        }
        return lines;
    }

    public async ValueTask DisposeAsync()
    {
        if (_process is null)
            return;
        _process.Kill();
        await _process.WaitForExitAsync();
        _process.Dispose();
    }
}
