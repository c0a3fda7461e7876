using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using System.Text;
using GateChain.Core.Chains;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>What belongs to a release: the chain file and the attachments it names.</summary>
static class ReleaseContent
{
    /// <summary>The release of a chain file, named by a hash over all of it.</summary>
    /// <param name="chain">The chain, read from <paramref name="source"/>.</param>
    /// <param name="source">The chain file.</param>
    /// <param name="files">Files that attachments are taken from, by name.</param>
    /// <param name="now">When it is made.</param>
    public static Release Of(Chain chain, string source, IReadOnlyDictionary<string, byte[]> files, DateTimeOffset now)
    {
        var attached = AttachmentsOf(chain)
            .Distinct()
            .Where(files.ContainsKey)
            .Order(StringComparer.Ordinal)
            .ToDictionary(n => n, n => files[n]);
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        hash.AppendData(Encoding.UTF8.GetBytes(source));
        foreach (var (name, content) in attached)
        {
            hash.AppendData(Encoding.UTF8.GetBytes($"\0{name}\0"));
            hash.AppendData(content);
        }
        return new(Convert.ToHexStringLower(hash.GetHashAndReset()), chain.Name, chain.Title, source, attached, now);
    }

    /// <summary>The names of the attachments that a chain uses.</summary>
    public static IEnumerable<string> AttachmentsOf(Chain chain) =>
        chain.AllSteps.SelectMany(AttachmentNames.In).Select(a => a.Name);

    static readonly ConditionalWeakTable<Chain, object> WithFiles = [];

    /// <summary>Whether a chain uses any; looked for once.</summary>
    public static bool HasAttachments(Chain chain) => (bool)WithFiles.GetValue(chain, c => AttachmentsOf(c).Any());
}
