using GateChain.Core.Identity;

namespace GateChain.Core.Access;

/// <summary>A role in an area and all that lies below it. Immutable.</summary>
/// <param name="Role">The role.</param>
/// <param name="Area">Where it is given.</param>
public readonly record struct Grant(Role Role, Area Area)
{
    /// <summary>
    /// A role and its folder, or the role alone for the whole workspace: <c>operator:sales/daily</c>.
    /// </summary>
    public override string ToString() => Area == Area.Root ? Role.Word() : $"{Role.Word()}:{Area.Path}";

    /// <summary>Reads what <see cref="ToString"/> writes.</summary>
    /// <returns>The grant, or what is wrong with it, in a sentence. Never throws.</returns>
    public static (Grant? Grant, string? Problem) Parse(string? text)
    {
        // A list of a request may hold a null.
        text ??= "";
        var (word, folder) = text.Split(':', 2) is [var w, var f] ? (w, f.Trim('/')) : (text, "");
        if (Roles.Of(word) is not { } role)
            return (null, $"there is no role “{word}”; roles are {string.Join(", ", Roles.Words)}");
        if (!Area.IsPath(folder) || folder.Contains(':', StringComparison.Ordinal))
            return (null, $"“{folder}” is no folder of the workspace");
        return role == Role.Admin && folder.Length > 0
            ? (null, "an admin is one of the whole workspace: the role is given without a folder")
            : (new Grant(role, new(folder)), null);
    }
}
