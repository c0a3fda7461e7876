using System.Globalization;
using System.Runtime.InteropServices;
using System.Text;

namespace GateChain.Kinds.Command;

/// <summary>Starts programs as leaders of their own process group, and ends the whole group.</summary>
/// <remarks>Source: proc(5), kill(2), setsid(1).</remarks>
static partial class ProcessGroup
{
    const int SigKill = 9;

    /// <summary>The program that makes what it runs the leader of a new session; null where there is none.</summary>
    public static string? Leader { get; } = new[] { "/usr/bin/setsid", "/bin/setsid" }.FirstOrDefault(File.Exists);

    [LibraryImport("libc", EntryPoint = "kill")]
    private static partial int SendSignal(int process, int signal);

    /// <summary>
    /// Ends a process with all of its group. Whether there was anybody; does nothing when they are gone.
    /// </summary>
    public static bool Kill(int leader)
    {
        var any = SendSignal(-leader, SigKill) == 0;
        _ = SendSignal(leader, SigKill);
        return any;
    }

    /// <summary>Ends a process, its group, and whatever of it made a group or a session of its own.</summary>
    /// <param name="leader">The leader of its group and session; null when that is not known.</param>
    /// <param name="mark">The variable, with its value, that all of them inherited.</param>
    public static void KillAll(int? leader, string mark)
    {
        if (leader is { } id)
            Kill(id);
        // Who is just starting another one is met the next time.
        for (var i = 0; i < 5; i++)
        {
            var left = LeftOf(leader, mark);
            if (left.Count == 0)
                return;
            foreach (var process in left)
                _ = SendSignal(process, SigKill);
        }
    }

    /// <summary>The processes that are still there.</summary>
    public static IReadOnlyList<int> LeftOf(int? leader, string mark)
    {
        var session = leader?.ToString(CultureInfo.InvariantCulture);
        return
        [
            .. Processes()
                .Where(p => HasMark(p, mark) || (session is not null && Stat(p) is { } stat && stat[3] == session)),
        ];
    }

    /// <summary>Resident memory of a group's processes together, in bytes.</summary>
    public static long MemoryOf(int leader) =>
        Processes()
            .Select(p => Stat(p))
            .Where(s => s is not null && s[2] == leader.ToString(CultureInfo.InvariantCulture))
            .Sum(s => long.Parse(s![21], CultureInfo.InvariantCulture) * Environment.SystemPageSize);

    static IEnumerable<int> Processes() =>
        Directory
            .EnumerateDirectories("/proc")
            .Select(Path.GetFileName)
            .Where(n => int.TryParse(n, out _))
            .Select(n => int.Parse(n!, CultureInfo.InvariantCulture));

    /// <summary>
    /// The fields of /proc/ID/stat from the state on; null when the process is gone or a zombie. The name before them
    /// may hold blanks.
    /// </summary>
    public static string[]? Stat(int process)
    {
        try
        {
            var stat = File.ReadAllText($"/proc/{process}/stat");
            var fields = stat[(stat.LastIndexOf(')') + 2)..].Split(' ');
            return fields[0] == "Z" ? null : fields;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    static bool HasMark(int process, string mark)
    {
        try
        {
            return Encoding.UTF8.GetString(File.ReadAllBytes($"/proc/{process}/environ")).Split('\0').Contains(mark);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }
}
