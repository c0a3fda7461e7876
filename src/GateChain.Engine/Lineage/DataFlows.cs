using System.Text;
using System.Text.Json.Nodes;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Lineage;
using GateChain.Engine.Basics;
using GateChain.Engine.Reading;
using GateChain.Engine.Releases;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Lineage;

/// <summary>Which data chains read and write: as their releases say, and as runs had it. Thread-safe.</summary>
public sealed class DataFlows
{
    readonly ICatalogue _catalogue;
    readonly ReleasedChains _chains;
    readonly RunReader _reader;
    readonly WorkspaceService _workspace;
    readonly string _workFolder;

    // What releases say does not change.
    readonly Cache<IReadOnlyList<StepData>> _declared;

    internal DataFlows(
        ICatalogue catalogue,
        ReleasedChains chains,
        RunReader reader,
        WorkspaceService workspace,
        string workFolder
    )
    {
        (_catalogue, _chains, _reader, _workspace, _workFolder) = (catalogue, chains, reader, workspace, workFolder);
        _declared = new(async hash => await DeclaredAsync(hash).ConfigureAwait(false));
        workspace.Stored += _declared.Forget;
    }

    /// <summary>The data of the latest releases of all chains in use, as they are declared.</summary>
    /// <param name="sees">Whose folders count.</param>
    public async Task<LineageMap> MapAsync(Func<Area, bool> sees)
    {
        var found = new List<(string, IReadOnlyList<StepData>)>();
        foreach (var release in await _catalogue.ChainsAsync().ConfigureAwait(false))
        {
            if (release.Retired is null && sees(release.Area))
                found.Add((release.Chain, (await _declared.FindAsync(release.Hash).ConfigureAwait(false))!));
        }
        return new(found);
    }

    async Task<IReadOnlyList<StepData>> DeclaredAsync(string hash) =>
        await _chains.ReadableOfAsync(hash).ConfigureAwait(false) is { } chain
            ? ChainData.Declared(chain, await AttachmentsAsync(chain, hash).ConfigureAwait(false))
            : [];

    /// <summary>The data that the latest leg of a run has read and written.</summary>
    /// <exception cref="RefusedException">There is no such run, or it can't be read here.</exception>
    public async Task<IReadOnlyList<StepData>> OfRunAsync(long run)
    {
        var attached = await AttachmentsOfAsync(run).ConfigureAwait(false);
        return await _reader.ReadAsync(run, (state, _) => ChainData.Seen(state, attached)).ConfigureAwait(false);
    }

    /// <summary>The events of a run's latest leg; none for a run that can't be read, or tries a draft.</summary>
    internal async Task<IReadOnlyList<JsonObject>> EventsAsync(long run, LineageEvents events)
    {
        try
        {
            var attached = await AttachmentsOfAsync(run).ConfigureAwait(false);
            var caller = await _reader.ReadAsync(run, (s, _) => s.Parent?.Run).ConfigureAwait(false) is { } above
                ? await _reader
                    .ReadAsync(above, (s, _) => new LineageEvents.Leg(s.Uid, s.Leg, s.Chain.Name))
                    .ConfigureAwait(false)
                : null;
            return await _reader
                .ReadAsync<IReadOnlyList<JsonObject>>(run, (state, _) =>
                    !state.HasEnded || state.IsTry
                        ? []
                        : events.Of(state, caller, new(_workspace.In(state.Area).Connections, _workFolder), attached)
                )
                .ConfigureAwait(false);
        }
        catch (Exception e) when (e is RefusedException or InvalidOperationException or FormatException)
        {
            return [];
        }
    }

    async Task<Func<string, string?>> AttachmentsOfAsync(long run)
    {
        var (chain, release) = await _reader.ReadAsync(run, (s, _) => (s.Chain, s.Release)).ConfigureAwait(false);
        return await AttachmentsAsync(chain, release).ConfigureAwait(false);
    }

    async Task<Func<string, string?>> AttachmentsAsync(Chain chain, string release)
    {
        var files = ReleaseContent.HasAttachments(chain)
            ? (await _catalogue.FindAsync(release).ConfigureAwait(false))?.Files
            : null;
        return name => files?.GetValueOrDefault(name) is { } content ? Encoding.UTF8.GetString(content) : null;
    }
}
