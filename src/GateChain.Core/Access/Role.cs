using System.Collections.Frozen;

namespace GateChain.Core.Access;

/// <summary>What is given to people and tokens: a set of permissions with a name.</summary>
public enum Role
{
    /// <summary>Sees.</summary>
    Viewer,

    /// <summary>Sees and operates.</summary>
    Operator,

    /// <summary>Sees, operates and designs.</summary>
    Designer,

    /// <summary>Sees, and keeps connections, secrets and profiles.</summary>
    Keeper,

    /// <summary>Everything, everywhere. Given for the whole workspace only.</summary>
    Admin,
}

/// <summary>What the roles allow.</summary>
public static class Roles
{
    static readonly FrozenDictionary<Role, FrozenSet<Permission>> Allowed = new Dictionary<Role, Permission[]>
    {
        [Role.Viewer] = [Permission.See],
        [Role.Operator] = [Permission.See, Permission.Operate],
        [Role.Designer] = [Permission.See, Permission.Operate, Permission.Design],
        [Role.Keeper] = [Permission.See, Permission.Keep],
        [Role.Admin] = Enum.GetValues<Permission>(),
    }.ToFrozenDictionary(r => r.Key, r => r.Value.ToFrozenSet());

    /// <summary>What a role allows.</summary>
    public static IReadOnlySet<Permission> Permissions(this Role role) => Allowed[role];

    /// <summary>The role that is enough for something and allows the least beside it.</summary>
    public static Role Least(Permission permission) =>
        Allowed.Where(r => r.Value.Contains(permission)).MinBy(r => (r.Value.Count, r.Key)).Key;

    /// <summary>The word for a role, as files, commands and the API write it.</summary>
    public static string Word(this Role role) => role.ToString().ToLowerInvariant();

    /// <summary>The role of a word; null for another word.</summary>
    public static Role? Of(string word)
    {
        foreach (var role in Enum.GetValues<Role>())
        {
            if (role.Word() == word)
                return role;
        }
        return null;
    }

    /// <summary>All words, the lesser roles first.</summary>
    public static IReadOnlyList<string> Words { get; } = [.. Enum.GetValues<Role>().Select(Word)];
}
