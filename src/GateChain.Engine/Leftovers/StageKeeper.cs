using GateChain.Core.Identity;
using GateChain.Engine.Basics;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Leftovers;

/// <summary>A stage of a load that stands in a database, and what became of it.</summary>
/// <param name="Stage">Its name.</param>
/// <param name="Run">The run that gathers rows there; null when nobody here knows.</param>
/// <param name="Step">The step's path in it.</param>
/// <param name="State">The run's state; null when there is no such run.</param>
/// <param name="Cleared">Whether it is gone now; in a dry run, whether it would be.</param>
/// <param name="Why">Why, in a sentence.</param>
public sealed record LeftoverStage(string Stage, long? Run, string? Step, string? State, bool Cleared, string Why);

/// <summary>What is cleared.</summary>
/// <param name="DryRun">Nothing; it is only told what would be.</param>
/// <param name="Failed">Those of runs that failed or were stopped too: a resume reads their sources from the start
/// then.</param>
/// <param name="Unknown">Those that nobody here knows too. They may be another service's.</param>
public sealed record TidyOptions(bool DryRun, bool Failed, bool Unknown);

/// <summary>
/// Clears stages that no run needs: when their run has succeeded, at the start for runs that are gone, and when
/// somebody asks. Thread-safe.
/// </summary>
sealed class StageKeeper(
    EngineOptions options,
    Func<Area, IConnections> connections,
    Func<Area, ConnectionUse> use,
    IRunStore runs,
    ILogger logger
)
{
    /// <summary>Looks at news of runs.</summary>
    /// <remarks>
    /// Of a run that has succeeded the stages of steps that failed and were tolerated are not needed any more.
    /// </remarks>
    public async Task HandleAsync(OutboxRow row, CancellationToken cancel)
    {
        if (row is { Kind: RunNotificationKind.Ended, State: "succeeded" })
            await ClearOfAsync(row.Run, cancel).ConfigureAwait(false);
    }

    /// <summary>Looks once for stages of runs that are gone, or that could not be cleared before.</summary>
    public void Start() => _ = Task.Run(() => ClearOfAsync(null, CancellationToken.None));

    async Task ClearOfAsync(long? run, CancellationToken cancel)
    {
        try
        {
            foreach (var note in StageNote.All(options.Steps, run).ToList())
            {
                var head = await runs.FindAsync(note.Run).ConfigureAwait(false);
                if (head?.State is null or "succeeded")
                    Clear(note, head?.Area ?? Area.Root, cancel);
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            logger.LogInformation("Left-over stages were not looked for: {Why}", e.Message);
        }
    }

    void Clear(StageNote note, Area area, CancellationToken cancel)
    {
        try
        {
            Stages.Clear(note.Connection, note.Stage, note.Work, note, connections(area), use(area), cancel);
            logger.LogInformation(
                "Run {Run} has left the stage {Stage} in {Connection}; it was cleared",
                note.Run,
                note.Stage,
                note.Connection
            );
        }
        catch (Exception e)
        {
            logger.LogInformation(
                "The stage {Stage} that run {Run} has left in {Connection} was not cleared; "
                    + "the next start tries again: {Why}",
                note.Stage,
                note.Run,
                note.Connection,
                e.Message
            );
        }
    }

    /// <summary>Looks what stands in a database, and clears of it what the order says.</summary>
    /// <exception cref="StepFailedException">The database can't be reached, or does not answer.</exception>
    public async Task<IReadOnlyList<LeftoverStage>> TidyAsync(
        Connection connection,
        TidyOptions order,
        CancellationToken cancel
    )
    {
        var (name, here) = (connection.Name, connections(connection.Area));
        var notes = StageNote.All(options.Steps).Where(n => n.Connection == name).ToLookup(n => n.Stage);
        var all = new List<LeftoverStage>();
        foreach (var found in Stages.Find(name, here, use(connection.Area), cancel))
        {
            var (note, state) = (default(StageNote), default(string));
            foreach (var one in notes[found.Name])
            {
                var head = await runs.FindAsync(one.Run).ConfigureAwait(false);
                // Another folder may mean another database by the same name.
                if (head is null || connections(head.Area).Find(name)?.Area == connection.Area)
                    (note, state) = (one, head?.State);
            }
            var told = Judge(found, note, state, order);
            if (told.Cleared && !order.DryRun)
                Stages.Clear(name, found.Name, note?.Work ?? found.Work, note, here, use(connection.Area), cancel);
            all.Add(told);
        }
        return all;
    }

    static LeftoverStage Judge(FoundStage found, StageNote? note, string? state, TidyOptions order)
    {
        if (note is null)
        {
            return new(
                found.Name,
                null,
                null,
                null,
                order.Unknown,
                $"nobody here knows it{(found.Work is null ? "" : $"; its mark says {found.Work}")}; "
                    + "it may be another service's"
            );
        }
        var (cleared, why) = state switch
        {
            null => (true, "its run is gone"),
            "succeeded" => (true, "its run has succeeded without it"),
            "failed" or "stopped" => (
                order.Failed,
                order.Failed
                    ? $"its run has {(state == "failed" ? "failed" : "been stopped")}; "
                        + "a resume reads the source from the start"
                    : "a resume continues with it"
            ),
            _ => (false, "its run is still running"),
        };
        return new(found.Name, note.Run, note.Step, state, cleared, why);
    }
}
