using GateChain.Core.Identity;

namespace GateChain.Core.Retention;

/// <summary>What a rule is about: one chain, or a folder and all below.</summary>
/// <param name="Chain">The chain's name; null for a folder.</param>
/// <param name="Folder">The folder, where it is about none chain.</param>
public readonly record struct KeepPlace(string? Chain, Area Folder)
{
    const string ChainMark = "chain:",
        FolderMark = "folder:";

    /// <summary>One chain.</summary>
    public static KeepPlace OfChain(string chain) => new(chain, Area.Root);

    /// <summary>A folder and all below.</summary>
    public static KeepPlace OfFolder(Area folder) => new(null, folder);

    /// <summary>A place as <see cref="ToString"/> writes it; null for anything else.</summary>
    public static KeepPlace? Read(string text) =>
        text.StartsWith(ChainMark, StringComparison.Ordinal) && text.Length > ChainMark.Length
            ? OfChain(text[ChainMark.Length..])
        : text.StartsWith(FolderMark, StringComparison.Ordinal) && Area.IsPath(text[FolderMark.Length..])
            ? OfFolder(new(text[FolderMark.Length..]))
        : null;

    public override string ToString() => Chain is null ? FolderMark + Folder.Path : ChainMark + Chain;
}

/// <summary>The rules of a service: a chain's own counts first, then that of the nearest folder. Immutable.</summary>
public sealed class KeepRules(IReadOnlyDictionary<KeepPlace, KeepRule> all)
{
    /// <summary>No rules: everything is kept.</summary>
    public static KeepRules None { get; } = new(new Dictionary<KeepPlace, KeepRule>());

    /// <summary>All of them.</summary>
    public IReadOnlyDictionary<KeepPlace, KeepRule> All => all;

    /// <summary>The rule for a chain, and where it stands; null where nobody has said anything.</summary>
    /// <param name="chain">Its name.</param>
    /// <param name="area">The folder that it lies in.</param>
    public (KeepPlace Place, KeepRule Rule)? Of(string chain, Area area)
    {
        foreach (var place in area.Upward.Select(KeepPlace.OfFolder).Prepend(KeepPlace.OfChain(chain)))
        {
            if (all.TryGetValue(place, out var rule))
                return (place, rule);
        }
        return null;
    }
}
