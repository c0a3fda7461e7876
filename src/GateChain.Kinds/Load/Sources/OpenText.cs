using System.IO.Compression;
using System.Text;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A file of texts on its way to who reads rows of it: unpacked, decoded, without what is left out.</summary>
/// <param name="name">The path as the settings have it.</param>
/// <param name="path">The full path.</param>
/// <param name="from">How it is read.</param>
sealed class OpenText(string name, string path, LoadFrom from)
{
    /// <summary>The path as the settings have it.</summary>
    public string Name => name;

    /// <summary>The full path.</summary>
    public string Path => path;

    /// <summary>How it is read.</summary>
    public LoadFrom From => from;

    static OpenText() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>How it is packed.</summary>
    public LoadPacking Packing =>
        from.Packed
        ?? System.IO.Path.GetExtension(path).ToLowerInvariant() switch
        {
            ".gz" => LoadPacking.Gzip,
            ".zst" => LoadPacking.Zstd,
            ".zip" => LoadPacking.Zip,
            _ => LoadPacking.None,
        };

    /// <summary>What is in the file, unpacked.</summary>
    /// <param name="file">At its beginning; disposed of with the result.</param>
    /// <exception cref="StepFailedException">It is no archive, or does not hold one such file.</exception>
    public Stream Unpack(FileStream file)
    {
        switch (Packing)
        {
            case LoadPacking.Gzip:
                return PackedStream.Gzip(name, file);
            case LoadPacking.Zstd:
                return new PackedStream(name, new ZstdSharp.DecompressionStream(file, leaveOpen: false), (_, _) =>
                    true
                );
            case LoadPacking.Zip:
                return Entry(file);
            default:
                return file;
        }
    }

    Stream Entry(FileStream file)
    {
        ZipArchive archive;
        try
        {
            archive = new(file, ZipArchiveMode.Read);
        }
        catch (InvalidDataException e)
        {
            throw new StepFailedException("packed", $"{name} is no zip archive: {e.Message}");
        }
        var files = archive.Entries.Where(e => !e.FullName.EndsWith('/')).ToList();
        var meant = from.Entry is { } wanted
            ? files.Where(e => NamePattern.Fits(e.FullName, wanted) || NamePattern.Fits(e.Name, wanted)).ToList()
            : files;
        return meant is [var only]
            ? new PackedStream(name, only.Open(), (crc, length) => crc == only.Crc32 && length == only.Length)
            : throw new StepFailedException(
                "packed",
                $"{name} holds {(meant.Count == 0 ? "no" : $"{meant.Count}")} files"
                    + $"{(from.Entry is null ? "" : $" like {from.Entry}")}; one is read",
                $"It holds: {string.Join(", ", files.Take(10).Select(e => e.FullName))}. Say which with “entry”."
            );
    }

    /// <summary>The text of it, and what was none in it.</summary>
    /// <exception cref="StepFailedException">There is no encoding of that name.</exception>
    public (TextReader Text, MarkedText Marks) Decode(Stream content)
    {
        var (reader, marks) = MarkedText.Open(content, Named(from.Text.Encoding));
        TextReader text = reader;
        for (var i = 0; i < from.Text.Skip; i++)
            PassLine(reader);
        if (from.Text.SkipEnd > 0)
            text = new TextWithoutEnd(text, from.Text.SkipEnd);
        return (text, marks);
    }

    // However long it is.
    static void PassLine(StreamReader reader)
    {
        int sign;
        do sign = reader.Read();
        while (sign is not (-1 or '\n'));
    }

    static Encoding? Named(string? encoding)
    {
        try
        {
            return encoding is null ? null : Encoding.GetEncoding(encoding);
        }
        catch (ArgumentException)
        {
            throw new StepFailedException(
                "setting",
                $"there is no encoding “{encoding}”",
                "Encodings are named as in the IANA registry: windows-1252, iso-8859-15, utf-16."
            );
        }
    }

    /// <summary>A character that a setting says; null for none.</summary>
    /// <exception cref="StepFailedException">It is longer than a character.</exception>
    public static char? Character(string setting, string? text) =>
        text switch
        {
            null or "" or "none" => null,
            "tab" => '\t',
            { Length: 1 } => text[0],
            _ => throw new StepFailedException("setting", $"“{setting}” is one character, and not “{text}”"),
        };
}
