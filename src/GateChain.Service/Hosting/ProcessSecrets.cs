using System.Globalization;
using System.Runtime.InteropServices;
using System.Text;

namespace GateChain.Service.Hosting;

/// <summary>Keeps what the service was told by its environment from the programs that it starts.</summary>
/// <remarks>Source: proc(5) for the place of the environment, prctl(2).</remarks>
static partial class ProcessSecrets
{
    const int SetDumpable = 4;

    [LibraryImport("libc", EntryPoint = "prctl")]
    private static partial int Control(int option, nint value, nint a, nint b, nint c);

    /// <summary>
    /// Takes a value out of the environment, also where the kernel shows it, and closes this process's files in /proc
    /// to other users' programs.
    /// </summary>
    public static void Forget(string variable, string value)
    {
        Environment.SetEnvironmentVariable(variable, null);
        try
        {
            Wipe(Encoding.UTF8.GetBytes($"{variable}={value}"));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or FormatException)
        {
            // Then the second lock has to do.
        }
        _ = Control(SetDumpable, 0, 0, 0, 0);
    }

    // The kernel shows the environment as the process began with it; that piece of memory is the process's own.
    static void Wipe(byte[] entry)
    {
        var stat = File.ReadAllText("/proc/self/stat");
        var fields = stat[(stat.LastIndexOf(')') + 2)..].Split(' ');
        var (from, to) = (
            long.Parse(fields[47], CultureInfo.InvariantCulture),
            long.Parse(fields[48], CultureInfo.InvariantCulture)
        );
        using var memory = new FileStream(
            "/proc/self/mem",
            FileMode.Open,
            FileAccess.ReadWrite,
            FileShare.ReadWrite,
            0
        );
        var environment = new byte[to - from];
        memory.Seek(from, SeekOrigin.Begin);
        memory.ReadExactly(environment);
        if (environment.AsSpan().IndexOf(entry) is not (>= 0 and var at))
            return;
        memory.Seek(from + at, SeekOrigin.Begin);
        memory.Write(new byte[entry.Length]);
    }
}
