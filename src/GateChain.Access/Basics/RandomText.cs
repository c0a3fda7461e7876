using System.Security.Cryptography;
using System.Text;

namespace GateChain.Access.Basics;

/// <summary>Texts that nobody can guess, and what is kept of them.</summary>
static class RandomText
{
    /// <summary>256 random bits in letters, digits, <c>-</c> and <c>_</c>.</summary>
    public static string Secret() => System.Buffers.Text.Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(32));

    /// <summary>What names something for good and is no secret: 12 letters and digits.</summary>
    public static string Id() => RandomNumberGenerator.GetString("abcdefghijkmnpqrstuvwxyz23456789", 12);

    /// <summary>The hash of a text that nobody can guess, in hexadecimal. Passwords are hashed otherwise.</summary>
    public static string Hash(string secret) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(secret)));
}
