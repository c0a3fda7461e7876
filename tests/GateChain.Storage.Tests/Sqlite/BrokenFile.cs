using System.Runtime.InteropServices;

namespace GateChain.Storage.Tests.Sqlite;

/// <summary>
/// Lets the next writes to a file that this process has open fail with an input/output error, as on a dying disk.
/// </summary>
static partial class BrokenFile
{
    /// <summary>
    /// Turns whatever is open of a file into something that can only be read. To be called while nobody opens or closes
    /// it.
    /// </summary>
    public static void Break(string path)
    {
        var instead = Open("/dev/null", 0);
        foreach (var link in Directory.GetFileSystemEntries("/proc/self/fd"))
        {
            try
            {
                if (File.ResolveLinkTarget(link, returnFinalTarget: false)?.FullName == path)
                    _ = Duplicate(instead, int.Parse(Path.GetFileName(link)));
            }
            catch (IOException)
            {
                // The list of open files was itself one of them.
            }
        }
        _ = Close(instead);
    }

    [LibraryImport("libc", EntryPoint = "open", StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Open(string path, int flags);

    [LibraryImport("libc", EntryPoint = "dup2")]
    private static partial int Duplicate(int from, int to);

    [LibraryImport("libc", EntryPoint = "close")]
    private static partial int Close(int file);
}
