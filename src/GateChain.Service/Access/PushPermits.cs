using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;

namespace GateChain.Service.Access;

/// <summary>What role it takes to change files of the workspace. Thread-safe.</summary>
sealed class PushPermits(WorkspaceFileService files)
{
    /// <summary>What a file takes, by its name.</summary>
    public static Permission Of(string path) =>
        Path.GetFileName(path) is "connections.yaml" or "profiles.yaml" ? Permission.Keep : Permission.Design;

    /// <summary>
    /// What holds a push of somebody; null for who may change everything: nothing is looked up for them.
    /// </summary>
    public static Func<IReadOnlyList<PushChange>, Task>? For(Visitor visitor) =>
        visitor.Rights.AllowEverywhere(Permission.Design) && visitor.Rights.AllowEverywhere(Permission.Keep)
            ? null
            : changes => HoldAsync(changes, visitor);

    /// <summary>Refuses what somebody may not change of a push: each file takes its role, in its folder.</summary>
    static Task HoldAsync(IReadOnlyList<PushChange> changes, Visitor visitor)
    {
        foreach (var change in changes)
        {
            if (change.Before is { } before && !visitor.Sees(before))
                throw new RefusedException(RefusalKind.Conflict, $"the name “{change.Chain}” is taken");
            Hold(change.Path, visitor);
            // Who moves a chain takes it away from where it was.
            if (change.Before is { } from && !visitor.May(Permission.Design, from))
                throw new NotAllowedException(Permission.Design, from);
        }
        return Task.CompletedTask;
    }

    /// <summary>Refuses what somebody may not change; an attachment takes the role where its chains lie.</summary>
    public async Task HoldFileAsync(string path, Visitor visitor)
    {
        Hold(path, visitor);
        if (visitor.Rights.AllowEverywhere(Permission.Design))
            return;
        foreach (var area in await files.AreasUsingAsync(path))
        {
            if (!visitor.May(Permission.Design, area))
                throw new NotAllowedException(Permission.Design, area);
        }
    }

    static void Hold(string path, Visitor visitor)
    {
        var area = Area.OfFile(path);
        visitor.Must(Of(path), area, () =>
            new RefusedException(RefusalKind.NotFound, $"there is no folder “{area.Path}”")
        );
    }
}
