using System.Collections.Concurrent;
using System.Diagnostics;

namespace GateChain.Kinds.Files;

/// <summary>Files that are there as a whole or not at all, also after a crash: written under a name nobody looks for, and renamed. Thread-safe.</summary>
static class WholeFile
{
    const string Ending = ".gatechain-part";

    static readonly ConcurrentDictionary<string, bool> InUse = new();
    static readonly string Host = new([.. Environment.MachineName.Where(char.IsAsciiLetterOrDigit).Take(32)]);

    /// <summary>A name to write a file under that nobody else has, in its folder. What a killed service has left there of the same file is deleted.</summary>
    /// <param name="path">Its full path; its folder is there.</param>
    public static string PartOf(string path)
    {
        var (folder, begins) = (Path.GetDirectoryName(path)!, $".{Path.GetFileName(path)}.{Host}-");
        foreach (var left in Directory.EnumerateFiles(folder, "." + "*" + Ending).Where(f => Path.GetFileName(f).StartsWith(begins, StringComparison.Ordinal) && !IsAtWork(f, begins.Length)).ToList()) { File.Delete(left); }
        var part = Path.Combine(folder, $"{begins}{Environment.ProcessId}-{Guid.NewGuid():N}{Ending}");
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
    static bool IsAtWork(string part, int number)
    {
        if (!int.TryParse(Path.GetFileName(part)[number..].Split('-')[0], out var process)) { return true; }
        if (process == Environment.ProcessId) { return InUse.ContainsKey(part); }
        try
        {
            using var other = Process.GetProcessById(process);
            return true;
        }
        catch (ArgumentException) { return false; }
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
        finally { End(part); }
    }
}
