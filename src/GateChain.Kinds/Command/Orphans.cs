using System.Diagnostics;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Command;

/// <summary>
/// Remembers in a file that an attempt starts a program, and which process that is, so that after a crash of the
/// service it can be ended before anything of its step begins again. The process is told by number and start time,
/// since numbers are used again; what it has started is told by its session, and by a variable that all of it inherits.
/// </summary>
static class Orphans
{
    // How long processes that were told to end may take to be gone.
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    static string FileIn(string folder) => Path.Combine(folder, "process");

    /// <summary>To be called before the program is started: from then on there is something to look for.</summary>
    /// <exception cref="IOException">It can't be written down, so nothing may be started.</exception>
    public static void Announce(string folder)
    {
        Directory.CreateDirectory(folder);
        // With the room that the process needs later: what is announced can be remembered.
        File.WriteAllText(FileIn(folder), "starting".PadRight(64));
    }

    public static void Remember(string folder, Process process)
    {
        if (StartOf(process.Id) is { } start)
            File.WriteAllText(FileIn(folder), $"{process.Id} {start}");
    }

    public static void Forget(string folder)
    {
        if (File.Exists(FileIn(folder)))
            File.Delete(FileIn(folder));
    }

    /// <summary>Ends everything of a lost attempt that is still there. Whether there was anything.</summary>
    /// <param name="folder">The step's folder.</param>
    /// <param name="mark">The variable, with its value, that all of it inherited.</param>
    /// <exception cref="StepFailedException">Something can't be ended.</exception>
    public static async Task<bool> EndAsync(string folder, string mark)
    {
        if (!File.Exists(FileIn(folder)))
            return false;
        var parts = (await File.ReadAllTextAsync(FileIn(folder)).ConfigureAwait(false)).Trim().Split(' ');
        // A number that is another process's by now says nothing; sessions keep theirs from being used again.
        int? leader =
            parts.Length == 2
            && int.TryParse(parts[0], out var id)
            && (StartOf(id) is not { } start || start == parts[1])
                ? id
                : null;
        var any = false;
        for (
            var since = Stopwatch.GetTimestamp();
            ProcessGroup.LeftOf(leader, mark) is { Count: > 0 } left;
            await Task.Delay(20).ConfigureAwait(false)
        )
        {
            any = true;
            ProcessGroup.KillAll(leader, mark);
            if (Stopwatch.GetElapsedTime(since) > Patience)
            {
                throw new StepFailedException(
                    "leftover",
                    $"{(left.Count == 1 ? "process" : "processes")} {string.Join(", ", left)} of the "
                        + "attempt that was cut off can't be ended"
                );
            }
        }
        Forget(folder);
        return any;
    }

    // When the process started, in ticks since boot.
    static string? StartOf(int process) => ProcessGroup.Stat(process)?[19];
}
