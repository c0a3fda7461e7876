using GateChain.Core.Identity;

namespace GateChain.Storage;

/// <summary>A secret as it is kept.</summary>
/// <param name="Area">The folder of the workspace that may use it, and those below.</param>
/// <param name="Cipher">The value, encrypted.</param>
/// <param name="Author">Who set it last.</param>
public sealed record StoredSecret(string Name, Area Area, string Cipher, string Author, DateTimeOffset Changed);

/// <summary>Keeps secrets, encrypted by who uses this. Thread-safe.</summary>
public interface ISecretStore
{
    /// <summary>All of them, by name.</summary>
    ValueTask<IReadOnlyList<StoredSecret>> AllAsync();

    /// <summary>Sets a secret, in the place of an earlier one; it is on disk when this returns.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetAsync(StoredSecret secret, AuditLine audit);

    /// <summary>Takes a secret away.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task RemoveAsync(string name, AuditLine audit);
}
