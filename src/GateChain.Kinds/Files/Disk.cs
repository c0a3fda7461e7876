using System.Runtime.InteropServices;

namespace GateChain.Kinds.Files;

/// <summary>What the file system does and says that .NET does not tell apart.</summary>
static partial class Disk
{
    const int NoSpace = 28,
        QuotaExceeded = 122,
        OtherDevice = 18;

    /// <summary>Whether there is no room left.</summary>
    /// <remarks>Source: errno ENOSPC and EDQUOT of Linux.</remarks>
    public static bool IsFull(IOException e) => (e.HResult & 0xffff) is NoSpace or QuotaExceeded;

    /// <summary>
    /// Gives a file another name, at once; what had that name is replaced. False when it lies in another file system.
    /// </summary>
    /// <exception cref="IOException">It can't be done.</exception>
    public static bool Rename(string from, string to)
    {
        if (NativeRename(from, to) == 0)
            return true;
        var error = Marshal.GetLastPInvokeError();
        return error == OtherDevice
            ? false
            : throw new IOException($"{from} can't be moved to {to}: {Marshal.GetPInvokeErrorMessage(error)}", error);
    }

    [LibraryImport("libc", EntryPoint = "rename", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int NativeRename(string from, string to);
}
