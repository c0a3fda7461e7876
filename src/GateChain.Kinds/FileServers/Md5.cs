using System.Security.Cryptography;

namespace GateChain.Kinds.FileServers;

/// <summary>
/// The sum that stores of objects know their content by. It finds what was damaged on its way, not what somebody has
/// forged.
/// </summary>
static class Md5
{
    /// <summary>The sum of some bytes of a stream, which stands at their beginning then; null when there are fewer.
    /// </summary>
    public static byte[]? Of(Stream content, long from, long length)
    {
        using var sum = IncrementalHash.CreateHash(HashAlgorithmName.MD5);
        var buffer = new byte[1 << 16];
        content.Position = from;
        while (length > 0)
        {
            var read = content.Read(buffer, 0, (int)Math.Min(buffer.Length, length));
            if (read == 0)
                return null;
            sum.AppendData(buffer, 0, read);
            length -= read;
        }
        content.Position = from;
        return sum.GetHashAndReset();
    }

    /// <summary>The sum of a file.</summary>
    public static byte[] OfFile(string path)
    {
        using var content = File.OpenRead(path);
        return Of(content, 0, content.Length)!;
    }
}
