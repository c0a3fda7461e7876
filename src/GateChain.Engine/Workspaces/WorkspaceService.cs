using System.Text;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Engine.Secrets;
using GateChain.Kinds.Connections;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// The workspace as it was pushed last: chains, and what stands beside them in each folder. Takes pushes. Thread-safe.
/// </summary>
public sealed class WorkspaceService : IDisposable
{
    readonly ICatalogue _catalogue;
    readonly IFileStore _store;
    readonly IDrafts _drafts;
    readonly ReleasedChains _chains;
    readonly ReleasesForChecks _releasesForChecks;
    readonly SecretVault _secrets;
    readonly SemaphoreSlim _loading = new(1, 1);
    volatile WorkspaceFiles _files = WorkspaceFiles.None;

    internal WorkspaceService(
        IStore store,
        ReleaseIndex releases,
        ReleasedChains chains,
        ChainCheck check,
        SecretVault secrets,
        TimeProvider time,
        Bounds bounds,
        ISharedStore? shared = null
    )
    {
        (_catalogue, _store, Releases, _chains, Check) = (store.Catalogue, store.Files, releases, chains, check);
        (_drafts, _secrets, Time, Bounds) = (store.Drafts, secrets, time, bounds);
        _releasesForChecks = new(releases, chains, _catalogue);
        _changing = new(shared);
    }

    /// <summary>Called when something was stored; runs that start from here on follow it.</summary>
    internal event Action? Stored;

    /// <summary>Called behind that, and waited for: a push has ended when it has.</summary>
    internal event Func<Task>? AfterStored;

    /// <summary>The labels that nodes have; null where there is only one. Set when nodes are known.</summary>
    internal Func<ValueTask<IReadOnlySet<string>?>> Labels { get; set; } = () => new((IReadOnlySet<string>?)null);

    /// <summary>Reads and checks chains.</summary>
    public ChainCheck Check { get; }

    /// <summary>What the chains of a folder can name of what was pushed last.</summary>
    public AreaFiles In(Area area) => _files.In(area);

    /// <summary>The folders that have files of their own, the workspace itself among them.</summary>
    public IEnumerable<Area> Areas => _files.Areas;

    /// <summary>Every connection that is declared, those of the same name in several folders too.</summary>
    public IEnumerable<Connection> Connections => _files.Connections;

    /// <summary>What starts chains by itself.</summary>
    public IEnumerable<TriggerDefinition> Triggers => _files.Triggers.SelectMany(f => f.Triggers);

    /// <summary>What is wrong with triggers by now, by name: a chain may have changed since they came.</summary>
    public async Task<IReadOnlyDictionary<string, IReadOnlyList<Problem>>> TriggerProblemsAsync()
    {
        var found = new Dictionary<string, IReadOnlyList<Problem>>();
        foreach (var file in await CheckedTriggersAsync(null, null).ConfigureAwait(false))
        {
            foreach (var trigger in file.Triggers)
            {
                var (from, to) = (trigger.Span.Start, file.Triggers.Select(t => t.Span.Start).Append(int.MaxValue));
                var end = to.Where(t => t > from).Min();
                found.TryAdd(
                    trigger.Name,
                    [.. file.Problems.Ordered.Where(p => p.Span.Start >= from && p.Span.Start < end)]
                );
            }
        }
        return found;
    }

    /// <summary>
    /// What is wrong with a file of triggers, and what it says, were it to take the place of the one that is there.
    /// </summary>
    public async Task<(IReadOnlyList<Problem> Problems, IReadOnlyList<TriggerDefinition> Triggers)> CheckTriggersAsync(
        string path,
        string content
    )
    {
        var file = (await CheckedTriggersAsync(path, content).ConfigureAwait(false)).First(f =>
            f.Problems.File == path
        );
        return (file.Problems.Ordered, file.Triggers);
    }

    // Read again: what is found is added to what was found in the files.
    async Task<IReadOnlyList<WorkspaceFiles.TriggersIn>> CheckedTriggersAsync(string? path, string? content)
    {
        var changed = new Dictionary<string, string?>();
        if (path is not null)
            changed[path] = content;
        return (await CheckedFilesAsync(changed).ConfigureAwait(false)).Files.Triggers;
    }

