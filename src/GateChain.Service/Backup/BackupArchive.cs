using System.Formats.Tar;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using GateChain.Storage;
using ZstdSharp;

namespace GateChain.Service.Backup;

/// <summary>What a backup says of itself.</summary>
/// <param name="Format">How it is laid out: 1.</param>
/// <param name="Program">The version of the program that made it.</param>
/// <param name="Made">The moment that it shows.</param>
/// <param name="Source">Where the data were: <c>file</c> or <c>postgresql</c>.</param>
/// <param name="Keys">Whether the keys of secrets are in it.</param>
/// <param name="Logs">Whether the logs of attempts are in it.</param>
public sealed record BackupAbout(int Format, string Program, DateTimeOffset Made, string Source, bool Keys, bool Logs);

/// <summary>
/// A backup as a file: a tar archive packed by Zstandard. It begins with what it says of itself, and ends with the
/// SHA-256 of everything before, as <c>sha256sum -c</c> reads it.
/// </summary>
static class BackupArchive
{
    /// <summary>The entry that it begins with.</summary>
    public const string About = "about.json";

    /// <summary>The entry that it ends with.</summary>
    public const string Sums = "SHA256SUMS";

    /// <summary>Writes one.</summary>
    public sealed class Writer : IAsyncDisposable
    {
        readonly TarWriter _tar;
        readonly StringBuilder _sums = new();

        public Writer(Stream file, BackupAbout about)
        {
            _tar = new(new CompressionStream(file, leaveOpen: false), TarEntryFormat.Pax, leaveOpen: false);
            var text = JsonSerializer.SerializeToUtf8Bytes(about, JsonSerializerOptions.Web);
            using var content = new MemoryStream(text);
            _tar.WriteEntry(new PaxTarEntry(TarEntryType.RegularFile, About) { DataStream = content });
            Note(SHA256.HashData(text), About);
        }

        void Note(byte[] hash, string name) => _sums.Append($"{Convert.ToHexStringLower(hash)}  {name}\n");

        /// <summary>Adds a file as it is now; what grows meanwhile is not in it.</summary>
        /// <returns>Its size in bytes.</returns>
        public async Task<long> AddAsync(string path, string name, CancellationToken cancel)
        {
            await using var file = new FileStream(
                path,
                FileMode.Open,
                FileAccess.Read,
                FileShare.ReadWrite | FileShare.Delete
            );
            await using var part = new HashedPart(file, file.Length);
            await _tar.WriteEntryAsync(new PaxTarEntry(TarEntryType.RegularFile, name) { DataStream = part }, cancel);
            Note(part.Hash(), name);
            return part.Length;
        }

        /// <summary>Ends it: without its end no backup is one.</summary>
        public async Task EndAsync(CancellationToken cancel)
        {
            using var sums = new MemoryStream(Encoding.UTF8.GetBytes(_sums.ToString()));
            await _tar.WriteEntryAsync(new PaxTarEntry(TarEntryType.RegularFile, Sums) { DataStream = sums }, cancel);
        }

        public ValueTask DisposeAsync() => _tar.DisposeAsync();
    }

    /// <summary>Reads one to its end, and compares every byte with its sum.</summary>
    /// <param name="path">The file.</param>
    /// <param name="take">Takes the content of an entry; null for one that is only to be read.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="StorageException">It is no backup, or it is damaged; what was taken is of no use.</exception>
    public static async Task<BackupAbout> ReadAsync(string path, Func<string, Stream?> take, CancellationToken cancel)
    {
        BackupAbout? about = null;
        var found = new Dictionary<string, string>(StringComparer.Ordinal);
        string? sums = null;
        try
        {
            await using var file = File.OpenRead(path);
            await using var tar = new TarReader(new DecompressionStream(file));
            while (await tar.GetNextEntryAsync(copyData: false, cancel) is { } entry)
            {
                Hold(sums is null && entry.EntryType == TarEntryType.RegularFile && IsName(entry.Name), path);
                await using var content = entry.DataStream ?? Stream.Null;
                if (entry.Name is About or Sums)
                {
                    using var text = new MemoryStream();
                    await content.CopyToAsync(text, cancel);
                    if (entry.Name == Sums)
                    {
                        sums = Encoding.UTF8.GetString(text.ToArray());
                        continue;
                    }
                    about = JsonSerializer.Deserialize<BackupAbout>(text.ToArray(), JsonSerializerOptions.Web);
                    Hold(about?.Format == 1, path);
                    found[About] = Convert.ToHexStringLower(SHA256.HashData(text.ToArray()));
                    continue;
                }
                Hold(about is not null, path);
                await using var target = take(entry.Name);
                found[entry.Name] = await CopyAsync(content, target ?? Stream.Null, cancel);
            }
        }
        catch (Exception e)
            when (e is ZstdException or InvalidDataException or EndOfStreamException or JsonException or FormatException
            )
        {
            throw new StorageException($"{path} is no whole backup: {e.Message}", e);
        }
        Hold(about is not null && sums is not null, path);
        var told = sums!
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .ToDictionary(l => l[66..], l => l[..64], StringComparer.Ordinal);
        var wrong = told.Where(t => found.GetValueOrDefault(t.Key) != t.Value).Select(t => t.Key).Order().ToList();
        if (wrong.Count > 0 || found.Count != told.Count)
        {
            throw new StorageException(
                $"{path} is damaged: {(wrong.Count > 0 ? string.Join(", ", wrong.Take(5)) : "something more")} "
                    + "is not what was written",
                null
            );
        }
        return about!;
    }

    static void Hold(bool holds, string path)
    {
        if (!holds)
            throw new StorageException($"{path} is no whole backup of Gate Chain", null);
    }

    // Nothing that leads elsewhere.
    static bool IsName(string name) =>
        name.Length > 0
        && name[0] != '/'
        && !name.Contains('\\', StringComparison.Ordinal)
        && name.Split('/').All(p => p is not ("" or "." or ".."));

    static async Task<string> CopyAsync(Stream from, Stream to, CancellationToken cancel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var buffer = new byte[1 << 16];
        while (await from.ReadAsync(buffer, cancel) is var read and > 0)
        {
            hash.AppendData(buffer, 0, read);
            await to.WriteAsync(buffer.AsMemory(0, read), cancel);
        }
        await to.FlushAsync(cancel);
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }
}
