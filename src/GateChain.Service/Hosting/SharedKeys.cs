using System.Xml.Linq;
using GateChain.Core.Identity;
using GateChain.Storage;
using Microsoft.AspNetCore.DataProtection.Repositories;

namespace GateChain.Service.Hosting;

/// <summary>
/// The keys of ASP.NET Core's data protection where several services share a database: in it, encrypted with the key
/// that all of them have. Thread-safe.
/// </summary>
sealed class SharedKeys(IAccessStore store, ISecretCipher cipher) : IXmlRepository
{
    const string Prefix = "key/";

    public IReadOnlyCollection<XElement> GetAllElements() =>
        [
            .. store
                .LoadAsync()
                .AsTask()
                .GetAwaiter()
                .GetResult()
                .Settings.Where(s => s.Key.StartsWith(Prefix, StringComparison.Ordinal))
                .Select(s => XElement.Parse(cipher.Decrypt(s.Value))),
        ];

    public void StoreElement(XElement element, string friendlyName) =>
        store
            .SetAsync(
                Prefix + friendlyName,
                cipher.Encrypt(element.ToString(SaveOptions.DisableFormatting)),
                new(
                    TimeProvider.System.GetUtcNow(),
                    new(ActorKind.Service, "keys", "the service"),
                    "set",
                    $"key {friendlyName}"
                )
            )
            .GetAwaiter()
            .GetResult();
}