    /// <summary>
    /// What stands beside the chains, were some of the files others, and all that is wrong with it; triggers are held
    /// to the chains that they start.
    /// </summary>
    /// <param name="changed">Contents by path; null for a file that is taken away.</param>
    internal async Task<(WorkspaceFiles Files, IReadOnlyList<Problem> Problems)> CheckedFilesAsync(
        IReadOnlyDictionary<string, string?> changed
    )
    {
        var problems = new List<Problem>();
        var files = await FilesWithAsync(changed, p => problems.AddRange(p.Ordered)).ConfigureAwait(false);
        var areas = new Dictionary<string, Area>();
        foreach (var chain in files.Triggers.SelectMany(f => f.Triggers).Select(t => t.Chain).Distinct())
            areas[chain] = await AreaOfAsync(chain).ConfigureAwait(false);
        files.CheckTriggers(
            await InterfacesAsync().ConfigureAwait(false),
            chain => files.In(areas.GetValueOrDefault(chain)).Profiles,
            _secrets.IsSet
        );
        problems.AddRange(files.Triggers.SelectMany(f => f.Problems.Ordered));
        return (files, problems);
    }

    /// <summary>The content of a file that calendars or triggers name, the nearest going up; null for none.</summary>
    public async ValueTask<string?> FindTextUpwardAsync(Area area, string name)
    {
        foreach (var at in area.Upward)
        {
            if (await _store.FindAsync(at.File(name)).ConfigureAwait(false) is { Content: { } text })
                return text;
        }
        return null;
    }

    /// <summary>What stands beside the chains, were some of the files others.</summary>
    /// <param name="changed">Contents by path; null for a file that is taken away.</param>
    /// <param name="found">Gets what is wrong with each file.</param>
    internal async Task<WorkspaceFiles> FilesWithAsync(
        IReadOnlyDictionary<string, string?> changed,
        Action<ProblemList>? found = null
    )
    {
        var files = (await _store.AllAsync().ConfigureAwait(false))
            .Where(f => !changed.ContainsKey(f.Path))
            .Select(f => (f.Path, f.Content!))
            .Concat(changed.Where(f => f.Value is not null).Select(f => (f.Key, f.Value!)));
        return new(files, Check.Kinds, found ?? (_ => { }), _secrets.IsSet);
    }

    /// <summary>How many steps may be in a lane, by its name.</summary>
    public IReadOnlyDictionary<string, int> Lanes => _files.Lanes;

    /// <summary>The folder that a chain lies in; for one that is only a draft, the one that it is to lie in.</summary>
    public async ValueTask<Area> AreaOfAsync(string chain) =>
        await FindAreaAsync(chain).ConfigureAwait(false) ?? Area.Root;

    /// <summary>The same; null for a chain that is not there.</summary>
    public async ValueTask<Area?> FindAreaAsync(string chain) =>
        await Releases.AreaOfAsync(chain).ConfigureAwait(false)
        ?? (await _drafts.FindAsync(chain).ConfigureAwait(false))?.Area;

    /// <summary>The profiles of a chain and of those that it calls, for who can't wait while asking.</summary>
    /// <param name="chain">Its profiles are also those of whatever is asked for beside: a draft may say another
    /// name.</param>
    /// <param name="called">The others.</param>
    public async Task<Func<string, Profiles>> ProfilesOfAsync(string chain, IEnumerable<string> called)
    {
        var own = (await ContextOfAsync(chain).ConfigureAwait(false)).Profiles;
        var found = new Dictionary<string, Profiles>();
        foreach (var name in called.Distinct())
            found[name] = (await ContextOfAsync(name).ConfigureAwait(false)).Profiles;
        return name => found.GetValueOrDefault(name, own);
    }

    /// <summary>What a chain can name of what stands in files beside it.</summary>
    public async ValueTask<AreaFiles> ContextOfAsync(string chain) =>
        In(await AreaOfAsync(chain).ConfigureAwait(false));

