using GateChain.Core.Identity;
using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Engine.Reading;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Retention;

/// <summary>
/// The marks that runs have left in the databases they worked in. They are read off the runs before those go, and
/// cleared when they have gone: a database that can't be reached keeps them, which harms nobody. One pass at a time.
/// </summary>
sealed class LeftMarks(
    RunFolder folder,
    Func<Area, IConnections> connections,
    Func<Area, ConnectionUse> use,
    ILogger logger
)
{
    /// <summary>The marks of one run in one database.</summary>
    public sealed record Left(long Run, string Uid, Area Area, string Connection);

    // Not asked again in this pass.
    readonly HashSet<(Area, string)> _away = [];

    /// <summary>A new pass begins.</summary>
    public void Begin() => _away.Clear();

    /// <summary>The marks of runs, and of those that they have called.</summary>
    public async Task<IReadOnlyList<Left>> OfAsync(IEnumerable<long> runs)
    {
        var found = new List<Left>();
        var next = new Queue<long>(runs);
        var seen = new HashSet<long>();
        while (next.TryDequeue(out var run))
        {
            if (!seen.Add(run) || await FoldAsync(run).ConfigureAwait(false) is not { } state)
                continue;
            var connections = new HashSet<string>();
            foreach (var step in state.AllSteps)
            {
                if (step.Child is { } child)
                    next.Enqueue(child.Run);
                if (Marks.ConnectionOf(step.Step.Kind.Name, new(step.Inputs, _ => null)) is { } connection)
                    connections.Add(connection);
            }
            found.AddRange(connections.Select(c => new Left(run, state.Uid, state.Area, c)));
        }
        return found;
    }

    // One that can't be read goes all the same.
    async Task<RunState?> FoldAsync(long run)
    {
        try
        {
            return (await folder.FoldAsync(run).ConfigureAwait(false)).State;
        }
        catch (Exception e) when (e is RefusedException or InvalidOperationException or FormatException)
        {
            return null;
        }
    }

    /// <summary>Clears those of runs that have gone.</summary>
    public void Clear(IEnumerable<Left> left, IReadOnlySet<long> gone, CancellationToken cancel)
    {
        foreach (var some in left.Where(l => gone.Contains(l.Run)).GroupBy(l => (l.Area, l.Connection)))
        {
            var (area, connection) = some.Key;
            if (
                _away.Contains(some.Key)
                || connections(area).Find(connection) is not { } known
                || !Stages.MayBeIn(known)
            )
            {
                continue;
            }
            try
            {
                Marks.Clear(connection, some.Select(l => l.Uid).Distinct(), connections(area), use(area), cancel);
            }
            catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
            {
                _away.Add(some.Key);
                logger.LogInformation(
                    "Marks of runs that are gone stay in {Connection}: {Reason}",
                    connection,
                    e.Message
                );
            }
        }
    }
}
