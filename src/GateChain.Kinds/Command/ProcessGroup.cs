using System.Runtime.InteropServices;

namespace GateChain.Kinds.Command;

/// <summary>Starts programs as leaders of their own process group, and ends the whole group.</summary>
static partial class ProcessGroup
{
    const int SigKill = 9;

    /// <summary>The program that makes what it runs the leader of a new session; null where there is none.</summary>
    public static string? Leader { get; } = new[] { "/usr/bin/setsid", "/bin/setsid" }.FirstOrDefault(File.Exists);

    [LibraryImport("libc", EntryPoint = "kill")]
    private static partial int SendSignal(int process, int signal);

    /// <summary>Ends a process with all that it has started. Does nothing when it is gone.</summary>
    public static void Kill(int leader)
    {
        _ = SendSignal(-leader, SigKill);
        _ = SendSignal(leader, SigKill);
    }
}
