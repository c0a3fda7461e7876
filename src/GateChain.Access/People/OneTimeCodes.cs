using System.Security.Cryptography;
using GateChain.Access.Basics;
using GateChain.Storage;
using OtpNet;

namespace GateChain.Access.People;

/// <summary>Codes that change every 30 seconds, and those that help when the device is lost.</summary>
/// <remarks>Source: RFC 6238 with its defaults: SHA-1, six digits, 30 seconds.</remarks>
static class OneTimeCodes
{
    const int RecoveryCount = 10;

    /// <summary>What an authenticator makes codes from: 160 bits in base32.</summary>
    public static string NewSecret() => Base32Encoding.ToString(RandomNumberGenerator.GetBytes(20));

    /// <summary>The address that an authenticator reads as a picture.</summary>
    public static string AddressOf(string secret, string name) =>
        new OtpUri(OtpType.Totp, secret, name, "Gate Chain").ToString();

    /// <summary>
    /// The time step that a code is of; null when it is of none near now, or of one that was taken already.
    /// </summary>
    /// <param name="secret">What codes are made from.</param>
    /// <param name="code">What was typed.</param>
    /// <param name="after">The last step that was taken.</param>
    /// <param name="now">The moment.</param>
    public static long? StepOf(string secret, string code, long after, DateTimeOffset now) =>
        new Totp(Base32Encoding.ToBytes(secret)).VerifyTotp(
            now.UtcDateTime,
            code.Replace(" ", "", StringComparison.Ordinal),
            out var step,
            new VerificationWindow(previous: 1, future: 1)
        )
        && step > after
            ? step
            : null;

    /// <summary>Codes to write down, each good for once.</summary>
    public static IReadOnlyList<string> NewRecovery() =>
        [
            .. Enumerable
                .Range(0, RecoveryCount)
                .Select(_ =>
                    $"{RandomNumberGenerator.GetString("abcdefghijkmnpqrstuvwxyz23456789", 6)}-"
                    + RandomNumberGenerator.GetString("abcdefghijkmnpqrstuvwxyz23456789", 6)
                ),
        ];

    /// <summary>What is kept of a recovery code.</summary>
    public static string HashOf(string recovery) => RandomText.Hash($"recovery {recovery.Trim().ToLowerInvariant()}");

    /// <summary>Takes a code of an account, of either sort.</summary>
    /// <returns>The account after it; null when the code is none.</returns>
    public static Account? Take(Account account, string code, ISecretCipher cipher, DateTimeOffset now)
    {
        if (account.CodeCipher is null)
            return null;
        if (StepOf(cipher.Decrypt(account.CodeCipher), code, account.CodeStep, now) is { } step)
            return account with { CodeStep = step };
        var hash = HashOf(code);
        return account.Recovery.Contains(hash)
            ? account with
            {
                Recovery = [.. account.Recovery.Where(h => h != hash)],
            }
            : null;
    }
}
