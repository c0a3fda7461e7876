using GateChain.Storage;

namespace GateChain.Bench;

/// <summary>For engines that keep no secrets.</summary>
sealed class NoSecrets : ISecretCipher
{
    public string Encrypt(string value) => throw new NotSupportedException();

    public string Decrypt(string cipher) => throw new NotSupportedException();
}
