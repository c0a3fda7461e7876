using System.Runtime.InteropServices;

namespace GateChain.Kinds.Arrivals;

/// <summary>Asks Linux for what .NET does not tell of a file.</summary>
/// <remarks>Source: statx(2); its structure is the same on every machine.</remarks>
static partial class FileVersion
{
    const int CurrentFolder = -100;

    const uint Basics = 0x7ff;

    [StructLayout(LayoutKind.Explicit, Size = 256)]
    struct Statx
    {
        [FieldOffset(28)]
        public ushort Mode;

        [FieldOffset(32)]
        public ulong Inode;

        [FieldOffset(40)]
        public ulong Size;

        [FieldOffset(112)]
        public long ChangedSeconds;

        [FieldOffset(120)]
        public uint ChangedNanoseconds;
    }

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Native(int folder, string path, int flags, uint mask, out Statx found);

    const ushort TypeMask = 0xf000,
        Regular = 0x8000;

    /// <summary>A file as it is now, links followed; null when there is no such file any more.</summary>
    public static SeenFile? Of(string path)
    {
        if (Native(CurrentFolder, path, 0, Basics, out var found) != 0 || (found.Mode & TypeMask) != Regular)
            return null;
        return new(
            path,
            Path.GetFileName(path),
            (long)found.Size,
            DateTimeOffset.FromUnixTimeSeconds(found.ChangedSeconds).AddTicks(found.ChangedNanoseconds / 100),
            $"{found.Inode:x}-{found.Size:x}-{found.ChangedSeconds:x}.{found.ChangedNanoseconds:x}"
        );
    }

    /// <summary>
    /// Names a folder on its disk: a copy has another name. Null when it is not there. The disk itself has no name that
    /// stays: its numbers may be others after the machine was started again.
    /// </summary>
    public static string? PlaceOf(string path) =>
        Native(CurrentFolder, path, 0, Basics, out var found) == 0 ? $"{found.Inode:x}" : null;
}
