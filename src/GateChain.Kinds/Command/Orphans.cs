using System.Diagnostics;

namespace GateChain.Kinds.Command;

/// <summary>
/// Remembers in a file which process an attempt has started, so that after a crash of the service it can be ended before
/// the work is done again. The process is told by number and start time, since numbers are used again.
/// </summary>
static class Orphans
{
    static string FileIn(string folder) => Path.Combine(folder, "process");

    public static void Remember(string folder, Process process)
    {
        if (StartOf(process.Id) is not { } start) { return; }
        Directory.CreateDirectory(folder);
        File.WriteAllText(FileIn(folder), $"{process.Id} {start}");
    }

    public static void Forget(string folder)
    {
        // A program that ended at once was never remembered, and then there is no folder.
        if (File.Exists(FileIn(folder))) { File.Delete(FileIn(folder)); }
    }

    /// <summary>Ends the process that is remembered, if it is still there, and all that it has started.</summary>
    /// <param name="folder">The step's folder.</param>
    /// <param name="mark">The variable, with its value, that all of them inherited.</param>
    public static bool Kill(string folder, string mark)
    {
        try
        {
            var parts = File.ReadAllText(FileIn(folder)).Split(' ');
            Forget(folder);
            if (parts.Length != 2 || !int.TryParse(parts[0], out var id) || StartOf(id) != parts[1]) { return false; }
            ProcessGroup.KillAll(id, mark);
            return true;
        }
        catch (IOException)
        {
            return false;
        }
    }

    // When the process started, in ticks since boot.
    static string? StartOf(int process) => ProcessGroup.Stat(process)?[19];
}
