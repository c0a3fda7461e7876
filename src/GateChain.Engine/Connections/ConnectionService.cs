using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Leftovers;
using GateChain.Engine.Releases;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Kinds;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Storage;

namespace GateChain.Engine.Connections;

/// <summary>Where a connection is used.</summary>
/// <param name="Connection">Its name.</param>
/// <param name="Area">The folder that it is declared in.</param>
/// <param name="Chain">The chain.</param>
/// <param name="Step">The step's address.</param>
public sealed record ConnectionUsed(string Connection, Area Area, string Chain, string Step);

/// <summary>
/// What people do with connections: look whether they work, where they are used, what was left there. Thread-safe.
/// </summary>
public sealed class ConnectionService
{
    readonly EngineOptions _options;
    readonly WorkspaceService _workspace;
    readonly SecretVault _secrets;
    readonly StageKeeper _stages;
    readonly ICatalogue _catalogue;
    readonly ReleasedChains _chains;

    internal ConnectionService(
        EngineOptions options,
        WorkspaceService workspace,
        SecretVault secrets,
        StageKeeper stages,
        ICatalogue catalogue,
        ReleasedChains chains
    ) =>
        (_options, _workspace, _secrets, _stages, _catalogue, _chains) = (
            options,
            workspace,
            secrets,
            stages,
            catalogue,
            chains
        );

    /// <summary>The connections as they were pushed last, those of the same name in several folders too.</summary>
    public IEnumerable<Connection> All => _workspace.Connections;

    /// <summary>Goes to a connection once and says what is found, or why nothing is.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="area">The folder that it is declared in; null when there is one of that name only.</param>
    /// <param name="cancel">Ends the look.</param>
    /// <exception cref="RefusedException">There is no connection of that name, or several.</exception>
    public async Task<ConnectionCheck> CheckAsync(string name, Area? area, CancellationToken cancel)
    {
        return await LookAsync(Find(name, area), cancel).ConfigureAwait(false);
    }

    /// <summary>The same with a connection of a file that is not saved.</summary>
    /// <param name="path">Where the file lies, or is to lie.</param>
    /// <param name="text">What it says.</param>
    /// <param name="name">The connection.</param>
    /// <param name="cancel">Ends the look.</param>
    /// <exception cref="RefusedException">The file does not say such a connection, or says it wrongly.</exception>
    public async Task<ConnectionCheck> TryAsync(string path, string text, string name, CancellationToken cancel)
    {
        var problems = new ProblemList(path, text);
        var file = ConnectionsFile.Read(text, problems, AllConnections.Types, _secrets.IsSet, Area.OfFile(path));
        if (problems.Ordered.FirstOrDefault(p => p.IsError) is { } wrong)
            throw new RefusedException(RefusalKind.Invalid, wrong.Message);
        return file.Find(name) is { } connection
            ? await LookAsync(connection, cancel).ConfigureAwait(false)
            : throw new RefusedException(RefusalKind.NotFound, $"there is no connection “{name}” in {path}");
    }

    async Task<ConnectionCheck> LookAsync(Connection connection, CancellationToken cancel)
    {
        // Who may not send steps somewhere does not look what is there either.
        var network = GuardedConnections.NetworkOf(_options.Rules(connection.Area), _options.OwnPort());
        if (connection.Text("host") is { Length: > 0 } host && network.Refusal(host) is { } refusal)
            return new(false, refusal, TimeSpan.Zero);
        var check = await ConnectionCheck
            .LookAsync(
                connection,
                AllConnections.Types.First(t => t.Name == connection.Type),
                _options.Folders.For(_options.WorkFolder, _secrets.In(connection.Area)) with
                {
                    Network = network,
                },
                cancel
            )
            .ConfigureAwait(false);
        return check with { Found = _secrets.Mask.Text(check.Found) };
    }

    /// <summary>Tells which stages of loads stand in a database, and clears those that no run needs.</summary>
    /// <exception cref="RefusedException">There is no connection of that name, it is no database, or it can't be
    /// reached.</exception>
    public async Task<IReadOnlyList<LeftoverStage>> TidyAsync(
        string name,
        Area? area,
        TidyOptions order,
        CancellationToken cancel
    )
    {
        var connection = Find(name, area);
        if (!Stages.MayBeIn(connection))
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{name}” is {Article.Of(connection.Type)} connection; loads leave nothing there"
            );
        }
        try
        {
            return await Task.Run(() => _stages.TidyAsync(connection, order, cancel), cancel).ConfigureAwait(false);
        }
        catch (StepFailedException e)
        {
            throw new RefusedException(RefusalKind.Unavailable, _secrets.Mask.Text(e.Message));
        }
    }

    /// <summary>
    /// The steps of the latest releases that name a connection, themselves or by a probe of their guard.
    /// </summary>
    public async Task<IReadOnlyList<ConnectionUsed>> UsesAsync()
    {
        var uses = new List<ConnectionUsed>();
        foreach (var release in await _catalogue.ChainsAsync().ConfigureAwait(false))
        {
            if (await _chains.ReadableOfAsync(release.Hash).ConfigureAwait(false) is not { } chain)
                continue;
            var beside = _workspace.In(release.Area).Connections;
            uses.AddRange(
                from step in chain.AllSteps
                from name in ConnectionNames.In(step).Distinct()
                select new ConnectionUsed(
                    name.Name,
                    beside.Find(name.Name)?.Area ?? Area.Root,
                    chain.Name,
                    step.Address
                )
            );
        }
        return uses;
    }

    Connection Find(string name, Area? area) =>
        All.Where(c => c.Name == name && (area is null || c.Area == area)).ToList() switch
        {
            [var one] => one,
            [] => throw new RefusedException(RefusalKind.NotFound, $"there is no connection “{name}”{In(area)}"),
            var several => throw new RefusedException(
                RefusalKind.Invalid,
                $"there are several connections “{name}”; say which by its folder: "
                    + string.Join(
                        ", ",
                        several.Select(c => c.Area.Path.Length == 0 ? "“” (the workspace)" : c.Area.Path)
                    )
            ),
        };

    static string In(Area? area) => area is { Path: { Length: > 0 } path } ? $" in {path}" : "";
}
