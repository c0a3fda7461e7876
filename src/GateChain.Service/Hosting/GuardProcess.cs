using System.Diagnostics;
using GateChain.Kinds.Command;

namespace GateChain.Service.Hosting;

/// <summary>
/// The process that ends the programs of this node when it can't, whatever has become of it. Started again when it is
/// not there. Thread-safe.
/// </summary>
sealed class GuardProcess(string node, ILogger logger) : IDisposable
{
    readonly Lock _lock = new();
    Process? _process;
    bool _ended;

    /// <summary>The node has said to the others that it is there.</summary>
    public void Beat()
    {
        lock (_lock)
        {
            if (_ended)
                return;
            try
            {
                if (_process is not { HasExited: false })
                    Start();
                _process?.StandardInput.WriteLine();
            }
            catch (Exception e) when (e is IOException or System.ComponentModel.Win32Exception)
            {
                logger.LogWarning("What ends this node's programs in an emergency is not there: {Reason}", e.Message);
                _process?.Dispose();
                _process = null;
            }
        }
    }

    // In a session of its own: what ends the service from a terminal must not end it first.
    void Start()
    {
        _process?.Dispose();
        var start = new ProcessStartInfo("setsid", [Environment.ProcessPath!, "guard", node])
        {
            RedirectStandardInput = true,
        };
        start.Environment.Remove("GATECHAIN_SECRET_KEY");
        start.Environment.Remove(ProgramGuard.Variable);
        _process = Process.Start(start);
        _process!.StandardInput.AutoFlush = true;
    }

    /// <summary>The node ends: the guard looks once more, and ends too.</summary>
    public void Dispose()
    {
        lock (_lock)
        {
            _ended = true;
            _process?.Dispose();
        }
    }
}
