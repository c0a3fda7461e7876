using System.Globalization;
using System.IO.Compression;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Files;

/// <summary>Packs files into archives and takes them out.</summary>
static class Packing
{
    /// <exception cref="StepFailedException">The archive leads outside, is there already, or can't hold so many
    /// files.</exception>
    public static FileReport Pack(
        FilePlace place,
        List<FileInfo> found,
        FileSettings settings,
        CancellationToken cancel
    )
    {
        var to = place.Resolve(settings.To!);
        Free(to, settings);
        var gzip = FormatOf(settings, settings.To!) == ArchiveFormat.Gzip;
        if (gzip && found.Count > 1)
        {
            throw new StepFailedException(
                "archive",
                $"{found.Count} files match {settings.Path}, and a gzip file holds one",
                "Say format: zip."
            );
        }
        var sources = found.Where(f => f.FullName != to).ToList();
        WholeFile.Write(to, target =>
        {
            if (gzip)
            {
                using var packed = new GZipStream(target, CompressionLevel.Optimal, leaveOpen: true);
                Copy(sources[0], packed, cancel);
            }
            else
            {
                Zip(sources, Root(settings.Path, place), target, cancel);
            }
        });
        var report = new FileReport();
        report.Add(new(to));
        report.Notes.Add(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{sources.Count} files, {sources.Sum(f => f.Length):N0} bytes, packed into {to}: "
                    + $"{new FileInfo(to).Length:N0} bytes"
            )
        );
        return report;
    }

    static void Zip(List<FileInfo> sources, string root, Stream target, CancellationToken cancel)
    {
        using var archive = new ZipArchive(target, ZipArchiveMode.Create, leaveOpen: true);
        foreach (var file in sources)
        {
            var entry = archive.CreateEntry(Path.GetRelativePath(root, file.FullName), CompressionLevel.Optimal);
            entry.LastWriteTime = file.LastWriteTime;
            using var packed = entry.Open();
            Copy(file, packed, cancel);
        }
    }

    // Names in the archive start from where the pattern's wildcards do.
    static string Root(string pattern, FilePlace place)
    {
        var full = Path.GetFullPath(pattern, place.From);
        var wild = full.IndexOfAny(['*', '?']);
        return wild < 0 ? Path.GetDirectoryName(full)! : full[..Math.Max(1, full.LastIndexOf('/', wild))];
    }

    /// <exception cref="StepFailedException">What would come out leads outside, is there already, or is too
    /// much.</exception>
    public static FileReport Unpack(
        FilePlace place,
        List<FileInfo> found,
        FileSettings settings,
        CancellationToken cancel
    )
    {
        if (found.Count > 1)
        {
            throw new StepFailedException(
                "file",
                $"{found.Count} files match {settings.Path}; unpack takes one",
                "An each step goes over several."
            );
        }
        var report = new FileReport();
        var left = settings.MaxBytes;
        if (FormatOf(settings, found[0].Name) == ArchiveFormat.Gzip)
        {
            var to = place.Resolve(
                settings.To!.EndsWith('/') ? settings.To + Path.GetFileNameWithoutExtension(found[0].Name) : settings.To
            );
            Free(to, settings);
            using var packed = new GZipStream(found[0].OpenRead(), CompressionMode.Decompress);
            WholeFile.Write(to, target => left -= Copy(packed, target, left, settings.MaxBytes, cancel));
            report.Add(new(to));
            return report;
        }
        using var archive = ZipFile.OpenRead(found[0].FullName);
        // All names are looked at before the first file is written: a name may lead out of the folder.
        var folder = place.Resolve(settings.To!);
        var entries = archive
            .Entries.Where(e => !e.FullName.EndsWith('/'))
            .Select(e => (Entry: e, To: Inside(place, folder, e.FullName, found[0].Name)))
            .ToList();
        foreach (var (_, to) in entries)
            Free(to, settings);
        var written = new List<string>();
        // All of it is written beside its places first: what is there stays until everything has come out well.
        var parts = new List<(string Part, string To)>();
        try
        {
            foreach (var (entry, to) in entries)
            {
                Directory.CreateDirectory(Path.GetDirectoryName(to)!);
                var part = WholeFile.PartOf(to);
                parts.Add((part, to));
                using var packed = entry.Open();
                using var file = new FileStream(
                    part,
                    FileMode.CreateNew,
                    FileAccess.ReadWrite,
                    FileShare.None,
                    1 << 16
                );
                left -= Copy(packed, file, left, settings.MaxBytes, cancel);
                file.Flush(flushToDisk: true);
                file.Position = 0;
                var crc = new System.IO.Hashing.Crc32();
                crc.Append(file);
                if (crc.GetCurrentHashAsUInt32() != entry.Crc32 || file.Length != entry.Length)
                {
                    throw new StepFailedException(
                        "damaged",
                        $"{found[0].Name} is damaged: “{entry.FullName}” does not have the checksum that "
                            + "the archive says",
                        "Nothing was taken out of it."
                    );
                }
            }
            foreach (var (part, to) in parts)
            {
                File.Move(part, to, overwrite: settings.Overwrite);
                written.Add(to);
            }
        }
        finally
        {
            foreach (var (part, _) in parts)
                WholeFile.End(part);
        }
        foreach (var path in written)
            report.Add(new(path));
        report.Notes.Add(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{written.Count} files, {settings.MaxBytes - left:N0} bytes, taken out of {found[0].Name}"
            )
        );
        return report;
    }

    static string Inside(FilePlace place, string folder, string name, string archive)
    {
        var to = Path.GetFullPath(name, folder);
        return to.StartsWith(folder.TrimEnd('/') + "/", StringComparison.Ordinal)
            ? place.Resolve(to)
            : throw new StepFailedException(
                "outside",
                $"{archive} holds “{name}”, which leads out of {folder}",
                "Nothing was taken out of it."
            );
    }

    static ArchiveFormat FormatOf(FileSettings settings, string name) =>
        settings.Format
        ?? (
            name.EndsWith(".zip", StringComparison.OrdinalIgnoreCase) ? ArchiveFormat.Zip
            : name.EndsWith(".gz", StringComparison.OrdinalIgnoreCase) ? ArchiveFormat.Gzip
            : throw new StepFailedException(
                "setting",
                $"{name} ends in neither .zip nor .gz; say which it is with “format”"
            )
        );

    static void Free(string path, FileSettings settings)
    {
        if (!settings.Overwrite && File.Exists(path))
            throw new StepFailedException("exists", $"{path} exists already", "Set overwrite: true to replace it.");
    }

    static void Copy(FileInfo file, Stream to, CancellationToken cancel)
    {
        using var source = file.OpenRead();
        Copy(source, to, long.MaxValue, long.MaxValue, cancel);
    }

    // A small archive can hold very much.
    static long Copy(Stream from, Stream to, long most, long limit, CancellationToken cancel)
    {
        var buffer = new byte[1 << 16];
        long copied = 0;
        for (int read; (read = from.Read(buffer)) > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            if ((copied += read) > most)
            {
                throw new StepFailedException(
                    "size",
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"more than {limit:N0} bytes would come out of the archive"
                    ),
                    "Nothing of it stays. Raise maxBytes if that is right."
                );
            }
            to.Write(buffer, 0, read);
        }
        return copied;
    }
}