    /// <summary>Reads what stands beside the chains; once, before anybody asks.</summary>
    internal async Task LoadAsync()
    {
        // Of two, the second reads what the first has stored.
        await _loading.WaitAsync().ConfigureAwait(false);
        try
        {
            var files = await _store.AllAsync().ConfigureAwait(false);
            // What was wrong with a file was told when it came.
            _files = new(files.Select(f => (f.Path, f.Content!)), Check.Kinds, _ => { });
        }
        finally
        {
            _loading.Release();
        }
        Stored?.Invoke();
        if (AfterStored is { } after)
            await after().ConfigureAwait(false);
    }

    /// <summary>The chain that new runs of a name would follow.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async ValueTask<Chain> LatestChainAsync(string name) =>
        await _chains.OfAsync(await Releases.GetAsync(new(name, null)).ConfigureAwait(false)).ConfigureAwait(false);

    /// <summary>The chain that a call runs; null when there is none.</summary>
    public async ValueTask<Chain?> FindChainAsync(CalledChain called) =>
        await Releases.FindAsync(called).ConfigureAwait(false) is { } release
            ? await _chains.OfAsync(release).ConfigureAwait(false)
            : null;

    /// <summary>The chains that a chain calls, and those that they call, as far as they are there.</summary>
    public async Task<IReadOnlyDictionary<CalledChain, Chain>> CalledByAsync(Chain chain)
    {
        var found = new Dictionary<CalledChain, Chain>();
        var asked = new HashSet<CalledChain>();
        var left = new Queue<Chain>([chain]);
        while (left.TryDequeue(out var caller))
        {
            foreach (var called in caller.AllSteps.Select(s => s.Call?.Child).OfType<CalledChain>().Where(asked.Add))
            {
                if (await FindChainAsync(called).ConfigureAwait(false) is not { } child)
                    continue;
                found.Add(called, child);
                left.Enqueue(child);
            }
        }
        return found;
    }

    /// <summary>
    /// The number that content of a chain has as a release, the first one if it was released again; null for content
    /// that was only tried.
    /// </summary>
    public ValueTask<int?> NumberOfAsync(string chain, string release) => Releases.NumberOfAsync(chain, release);

    /// <summary>The same where nobody can wait: null when it was not looked up before.</summary>
    public int? KnownNumberOf(string release) => Releases.KnownNumberOf(release);

    /// <summary>Checks a workspace against the releases that are there; stores nothing.</summary>
    /// <exception cref="RefusedException">It takes longer than a check may.</exception>
    public async Task<Workspace> ReadAsync(IReadOnlyDictionary<string, byte[]> files)
    {
        var above = await FoldersAbove.OfAsync(_store, files.Keys).ConfigureAwait(false);
        var labels = await Labels().ConfigureAwait(false);
        return await CheckAsync(
                (known, cancel) => new Workspace(files, Check.Kinds, known, _secrets.IsSet, above, labels, cancel)
            )
            .ConfigureAwait(false);
    }

    /// <summary>Does a check in the time that one may take, with the releases that it asks for.</summary>
    /// <exception cref="RefusedException">It takes longer.</exception>
    internal Task<T> CheckAsync<T>(Func<IKnownReleases, CancellationToken, T> check) =>
        _releasesForChecks.CheckAsync(known => CheckClock.Run(Bounds, cancel => check(known, cancel)));

