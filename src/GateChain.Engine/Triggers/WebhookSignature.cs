using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace GateChain.Engine.Triggers;

/// <summary>Signatures of calls, as the Standard Webhooks specification has them. Thread-safe.</summary>
/// <remarks>Source: standard-webhooks, version 1.0.0, sections on signing and verifying.</remarks>
public static class WebhookSignature
{
    /// <summary>How old a call may be, and how far ahead of this clock.</summary>
    public static TimeSpan Tolerance { get; } = TimeSpan.FromMinutes(5);

    const string SecretPrefix = "whsec_",
        Version = "v1,";

    /// <summary>The signature of a call.</summary>
    /// <param name="secret">The secret: <c>whsec_</c> and Base64, or any text.</param>
    /// <param name="id">The call's id.</param>
    /// <param name="timestamp">Seconds since 1970, as text.</param>
    /// <param name="body">The body.</param>
    public static string Sign(string secret, string id, string timestamp, ReadOnlySpan<byte> body)
    {
        using var hash = IncrementalHash.CreateHMAC(HashAlgorithmName.SHA256, KeyOf(secret));
        hash.AppendData(Encoding.UTF8.GetBytes($"{id}.{timestamp}."));
        hash.AppendData(body);
        return Version + Convert.ToBase64String(hash.GetHashAndReset());
    }

    /// <summary>Why a call is not accepted; null when it is.</summary>
    /// <param name="secrets">The secrets; one of them has to fit.</param>
    /// <param name="id">Its id; null when it has none.</param>
    /// <param name="timestamp">Its timestamp; null when it has none.</param>
    /// <param name="signatures">Its signatures, with blanks between.</param>
    /// <param name="body">The body.</param>
    /// <param name="now">The moment.</param>
    public static string? Refuse(
        IEnumerable<string> secrets,
        string? id,
        string? timestamp,
        string? signatures,
        ReadOnlySpan<byte> body,
        DateTimeOffset now
    )
    {
        if (string.IsNullOrEmpty(id) || timestamp is null || string.IsNullOrEmpty(signatures))
            return "webhook-id, webhook-timestamp or webhook-signature is missing";
        if (
            !long.TryParse(timestamp, NumberStyles.None, CultureInfo.InvariantCulture, out var seconds)
            || seconds > 253_402_300_799
            || (now - DateTimeOffset.FromUnixTimeSeconds(seconds)).Duration() > Tolerance
        )
        {
            return "webhook-timestamp is more than five minutes away";
        }
        foreach (var secret in secrets)
        {
            var own = Encoding.ASCII.GetBytes(Sign(secret, id, timestamp, body));
            foreach (var given in signatures.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            {
                if (CryptographicOperations.FixedTimeEquals(own, Encoding.UTF8.GetBytes(given)))
                    return null;
            }
        }
        return "the signature does not fit";
    }

    static byte[] KeyOf(string secret)
    {
        if (!secret.StartsWith(SecretPrefix, StringComparison.Ordinal))
            return Encoding.UTF8.GetBytes(secret);
        var key = new byte[secret.Length];
        return Convert.TryFromBase64String(secret[SecretPrefix.Length..], key, out var length)
            ? key[..length]
            : Encoding.UTF8.GetBytes(secret);
    }
}
