using GateChain.Client;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Triggers;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Service.Access;

/// <summary>Finds the area of what a request names, and says that it is not there. Thread-safe.</summary>
sealed class AreaLocator(IRunStore runs, WorkspaceService workspace, TriggerIndex triggers, IBackfills backfills)
{
    public async ValueTask<Area?> OfRunAsync(long run) => (await runs.FindAsync(run))?.Area;

    public ValueTask<Area?> OfChainAsync(string chain) => workspace.FindAreaAsync(chain);

    public Area? OfTrigger(string trigger) => triggers.Find(trigger)?.Definition.Area;

    public async ValueTask<Area?> OfBackfillAsync(long number) =>
        await backfills.FindAsync(number) is { } found ? OfTrigger(found.Trigger) ?? Area.Root : null;

    /// <summary>Holds a run that a body names against what somebody sees.</summary>
    public async ValueTask MustSeeRunAsync(long run, Visitor visitor)
    {
        if (visitor.Seen is not null)
            visitor.Must(Core.Access.Permission.See, await OfRunAsync(run), () => NoRun(run));
    }

    /// <summary>A run without the call that it comes from, where that is elsewhere.</summary>
    public async ValueTask<RunDetail> SeenAsync(RunDetail run, Visitor visitor) =>
        visitor.Seen is not null && run.Parent is { } parent && !visitor.Sees(await OfRunAsync(parent.Run) ?? Area.Root)
            ? run with
            {
                Parent = null,
            }
            : run;

    /// <summary>Holds a chain that a body names, and that may be new, against what somebody designs.</summary>
    public async ValueTask MustDesignAsync(string chain, Visitor visitor)
    {
        if (!visitor.May(Core.Access.Permission.Design, Area.Root) && await OfChainAsync(chain) is { } area)
            visitor.Must(Core.Access.Permission.Design, area, () => NoChain(chain));
    }

    public static RefusedException NoRun(long run) => RefusedException.NoRun(run);

    public static RefusedException NoChain(string chain) => new(RefusalKind.NotFound, $"there is no chain “{chain}”");

    public static RefusedException NoTrigger(string trigger) =>
        new(RefusalKind.NotFound, $"there is no trigger “{trigger}”");

    public static RefusedException NoBackfill(long number) =>
        new(RefusalKind.NotFound, $"there is no backfill {number}");

    public static RefusedException NoFile(string path) => new(RefusalKind.NotFound, $"there is no file “{path}”");

    /// <summary>The folder that a request names.</summary>
    /// <exception cref="RefusedException">It is none.</exception>
    public static Area Read(string folder) =>
        Area.IsPath(folder)
            ? new(folder)
            : throw new RefusedException(RefusalKind.Invalid, $"“{folder}” is no folder of the workspace");

    /// <summary>What the address of a request names: its area, and what is told when it is not there.</summary>
    public async ValueTask<(Area? Area, Func<Exception> Missing)> OfRequestAsync(Where where, HttpContext http)
    {
        var values = http.Request.RouteValues;
        string Text(string name) => values[name] as string ?? "";
        long Number(string name) => long.TryParse(Text(name), out var number) ? number : 0;
        switch (where)
        {
            case Where.Chain or Where.NewChain:
                var chain = Text("name");
                return (await OfChainAsync(chain), () => NoChain(chain));
            case Where.Run:
                var run = Number("id");
                return (await OfRunAsync(run), () => NoRun(run));
            case Where.Trigger:
                var trigger = Text("name");
                return (OfTrigger(trigger), () => NoTrigger(trigger));
            case Where.Backfill:
                var backfill = Number("number");
                return (await OfBackfillAsync(backfill), () => NoBackfill(backfill));
            case Where.File:
                var path = http.Request.Query["path"].ToString();
                return (Area.OfFile(path), () => NoFile(path));
            default:
                return (Area.Root, () => new NotAllowedException(Core.Access.Permission.See, Area.Root));
        }
    }
}
