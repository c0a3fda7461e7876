using System.IO.Compression;
using System.IO.Hashing;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using ICSharpCode.SharpZipLib.GZip;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// What is packed in a file, whole or not at all: at its end it has the length and the checksum that the file says, and
/// one that was cut off is told. Used by one thread.
/// </summary>
/// <param name="name">What the file is called in sentences.</param>
/// <param name="content">What comes out of it; disposed of with this.</param>
/// <param name="isWhole">Asked at the end, with the checksum (CRC-32) and the length of what came out.</param>
/// <remarks>
/// Sources: RFC 1952 for gzip, APPNOTE 6.3 for zip, RFC 8878 for zstd. The framework's streams end without a word where
/// a gzip file was cut off, and do not look at the checksums of zip archives.
/// </remarks>
sealed class PackedStream(string name, Stream content, Func<uint, long, bool> isWhole) : ReadStream
{
    readonly Crc32 _crc = new();
    long _length;
    bool _ended;

    /// <summary>A gzip file.</summary>
    public static PackedStream Gzip(string name, FileStream file) =>
        new(name, new GZipStream(file, CompressionMode.Decompress), (crc, length) =>
            EndsWith(file, crc, length) || IsWhole(file)
        );

    // What is said at its end is of its last member, mostly its only one.
    static bool EndsWith(FileStream file, uint crc, long length)
    {
        if (file.Length < 18)
            return false;
        var end = new byte[8];
        RandomAccess.Read(file.SafeFileHandle, end, file.Length - end.Length);
        return BitConverter.ToUInt32(end, 0) == crc && BitConverter.ToUInt32(end, 4) == (uint)length;
    }

    // Several members behind each other: gone through again by who looks at each of them.
    static bool IsWhole(FileStream file)
    {
        using var again = File.OpenRead(file.Name);
        using var members = new GZipInputStream(again);
        var bytes = new byte[1 << 16];
        while (members.Read(bytes, 0, bytes.Length) > 0) { }
        return true;
    }

    public override int Read(Span<byte> buffer)
    {
        if (_ended)
            return 0;
        try
        {
            var read = content.Read(buffer);
            if (read == 0 && buffer.Length > 0)
            {
                _ended = true;
                if (!isWhole(_crc.GetCurrentHashAsUInt32(), _length))
                    throw Damaged("its checksum or its length is not what it says");
            }
            _crc.Append(buffer[..read]);
            _length += read;
            return read;
        }
        catch (Exception e)
            when (e
                    is InvalidDataException
                        or EndOfStreamException
                        or ZstdSharp.ZstdException
                        or ICSharpCode.SharpZipLib.SharpZipBaseException
            )
        {
            throw Damaged(e.Message);
        }
    }

    StepFailedException Damaged(string why) =>
        new("packed", $"{name} is damaged or was cut off: {why}", "Nothing was loaded. Have it sent again.");

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            content.Dispose();
        base.Dispose(disposing);
    }
}
