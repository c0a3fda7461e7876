using GateChain.Core.Chains;
using GateChain.Core.Identity;

namespace GateChain.Engine.Secrets;

/// <summary>
/// Secrets that stand in files of the machine: mounted by who runs the service, or handed over by systemd. The file
/// <c>sales/warehouse</c> of the folder is <c>secret:file:sales/warehouse</c>, for chains and connections of
/// <c>sales</c> and below; one of the folder itself is for all. Each use reads it, so a change holds at once.
/// Thread-safe.
/// </summary>
/// <param name="folder">The folder; null for none.</param>
sealed class SecretFiles(string? folder)
{
    // Longer files are none, and neither are those that could not be hidden in logs.
    const int MostBytes = 65_536;

    /// <summary>Whether a name is one of a file.</summary>
    public static bool IsOne(string name) => name.StartsWith(SecretNames.FilePrefix, StringComparison.Ordinal);

    /// <summary>Whether there is a file for a name that an area may use.</summary>
    public bool Has(string name, Area area) => Find(name, area) is not null;

    /// <summary>Its content without the line's end; null when there is none, or it can't be read.</summary>
    public string? Find(string name, Area area)
    {
        if (PathOf(name, area) is not { } path)
            return null;
        try
        {
            return
                new FileInfo(path) is { Exists: true, Length: <= MostBytes }
                && File.ReadAllText(path).TrimEnd('\r', '\n') is { Length: >= SecretMask.Shortest } value
                ? value
                : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    // No name leads out of the folder: its parts are plain names.
    string? PathOf(string name, Area area)
    {
        var parts = name[SecretNames.FilePrefix.Length..].Split('/');
        return folder is not null && parts.All(IsPlain) && new Area(string.Join('/', parts[..^1])).Holds(area)
            ? Path.Combine([folder, .. parts])
            : null;
    }

    static bool IsPlain(string part) =>
        part.Length is > 0 and <= 100
        && part[0] != '.'
        && part.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.');
}
