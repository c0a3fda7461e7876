using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Engine.Leftovers;
using GateChain.Kinds;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;

namespace GateChain.Engine;

/// <summary>Where a connection is used.</summary>
/// <param name="Step">The step's address.</param>
public sealed record ConnectionUsed(string Connection, string Chain, string Step);

public sealed partial class ChainEngine
{
    /// <summary>Goes to a connection once and says what is found, or why nothing is.</summary>
    /// <exception cref="RefusedException">There is no connection of that name.</exception>
    public async Task<ConnectionCheck> CheckConnectionAsync(string name, CancellationToken cancel)
    {
        var connection = Connections.Find(name)
            ?? throw new RefusedException(RefusalKind.NotFound, $"there is no connection “{name}”");
        var check = await ConnectionCheck
            .LookAsync(
                connection,
                AllConnections.Types.First(t => t.Name == connection.Type),
                Options.Folders.For(Options.WorkFolder, Secrets),
                cancel
            )
            .ConfigureAwait(false);
        return check with { Found = Secrets.Mask.Text(check.Found) };
    }

    /// <summary>Tells which stages of loads stand in a database, and clears those that nobody goes on with.</summary>
    /// <exception cref="RefusedException">There is no connection of that name, it is no database, or it can't be
    /// reached.</exception>
    public async Task<IReadOnlyList<LeftStage>> TidyAsync(string name, TidyOrder order, CancellationToken cancel)
    {
        var connection = Connections.Find(name)
            ?? throw new RefusedException(RefusalKind.NotFound, $"there is no connection “{name}”");
        if (!Stages.MayBeIn(connection))
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{name}” is {Article.Of(connection.Type)} connection; loads leave nothing there"
            );
        }
        try
        {
            return await Task.Run(() => _stages.Tidy(name, order, cancel), cancel).ConfigureAwait(false);
        }
        catch (StepFailedException e)
        {
            throw new RefusedException(RefusalKind.Unavailable, Secrets.Mask.Text(e.Message));
        }
    }

    /// <summary>
    /// The steps of the latest releases that name a connection, themselves or by a probe of their guard.
    /// </summary>
    public IEnumerable<ConnectionUsed> ConnectionUses() =>
        from release in _store.Chains()
        let chain = ReadableChainOf(release.Hash)
        where chain is not null
        from step in chain.AllSteps
        from name in ConnectionNames.In(step).Distinct()
        select new ConnectionUsed(name.Name, chain.Name, step.Address);
}
