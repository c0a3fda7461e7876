namespace GateChain.Storage;

/// <summary>Encrypts secrets for the disk. Thread-safe.</summary>
public interface ISecretCipher
{
    /// <summary>Encrypts a value for the store.</summary>
    string Encrypt(string value);

    /// <exception cref="System.Security.Cryptography.CryptographicException">It was encrypted with another key, or
    /// changed.</exception>
    string Decrypt(string cipher);
}