    /// <summary>
    /// Checks and stores a workspace: each chain that changed gets a new release. With errors nothing is stored. Drafts
    /// stay.
    /// </summary>
    /// <param name="files">Contents by name.</param>
    /// <param name="by">Who brings it.</param>
    /// <param name="note">What the releases are for.</param>
    /// <param name="terms">What it must not overwrite; null for a push that may overwrite anything.</param>
    /// <exception cref="RefusedException">It would overwrite what somebody has changed meanwhile.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<Workspace> PushAsync(
        IReadOnlyDictionary<string, byte[]> files,
        Actor by,
        string? note = null,
        PushTerms? terms = null
    )
    {
        var workspace = await ReadAsync(files).ConfigureAwait(false);
        if (workspace.HasErrors)
            return workspace;
        // Nobody saves between the look and the push.
        await using (await HoldAsync().ConfigureAwait(false))
        {
            var push = workspace.ToPush(Time.GetUtcNow(), by, note);
            if (terms is not null)
                await terms.HoldAsync(this, _store, files, workspace, push).ConfigureAwait(false);
            await StoreChangedAsync(push).ConfigureAwait(false);
        }
        return workspace;
    }

    /// <summary>
    /// The workspace as files that could be pushed again: the latest releases, their attachments and what stands beside
    /// them.
    /// </summary>
    public async Task<IReadOnlyDictionary<string, byte[]>> ExportAsync()
    {
        var files = new SortedDictionary<string, byte[]>(StringComparer.Ordinal);
        foreach (var chain in await _catalogue.ChainsAsync().ConfigureAwait(false))
        {
            var release = (await _catalogue.FindAsync(chain.Hash).ConfigureAwait(false))!;
            files[release.Area.File(chain.Chain + Workspace.ChainEnding)] = Encoding.UTF8.GetBytes(release.Source);
            foreach (var (name, content) in release.Files)
            {
                var place = release.Places.GetValueOrDefault(name, release.Area.File(name));
                // Of two chains that have it from one file, one may have been released with another content.
                if (!files.TryAdd(place, content) && !files[place].AsSpan().SequenceEqual(content))
                    files[release.Area.File(name)] = content;
            }
        }
        foreach (var file in await _store.AllAsync().ConfigureAwait(false))
            files[file.Path] = Encoding.UTF8.GetBytes(file.Content!);
        return files;
    }

    /// <summary>Stores releases; runs that start from here on follow them.</summary>
    internal async Task StoreAsync(Push push)
    {
        await using (await HoldAsync().ConfigureAwait(false))
            await StoreChangedAsync(push).ConfigureAwait(false);
    }

    /// <summary>The same for who has what <see cref="HoldAsync"/> gives.</summary>
    internal async Task StoreChangedAsync(Push push)
    {
        await _catalogue.PushAsync(push).ConfigureAwait(false);
        await ReadAgainAsync().ConfigureAwait(false);
    }

    /// <summary>Something was stored, here or by another service: it is read again.</summary>
    internal async Task ReadAgainAsync()
    {
        Releases.Forget();
        _releasesForChecks.Forget();
        await LoadAsync().ConfigureAwait(false);
    }

    /// <summary>
    /// Taken by whoever changes what is stored, from the look at what is there on; nobody else changes anything
    /// until it is disposed of, no other service either.
    /// </summary>
    /// <exception cref="StorageException">Other services could not be asked.</exception>
    internal Task<IAsyncDisposable> HoldAsync() => _changing.TakeAsync(ReadAgainAsync);

    readonly ChangeLock _changing;

    /// <summary>Nothing is read any more.</summary>
    public void Dispose()
    {
        _loading.Dispose();
        _changing.Dispose();
    }

    internal ICatalogue Catalogue => _catalogue;
    internal IFileStore Files => _store;

    internal ReleaseIndex Releases { get; }
    internal TimeProvider Time { get; }
    internal Bounds Bounds { get; }

    /// <summary>What chains of a folder can name, attachments and numbered releases left out.</summary>
    internal async ValueTask<WorkspaceContext> WorkspaceContextAsync(Area area)
    {
        var interfaces = await InterfacesAsync().ConfigureAwait(false);
        var beside = In(area);
        return new(beside.Connections.Types, new HashSet<string>(), interfaces, beside.Lanes)
        {
            Area = area,
            Profiles = beside.Profiles.All,
            IsSecretSet = secret => _secrets.IsSet(secret, area),
            Labels = await Labels().ConfigureAwait(false),
        };
    }

    internal async Task<IReadOnlyDictionary<string, ChainInterface>> InterfacesAsync()
    {
        var interfaces = new Dictionary<string, ChainInterface>();
        foreach (var release in await _catalogue.ChainsAsync().ConfigureAwait(false))
        {
            if (await _chains.ReadableOfAsync(release.Hash).ConfigureAwait(false) is { } chain)
            {
                interfaces.Add(
                    chain.Name,
                    ChainInterfaces.Of(chain) with
                    {
                        IsRetired = release.Retired is not null,
                        Area = release.Area,
                    }
                );
            }
        }
        return interfaces;
    }
}
