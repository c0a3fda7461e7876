using System.Security.Cryptography;

namespace GateChain.Engine.Reading;

/// <summary>
/// Keeps the latest snapshot of long runs, a file each. They only shorten the way from the journal to the state: one
/// that is missing or can't be read costs time and nothing else. Thread-safe for different runs.
/// </summary>
public sealed class SnapshotFiles(string folder)
{
    const long MostInMemory = 256 << 20;

    string PathOf(long run) => Path.Combine(folder, $"{run}.snapshot");

    /// <summary>Whether there is one, whole or not.</summary>
    public bool Has(long run) => File.Exists(PathOf(run));

    /// <summary>Writes a snapshot beside the current one; <see cref="Keep"/> puts it in its place.</summary>
    /// <param name="run">The run.</param>
    /// <param name="seq">The number of the last journal row it holds.</param>
    /// <param name="write">Writes the state.</param>
    /// <returns>False when it could not be written; the current one stays.</returns>
    public bool Draft(long run, long seq, Action<Stream> write)
    {
        try
        {
            Directory.CreateDirectory(folder);
            using var file = new FileStream(
                PathOf(run) + ".draft",
                FileMode.Create,
                FileAccess.Write,
                FileShare.None,
                1 << 16
            );
            using var sha = SHA256.Create();
            using (var hashed = new CryptoStream(file, sha, CryptoStreamMode.Write, leaveOpen: true))
            using (var buffered = new BufferedStream(hashed, 1 << 16))
            {
                buffered.Write(BitConverter.GetBytes(seq));
                write(buffered);
            }
            // Tells a whole file from one that was cut off or damaged.
            file.Write(sha.Hash!);
            return true;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    /// <summary>Puts a draft in its place, once the journal holds all that it holds.</summary>
    public void Keep(long run)
    {
        try
        {
            File.Move(PathOf(run) + ".draft", PathOf(run), overwrite: true);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // The older one stays.
        }
    }

    /// <summary>
    /// Reads a run's snapshot with the number of the last row it holds; null when there is none that is whole.
    /// </summary>
    public (T State, long Seq)? Read<T>(long run, Func<Stream, T?> read)
        where T : class
    {
        try
        {
            using var file = new FileStream(PathOf(run), FileMode.Open, FileAccess.Read, FileShare.Read, 1 << 16);
            if (!IsWhole(file))
                return null;
            file.Position = 0;
            var seq = new byte[8];
            file.ReadExactly(seq);
            // Small pieces are read from memory twice as fast as from a file.
            using var content = InMemory(file);
            return read(content ?? (Stream)file) is { } state ? (state, BitConverter.ToInt64(seq)) : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    // The rest of the file; null when it is too long for that.
    static MemoryStream? InMemory(FileStream file)
    {
        var length = file.Length - file.Position;
        if (length > MostInMemory)
            return null;
        var bytes = GC.AllocateUninitializedArray<byte>((int)length);
        file.ReadExactly(bytes);
        return new(bytes, writable: false);
    }

    static bool IsWhole(FileStream file)
    {
        var left = file.Length - SHA256.HashSizeInBytes;
        if (left < 8)
            return false;
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var block = new byte[1 << 16];
        while (left > 0)
        {
            var got = file.Read(block, 0, (int)Math.Min(left, block.Length));
            if (got == 0)
                return false;
            hash.AppendData(block, 0, got);
            left -= got;
        }
        var told = new byte[SHA256.HashSizeInBytes];
        file.ReadExactly(told);
        return hash.GetHashAndReset().AsSpan().SequenceEqual(told);
    }
}
