using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Storage;

namespace GateChain.Service.Access;

/// <summary>Who asks, and what they may do. One for each request. Immutable.</summary>
/// <param name="Actor">Who they are to runs and the audit log.</param>
/// <param name="Rights">What they may do.</param>
/// <param name="Account">Their account; null while there are none.</param>
/// <param name="Session">Their session; null for a program, and while there are no accounts.</param>
sealed record Visitor(Actor Actor, Rights Rights, Account? Account, Session? Session)
{
    /// <summary>Nobody who is known.</summary>
    public static Visitor Nobody { get; } = new(Actor.Person("nobody"), Rights.None, null, null);

    /// <summary>Whether they still may follow what they began to follow; a stream asks now and then.</summary>
    public Func<bool> Stands { get; init; } = () => true;

    /// <summary>Who makes a request.</summary>
    public static Visitor Of(HttpContext http) => http.Features.Get<Visitor>() ?? Nobody;

    /// <summary>Endpoints ask for it as for a parameter.</summary>
    public static ValueTask<Visitor?> BindAsync(HttpContext http) => new(Of(http));

    /// <summary>The areas that they see; null for the whole workspace.</summary>
    public IReadOnlyList<Area>? Seen => Rights.AllowEverywhere(Permission.See) ? null : Rights.Areas(Permission.See);

    /// <summary>Whether they see what lies in an area.</summary>
    public bool Sees(Area area) => Rights.Allow(Permission.See, area);

    /// <summary>Whether they may do something in an area.</summary>
    public bool May(Permission permission, Area area) => Rights.Allow(permission, area);

    /// <summary>Holds what a body names against what they may do.</summary>
    /// <param name="permission">What they need.</param>
    /// <param name="area">Where; null for what is not there.</param>
    /// <param name="missing">What is told of what is not there, and of what they may not see.</param>
    public void Must(Permission permission, Area? area, Func<Exception> missing)
    {
        if (area is not { } there || !Sees(there))
        {
            // Who sees everything is told by the endpoint, which knows more.
            if (area is null && Seen is null)
                return;
            throw missing();
        }
        if (!May(permission, there))
            throw new NotAllowedException(permission, there);
    }
}

/// <summary>Somebody may not do something that they may see.</summary>
sealed class NotAllowedException(Permission permission, Area? area) : Exception("not allowed")
{
    /// <summary>The role that would be enough.</summary>
    public Role Role { get; } = Roles.Least(permission);

    /// <summary>Where; null for some area.</summary>
    public Area? Area { get; } = area;

    /// <summary>The same in a sentence.</summary>
    public string Sentence =>
        $"this takes the role {Role.Word()}"
        + (
            Area is not { } there ? ""
            : there == Core.Identity.Area.Root ? " for the whole workspace"
            : $" in “{there.Path}”"
        )
        + ": an admin gives it";
}
