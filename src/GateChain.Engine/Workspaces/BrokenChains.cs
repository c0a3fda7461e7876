using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Workspaces;

/// <summary>A chain, or a file of triggers, that does not fit what stands beside it.</summary>
/// <param name="What">The chain's name, or the path of the file.</param>
/// <param name="IsChain">Whether it is a chain.</param>
/// <param name="Message">What is wrong, the first of it.</param>
/// <param name="More">How many more things are wrong.</param>
/// <param name="Since">Since when it was seen so; null for what only would be.</param>
public sealed record Broken(string What, bool IsChain, string Message, int More, DateTimeOffset? Since = null)
{
    /// <summary>Where it lies.</summary>
    public Area Area { get; init; } = IsChain ? Area.Root : Area.OfFile(What);
}

/// <summary>
/// Knows which of the chains that new runs would follow do not fit what stands beside them any more, and which would
/// not after a change. Thread-safe.
/// </summary>
public sealed class BrokenChains
{
    readonly WorkspaceService _workspace;
    readonly ILogger _logger;
    int _asked;

    internal BrokenChains(WorkspaceService workspace, ILogger logger)
    {
        (_workspace, _logger) = (workspace, logger);
        workspace.Stored += LookAgain;
    }

    /// <summary>What is broken now; it may be a moment old.</summary>
    public IReadOnlyList<Broken> Now { get; private set; } = [];

    /// <summary>What a change of files would break that fits now.</summary>
    /// <param name="next">The files as they would be.</param>
    /// <param name="except">Names of chains that come with the change.</param>
    /// <exception cref="Basics.RefusedException">It takes longer than a check may.</exception>
    internal async Task<IReadOnlyList<Broken>> ByAsync(WorkspaceFiles next, IReadOnlySet<string> except)
    {
        var all = await LatestAsync().ConfigureAwait(false);
        return await _workspace
            .CheckAsync<IReadOnlyList<Broken>>(
                (known, cancel) =>
                    [
                        .. all.Where(c => !except.Contains(c.Release.Chain) && IsTouched(c.Release.Area, next))
                            .Select(c =>
                                Of(
                                    c.Release,
                                    ErrorsOf(c, next.In(c.Release.Area), known, cancel)
                                        .Except(ErrorsOf(c, _workspace.In(c.Release.Area), known, cancel))
                                )
                            )
                            .OfType<Broken>(),
                    ]
            )
            .ConfigureAwait(false);
    }

    // What only gains names, or has them with other values, breaks no chain.
    bool IsTouched(Area area, WorkspaceFiles next)
    {
        var (before, after) = (_workspace.In(area), next.In(area));
        if (ReferenceEquals(before, after))
            return false;
        var types = after.Connections.Types;
        return before.Connections.Types.Any(c => types.GetValueOrDefault(c.Key) != c.Value)
            || !before.Lanes.IsSubsetOf(after.Lanes)
            || before.Profiles.All.Any(p =>
                !after.Profiles.All.TryGetValue(p.Key, out var values)
                || p.Value.AsMap.Entries.Any(e =>
                    values.AsMap.Find(e.Key.AsString) is not { } other || other.Kind != e.Value.Kind
                )
            );
    }

    static Broken? Of(Release release, IEnumerable<string> errors) =>
        errors.ToList() is [var first, .. var more]
            ? new(release.Chain, true, first, more.Count) { Area = release.Area }
            : null;

    sealed record Latest(
        Release Release,
        IReadOnlySet<string> Attachments,
        IReadOnlyDictionary<string, ChainInterface> Interfaces
    );

    async Task<IReadOnlyList<Latest>> LatestAsync()
    {
        var interfaces = await _workspace.InterfacesAsync().ConfigureAwait(false);
        var attachments = (await _workspace.Catalogue.AttachmentsAsync().ConfigureAwait(false)).ToLookup(
            a => a.Chain,
            a => a.Name
        );
        return
        [
            .. (await _workspace.Catalogue.ChainsAsync().ConfigureAwait(false))
                .Where(r => r.Retired is null)
                .Select(r => new Latest(r, attachments[r.Chain].ToHashSet(), interfaces)),
        ];
    }

    IReadOnlyList<string> ErrorsOf(Latest chain, AreaFiles beside, IKnownReleases known, CancellationToken cancel) =>
        [
            .. _workspace
                .Check.Check(
                    chain.Release.Chain + Workspace.ChainEnding,
                    chain.Release.Source,
                    new(beside.Connections.Types, chain.Attachments, chain.Interfaces, beside.Lanes)
                    {
                        Area = chain.Release.Area,
                        Profiles = beside.Profiles.All,
                        Releases = known.Find,
                        Cancel = cancel,
                    }
                )
                .Problems.Where(p => p.IsError)
                .Select(p => p.Message),
        ];

    // Several changes in a row are looked at once.
    void LookAgain()
    {
        if (Interlocked.Increment(ref _asked) == 1)
            _ = Task.Run(LookAsync);
    }

    async Task LookAsync()
    {
        int asked;
        do
        {
            asked = Volatile.Read(ref _asked);
            try
            {
                var found = new List<Broken>();
                foreach (var chain in await LatestAsync().ConfigureAwait(false))
                {
                    var beside = _workspace.In(chain.Release.Area);
                    var errors = await _workspace
                        .CheckAsync((known, cancel) => ErrorsOf(chain, beside, known, cancel))
                        .ConfigureAwait(false);
                    if (Of(chain.Release, errors) is { } broken)
                    {
                        var since = Now.FirstOrDefault(b => b.What == broken.What)?.Since;
                        found.Add(broken with { Since = since ?? _workspace.Time.GetUtcNow() });
                    }
                }
                Now = found;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                _logger.LogDebug("Chains could not be looked at again: {Reason}", e.Message);
            }
        } while (Interlocked.Add(ref _asked, -asked) > 0);
    }
}
