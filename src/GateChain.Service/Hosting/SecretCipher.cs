using System.Security.Cryptography;
using System.Text;
using GateChain.Storage;
using Microsoft.AspNetCore.DataProtection;

namespace GateChain.Service.Hosting;

/// <summary>
/// How secrets are encrypted: with a key from the environment, or else with keys of ASP.NET Core's data protection in
/// the data folder.
/// </summary>
static class SecretCipher
{
    /// <summary>The environment variable with a key: 32 bytes in base64.</summary>
    public const string Variable = "GATECHAIN_SECRET_KEY";

    /// <param name="dataFolder">Where keys are that nobody gave.</param>
    /// <param name="isShared">Whether other services have to read what this one encrypts.</param>
    /// <exception cref="StorageException">The variable holds no key, or there has to be one.</exception>
    public static ISecretCipher Create(string dataFolder, bool isShared = false)
    {
        if (KeyText() is { Length: > 0 } text)
        {
            var key = new byte[32];
            if (!Convert.TryFromBase64String(text, key, out var length) || length != key.Length)
            {
                throw new StorageException(
                    $"{Variable} is not a key: 32 bytes in base64, for example from “openssl rand -base64 32”",
                    new FormatException()
                );
            }
            return new KeyCipher(key);
        }
        if (isShared)
        {
            throw new StorageException(
                "nodes read each other's secrets, so all of them need the same key: put one into a file that only the "
                    + $"service reads (openssl rand -base64 32) and name it in {FileVariable}",
                null
            );
        }
        var folder = Directory.CreateDirectory(
            Path.Combine(dataFolder, "keys"),
            UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute
        );
        return new FolderCipher(
            DataProtectionProvider.Create(folder, c => c.SetApplicationName("gatechain")).CreateProtector("secrets")
        );
    }

    /// <summary>Another key, made from the one that is shared: 32 bytes.</summary>
    /// <param name="cipher">What has it.</param>
    /// <param name="purpose">What it is for: other keys for other things.</param>
    public static byte[] Derive(ISecretCipher cipher, string purpose) => ((KeyCipher)cipher).Derive(purpose);

    /// <summary>The environment variable with the path of a file that holds the key instead.</summary>
    public const string FileVariable = "GATECHAIN_SECRET_KEY_FILE";

    // Read once; after that neither a program that the service starts nor its own environment has it any more.
    static string? KeyText()
    {
        if (Environment.GetEnvironmentVariable(FileVariable) is { Length: > 0 } file)
        {
            try
            {
                return File.ReadAllText(file).Trim();
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                throw new StorageException($"{FileVariable} names a file that can't be read: {e.Message}", e);
            }
        }
        var text = Environment.GetEnvironmentVariable(Variable);
        if (text is { Length: > 0 })
        {
            ProcessSecrets.Forget(Variable, text);
            Kept[Variable] = text;
            return text;
        }
        return Kept.GetValueOrDefault(Variable);
    }

    // For services that one process starts one after the other, as tests do.
    static readonly System.Collections.Concurrent.ConcurrentDictionary<string, string> Kept = new();

    sealed class FolderCipher(IDataProtector protector) : ISecretCipher
    {
        public string Encrypt(string value) => protector.Protect(value);

        public string Decrypt(string cipher) => protector.Unprotect(cipher);
    }

    /// <summary>AES-256-GCM: nonce, tag and text in one.</summary>
    sealed class KeyCipher(byte[] key) : ISecretCipher
    {
        public byte[] Derive(string purpose) =>
            HKDF.DeriveKey(HashAlgorithmName.SHA256, key, 32, info: Encoding.UTF8.GetBytes(purpose));

        const string Mark = "key1:";
        const int Nonce = 12,
            Tag = 16;

        public string Encrypt(string value)
        {
            var plain = Encoding.UTF8.GetBytes(value);
            var sealedText = new byte[Nonce + Tag + plain.Length];
            RandomNumberGenerator.Fill(sealedText.AsSpan(0, Nonce));
            using var aes = new AesGcm(key, Tag);
            aes.Encrypt(
                sealedText.AsSpan(0, Nonce),
                plain,
                sealedText.AsSpan(Nonce + Tag),
                sealedText.AsSpan(Nonce, Tag)
            );
            return Mark + Convert.ToBase64String(sealedText);
        }

        public string Decrypt(string cipher)
        {
            if (!cipher.StartsWith(Mark, StringComparison.Ordinal))
                throw new CryptographicException("it was encrypted in another way");
            byte[] sealedText;
            try
            {
                sealedText = Convert.FromBase64String(cipher[Mark.Length..]);
            }
            catch (FormatException e)
            {
                throw new CryptographicException("what is stored is damaged", e);
            }
            if (sealedText.Length < Nonce + Tag)
                throw new CryptographicException("what is stored is damaged");
            var plain = new byte[sealedText.Length - Nonce - Tag];
            using var aes = new AesGcm(key, Tag);
            aes.Decrypt(
                sealedText.AsSpan(0, Nonce),
                sealedText.AsSpan(Nonce + Tag),
                sealedText.AsSpan(Nonce, Tag),
                plain
            );
            return Encoding.UTF8.GetString(plain);
        }
    }
}
