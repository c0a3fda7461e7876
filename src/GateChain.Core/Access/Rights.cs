using GateChain.Core.Identity;

namespace GateChain.Core.Access;

/// <summary>What somebody may do, and where. Immutable; thread-safe.</summary>
public sealed class Rights
{
    // By permission: the areas that it is given for, none of them below another.
    readonly IReadOnlyList<Area>[] _areas;

    /// <param name="grants">Their roles.</param>
    public Rights(IEnumerable<Grant> grants)
    {
        Grants = [.. grants.Distinct()];
        _areas =
        [
            .. Enum.GetValues<Permission>()
                .Select(p =>
                {
                    var given = Grants.Where(g => g.Role.Permissions().Contains(p)).Select(g => g.Area).Distinct();
                    return (IReadOnlyList<Area>)
                        [.. given.Where(a => !given.Any(other => other != a && other.Holds(a)))];
                }),
        ];
    }

    /// <summary>Of somebody without a role.</summary>
    public static Rights None { get; } = new([]);

    /// <summary>Of who may everything.</summary>
    public static Rights All { get; } = new([new(Role.Admin, Area.Root)]);

    /// <summary>The roles that they come from.</summary>
    public IReadOnlyList<Grant> Grants { get; }

    /// <summary>The areas in which something is allowed, with all that lies below them.</summary>
    public IReadOnlyList<Area> Areas(Permission permission) => _areas[(int)permission];

    /// <summary>Whether something is allowed in an area.</summary>
    public bool Allow(Permission permission, Area area)
    {
        foreach (var given in _areas[(int)permission])
        {
            if (given.Holds(area))
                return true;
        }
        return false;
    }

    /// <summary>Whether something is allowed in some area at least.</summary>
    public bool AllowSomewhere(Permission permission) => _areas[(int)permission].Count > 0;

    /// <summary>Whether something is allowed in the whole workspace.</summary>
    public bool AllowEverywhere(Permission permission) => Allow(permission, Area.Root);

    /// <summary>What both allow: a token never allows more than its owner may.</summary>
    public Rights Within(Rights other)
    {
        var both = new List<Grant>();
        foreach (var mine in Grants)
        {
            foreach (var theirs in other.Grants)
            {
                Area? area =
                    mine.Area.Holds(theirs.Area) ? theirs.Area
                    : theirs.Area.Holds(mine.Area) ? mine.Area
                    : null;
                if (area is not { } common)
                    continue;
                // The greatest roles whose permissions both have.
                var shared = mine.Role.Permissions().Intersect(theirs.Role.Permissions()).ToHashSet();
                both.AddRange(
                    Enum.GetValues<Role>()
                        .Where(r => r.Permissions().All(shared.Contains) && (r != Role.Admin || common == Area.Root))
                        .Select(r => new Grant(r, common))
                );
            }
        }
        // What another one of them gives already is not said.
        return new(
            both.Where(g =>
                !both.Any(o => o != g && o.Area.Holds(g.Area) && g.Role.Permissions().IsSubsetOf(o.Role.Permissions()))
            )
        );
    }
}
