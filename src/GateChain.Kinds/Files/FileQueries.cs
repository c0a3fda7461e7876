using System.Buffers;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace GateChain.Kinds.Files;

/// <summary>Reads files without changing anything.</summary>
static class FileQueries
{
    // Of a first line that never ends this much is taken.
    const int LongestHeader = 10_000;

    public static FileReport At(List<FileInfo> found, bool lines, CancellationToken cancel)
    {
        var report = new FileReport();
        foreach (var file in found)
            report.Add(file);
        if (!lines)
            return report;
        report.Lines = found.Sum(f => CountLines(f, cancel));
        report.Header = found.MaxBy(f => f.LastWriteTimeUtc) is { } newest ? FirstLine(newest) : "";
        report.Notes.Add(string.Create(CultureInfo.InvariantCulture, $"{report.Lines:N0} lines"));
        return report;
    }

    // A last line without an end is a line too.
    static long CountLines(FileInfo file, CancellationToken cancel)
    {
        using var stream = file.OpenRead();
        var buffer = ArrayPool<byte>.Shared.Rent(1 << 16);
        try
        {
            long lines = 0;
            byte last = (byte)'\n';
            for (int read; (read = stream.Read(buffer)) > 0; last = buffer[read - 1])
            {
                cancel.ThrowIfCancellationRequested();
                lines += buffer.AsSpan(0, read).Count((byte)'\n');
            }
            return last == '\n' ? lines : lines + 1;
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    static string FirstLine(FileInfo file)
    {
        using var reader = new StreamReader(file.FullName, Encoding.UTF8);
        var line = new StringBuilder();
        for (int c; line.Length < LongestHeader && (c = reader.Read()) is not (-1 or '\n' or '\r'); )
            line.Append((char)c);
        return line.ToString();
    }

    public static FileReport Hash(List<FileInfo> found, FileHash algorithm, CancellationToken cancel)
    {
        var report = new FileReport();
        foreach (var file in found)
        {
            cancel.ThrowIfCancellationRequested();
            using var stream = file.OpenRead();
            var hash = Convert.ToHexStringLower(CryptographicOperations.HashData(Name(algorithm), stream));
            report.Add(file, hash);
            report.Notes.Add($"{hash}  {file.FullName}");
        }
        return report;
    }

    static HashAlgorithmName Name(FileHash algorithm) =>
        algorithm switch
        {
            FileHash.Sha512 => HashAlgorithmName.SHA512,
            FileHash.Sha1 => HashAlgorithmName.SHA1,
            FileHash.Md5 => HashAlgorithmName.MD5,
            _ => HashAlgorithmName.SHA256,
        };
}
