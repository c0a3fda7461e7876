using GateChain.Access;
using GateChain.Core.Identity;
using GateChain.Storage;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;

namespace GateChain.Service.Hosting;

/// <summary>What whoever owns the data folder can do about access while no service works on it.</summary>
public static class OfflineAccess
{
    /// <summary>Makes a one-time link for somebody who can't sign in, and whom nobody else can help.</summary>
    /// <returns>What the link holds: it is opened as <c>/welcome#…</c> once the service runs.</returns>
    /// <exception cref="StorageException">The database can't be opened, or a service works on it.</exception>
    /// <exception cref="GateChain.Access.Basics.AccessException">There is no such account, or it signs in
    /// elsewhere.</exception>
    public static async Task<string> MakeLinkAsync(string dataFolder, string name)
    {
        await using var dataLock = GateChainService.Lock(Path.GetFullPath(dataFolder));
        await using var store = new SqliteStore(Path.Combine(dataFolder, "gatechain.db"));
        await using var access = new AccessServices(
            store.Access,
            store.Audit,
            SecretCipher.Create(dataFolder),
            TimeProvider.System,
            NullLogger<AccessServices>.Instance
        );
        await access.StartAsync();
        return await access.People.ResetAsync(
            access.People.Named(name),
            new(ActorKind.Service, "data-folder", "the owner of the data folder")
        );
    }
}
