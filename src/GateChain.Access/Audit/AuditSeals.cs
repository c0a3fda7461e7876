using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using GateChain.Storage;

namespace GateChain.Access.Audit;

/// <summary>
/// Hashes that chain the lines of the audit log: each is of its line and of the hash before it. Pure.
/// </summary>
public static class AuditSeals
{
    /// <summary>The seal of a line.</summary>
    /// <param name="before">The seal of the line before it; empty for the first.</param>
    /// <param name="entry">The line.</param>
    /// <returns>SHA-256 in hexadecimal.</returns>
    public static string Of(string before, AuditEntry entry)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        // Each part comes with its length: nothing can move from one to the next. A part that is not there is told
        // apart from an empty one.
        void Add(string? part)
        {
            var bytes = part is null ? [] : Encoding.UTF8.GetBytes(part);
            hash.AppendData(
                Encoding.ASCII.GetBytes(
                    part is null ? "-;" : string.Create(CultureInfo.InvariantCulture, $"{bytes.Length};")
                )
            );
            hash.AppendData(bytes);
        }
        var line = entry.Line;
        Add(before);
        Add(entry.Number.ToString(CultureInfo.InvariantCulture));
        Add(line.At.ToString("O", CultureInfo.InvariantCulture));
        Add(line.By.Kind.ToString());
        Add(line.By.Id);
        Add(line.By.Name);
        Add(line.By.Source);
        Add(line.By.Through);
        Add(line.Action);
        Add(line.Object);
        Add(line.Detail);
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }
}
