using System.Collections.Concurrent;
using System.Diagnostics;

namespace GateChain.Kinds.Files;

/// <summary>
/// Files that are there as a whole or not at all, also after a crash: written under a name nobody looks for, and
/// renamed. Thread-safe.
/// </summary>
static class WholeFile
{
    const string Ending = ".gatechain-part";

    static readonly ConcurrentDictionary<string, bool> InUse = new();
    static readonly string Host = new([.. Environment.MachineName.Where(char.IsAsciiLetterOrDigit).Take(32)]);

    // A folder is gone through once: it may hold very many files, and only services that are gone leave parts.
    static readonly ConcurrentDictionary<string, bool> Swept = new();
    const int MostSwept = 1000;

    /// <summary>
    /// A name to write a file under that nobody else has, in its folder. Parts that a killed service has left in the
    /// folder are deleted when it is written to first.
    /// </summary>
    /// <param name="path">Its full path; its folder is there.</param>
    public static string PartOf(string path)
    {
        var folder = Path.GetDirectoryName(path)!;
        if (Swept.Count > MostSwept)
            Swept.Clear();
        if (Swept.TryAdd(folder, true))
        {
            foreach (var left in Directory.EnumerateFiles(folder, ".*" + Ending).Where(f => !IsAtWork(f)).ToList())
                File.Delete(left);
        }
        var part = Path.Combine(
            folder,
            $".{Path.GetFileName(path)}.{Host}-{Environment.ProcessId}-{Guid.NewGuid():N}{Ending}"
        );
        InUse[part] = true;
        return part;
    }

    /// <summary>Ends the use of a part: it has been renamed, or is deleted.</summary>
    public static void End(string part)
    {
        File.Delete(part);
        InUse.TryRemove(part, out _);
    }

    // Numbers of processes come again, those of the service in a container always: its own parts it knows.
    static bool IsAtWork(string part)
    {
        var name = Path.GetFileName(part)[..^Ending.Length];
        var who = name[(name.LastIndexOf('.') + 1)..].Split('-');
        if (who.Length != 3 || who[0] != Host || !int.TryParse(who[1], out var process))
            return true;
        if (process == Environment.ProcessId)
            return InUse.ContainsKey(part);
        try
        {
            using var other = Process.GetProcessById(process);
            return true;
        }
        catch (ArgumentException)
        {
            return false;
        }
    }

    /// <summary>Writes a file; what was there under its name is replaced when it is whole.</summary>
    /// <param name="path">Its full path; folders on the way are made.</param>
    /// <param name="fill">Writes what is in it. When it throws, everything is as it was.</param>
    public static void Write(string path, Action<FileStream> fill)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var part = PartOf(path);
        try
        {
            using (var file = new FileStream(part, FileMode.CreateNew, FileAccess.Write, FileShare.None, 1 << 16))
            {
                fill(file);
                file.Flush(flushToDisk: true);
            }
            File.Move(part, path, overwrite: true);
        }
        finally
        {
            End(part);
        }
    }
}
