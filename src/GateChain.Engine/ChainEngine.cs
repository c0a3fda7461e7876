using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Children;
using GateChain.Engine.Drafts;
using GateChain.Engine.Guards;
using GateChain.Engine.Lanes;
using GateChain.Engine.Leftovers;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Engine.Releases;
using GateChain.Engine.Runs;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Storage;
using GateChain.Storage.Logs;
using GateChain.Storage.Snapshots;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

/// <summary>Makes runs happen. Thread-safe. One engine at a time works on a data folder.</summary>
public sealed partial class ChainEngine : IRunSurroundings, IChildHost, IDraftHost, IKnownReleases, IAsyncDisposable
{
    readonly ConcurrentDictionary<long, RunActor> _actors = new();

    readonly ConcurrentDictionary<long, ResumeTicket> _resuming = new();
    readonly ReleaseBook _releases;
    readonly ReleasedChains _released;
    readonly RunFolder _folder;
    readonly RunReader _reader;
    readonly ChainLines _lines = new();
    readonly Dictionary<string, IStepKind> _kinds;
    readonly Dictionary<string, IProbe> _probes;
    readonly FileWatches _watches;
    readonly SnapshotFiles _snapshots;
    readonly ChildRuns _children;
    readonly EndWatch _ends;
    readonly AutomaticResumes _automatic;
    readonly StageKeeper _stages;
    readonly ChainCheck _check;
    readonly ILogger _logger;
    readonly SqliteStore _store;
    readonly Remembered<ConnectionsFile> _connections;
    readonly Remembered<Profiles> _profiles;

    /// <param name="options">Where it works.</param>
    /// <param name="store">Where it keeps what must not be lost.</param>
    /// <param name="kinds">The kinds that do work.</param>
    /// <param name="probes">What guards can look at.</param>
    /// <param name="cipher">Encrypts secrets for the store.</param>
    /// <param name="check">Reads and checks chains.</param>
    /// <param name="time">The clock.</param>
    /// <param name="logger">For what concerns the service, not a run.</param>
    /// <param name="journal">Where decisions go; the store when absent.</param>
    public ChainEngine(
        EngineOptions options,
        SqliteStore store,
        IEnumerable<IStepKind> kinds,
        IEnumerable<IProbe> probes,
        ISecretCipher cipher,
        ChainCheck check,
        TimeProvider time,
        ILogger<ChainEngine> logger,
        IJournal? journal = null
    )
    {
        (Options, _store, _check, Time, _logger) = (options, store, check, time, logger);
        Journal = journal ?? store;
        _releases = new(store);
        _released = new(store, check);
        _connections = new(name => ReadFile(name, Workspace.ReadConnections));
        _profiles = new(name => ReadFile(name, Profiles.Read));
        _kinds = kinds.ToDictionary(k => k.Description.Name);
        _snapshots = new(options.Snapshots);
        _probes = probes.ToDictionary(p => p.Description.Name);
        void Dropped(Exception e) => _logger.LogError(e, "A listener of the live feed broke and was dropped");
        Feed = new(Dropped);
        _folder = new(store, _snapshots, _released.RunnableOf);
        _reader = new(store, _folder, Feed, time, Dropped);
        Logs = new(options.Logs, time);
        _watches = new(logger);
        _children = new(this);
        _ends = new(EndOfAsync);
        _automatic = new(time, ResumeByItselfAsync);
        _stages = new(
            options,
            () => Connections,
            () => options.Folders.For(options.WorkFolder, Secrets!),
            run => store.Find(run)?.State,
            logger
        );
        Lanes.SetWidths(ReadLanes());
        Drafts = new(store.Drafts, this);
        Secrets = new(store.Secrets, cipher, time);
    }

    public EngineOptions Options { get; }
    public Bounds Bounds => Options.Bounds;

    /// <summary>The address of the console, for links to runs; null while nobody knows.</summary>
    public string? Home { get; set; }

    public TimeProvider Time { get; }
    public AttemptLogs Logs { get; }

    /// <summary>What has reached the disk, as it does.</summary>
    public RunFeed Feed { get; }
    public ChainCheck Check => _check;
    public IJournal Journal { get; }
    public ICatalogue Catalogue => _store;
    public IRunRegister Register => _store;

    /// <summary>Values that can be used and not read.</summary>
    public SecretBook Secrets { get; }

    /// <summary>Chains on their way to a release.</summary>
    public DraftDesk Drafts { get; }

    /// <summary>How far the attempts at work have got.</summary>
    public ProgressBoard Progress { get; } = new();

    /// <summary>Who is in which lane, and who waits.</summary>
    public LaneDesk Lanes { get; } = new();

    /// <summary>How many runs are going on.</summary>
    public int RunsInFlight => _actors.Count;

    /// <summary>The connections as they were pushed last.</summary>
    public ConnectionsFile Connections => _connections.Find(Workspace.ConnectionsName)!;

    IConnections IGuardSurroundings.Connections => Connections;
    bool IRunSurroundings.IsSuspending => _suspending;

    IStepKind IRunSurroundings.KindOf(string name) => _kinds[name];

    IProbe IGuardSurroundings.ProbeOf(string name) => _probes[name];

    FileWatches IGuardSurroundings.Watches => _watches;
    SnapshotFiles IRunSurroundings.Snapshots => _snapshots;
    ChildRuns IRunSurroundings.Children => _children;
    EndWatch IRunSurroundings.Ends => _ends;
    volatile bool _suspending;

    // A file of the workspace as it was pushed last; what was wrong with it was told then.
    T ReadFile<T>(string name, Func<string, ProblemList, T> read)
    {
        var text = _store.Setting(name) ?? "{}";
        return read(text, new ProblemList(name, text));
    }

    IReadOnlyDictionary<string, int> ReadLanes() => ReadFile(Workspace.LanesName, LanesFile.Read).Widths;

    byte[]? IRunSurroundings.Attachment(string release, string name) =>
        _store.Find(release)?.Files.GetValueOrDefault(name);

    void IRunSurroundings.Changed(RunChanged change) => Feed.Tell(change);

    void IRunSurroundings.Gone(RunActor actor, string? why)
    {
        _actors.TryRemove(KeyValuePair.Create(actor.Run, actor));
        _reader.LookAgain(actor.Run);
        if (why is not null)
            _stranded[actor.Run] = new(why, Time.GetUtcNow(), actor.Attempts);
    }

    void IRunSurroundings.GoOnFromDisk(RunActor before, UnstorableInput input) =>
        _ = Task.Run(async () =>
        {
            try
            {
                await TakeUpAsync(before.Run, before.Attempts, input).ConfigureAwait(false);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                Strand(before.Run, e);
            }
        });

    void IRunSurroundings.Settled(RunActor actor, RunState state)
    {
        _actors.TryRemove(KeyValuePair.Create(actor.Run, actor));
        LeaveLine(state.Chain.Name, actor.Run);
        if (state.ResumeAt is { } at)
        {
            _automatic.Plan(actor.Run, at);
            return;
        }
        _automatic.CallOff(actor.Run);
        _children.Ended(state);
        _ends.Ended(actor.Run);
        if (state.Outcome == Outcome.Succeeded)
            _stages.Succeeded(actor.Run);
    }

    void LeaveLine(string chain, long run)
    {
        if (_lines.Leave(chain, run) is { } next)
            ReleaseRun(next);
    }

    void ReleaseRun(long run)
    {
        if (_actors.TryGetValue(run, out var actor))
            actor.Post(new ReleaseInput(Time.GetUtcNow()));
    }

    void IRunSurroundings.Broken(long run, Exception exception) =>
        _logger.LogError(exception, "Internal error in run {Run}", run);

    /// <inheritdoc cref="ReleasedChains.Of"/>
    public Chain ChainOf(string release) => _released.Of(release);

    /// <inheritdoc cref="ReleasedChains.ReadableOf"/>
    public Chain? ReadableChainOf(string release) => _released.ReadableOf(release);

    /// <summary>Checks a workspace against the releases that are there; stores nothing.</summary>
    /// <exception cref="RefusedException">It takes longer than a check may.</exception>
    public Workspace ReadWorkspace(IReadOnlyDictionary<string, byte[]> files) =>
        CheckClock.Run(Options.Bounds, cancel => new Workspace(files, _check.Kinds, this, Secrets.IsSet, cancel));

    /// <summary>
    /// Checks and stores a workspace: each chain that changed gets a new release. With errors nothing is stored. Drafts
    /// stay.
    /// </summary>
    /// <param name="files">Contents by name.</param>
    /// <param name="author">Who brings it.</param>
    /// <param name="note">What the releases are for.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<Workspace> PushAsync(
        IReadOnlyDictionary<string, byte[]> files,
        string author,
        string? note = null
    )
    {
        var workspace = ReadWorkspace(files);
        if (!workspace.HasErrors)
            await StoreAsync(workspace.ToPush(Time.GetUtcNow(), author, note)).ConfigureAwait(false);
        return workspace;
    }

    Task IDraftHost.StoreAsync(Push push) => StoreAsync(push);

    async Task StoreAsync(Push push)
    {
        await _store.PushAsync(push).ConfigureAwait(false);
        // Runs that start from here on follow what was pushed.
        _connections.Forget();
        _profiles.Forget();
        _releases.Forget();
        Drafts.Forget();
        Lanes.SetWidths(ReadLanes());
    }

    /// <summary>What stands beside the chains, attachments left out.</summary>
    Surroundings IDraftHost.Surroundings() =>
        new(
            Connections.Types,
            new HashSet<string>(),
            _store
                .Chains()
                .Select(r => ReadableChainOf(r.Hash))
                .OfType<Chain>()
                .ToDictionary(c => c.Name, ChainInterfaces.Of),
            ReadLanes().Keys.ToHashSet()
        )
        {
            Profiles = ReadProfiles().All,
            Releases = ((IKnownReleases)this).Find,
            IsSecretSet = Secrets.IsSet,
        };

    ChainInterface? IKnownReleases.Find(string chain, int number) =>
        FindChain(new(chain, number)) is { } found ? ChainInterfaces.Of(found) : null;

    int IKnownReleases.NumberFor(Release content) => _releases.NumberFor(content);

    ReleaseBook IDraftHost.Releases => _releases;

    /// <summary>
    /// The workspace as files that could be pushed again: the latest releases, their attachments and what stands beside
    /// them.
    /// </summary>
    public IReadOnlyDictionary<string, byte[]> Export()
    {
        var files = new SortedDictionary<string, byte[]>(StringComparer.Ordinal);
        foreach (var chain in _store.Chains())
        {
            var release = _store.Find(chain.Hash)!;
            files[chain.Chain + Workspace.ChainEnding] = System.Text.Encoding.UTF8.GetBytes(release.Source);
            foreach (var (name, content) in release.Files)
                files[name] = content;
        }
        foreach (var name in (string[])[Workspace.ConnectionsName, Workspace.ProfilesName, Workspace.LanesName])
        {
            if (_store.Setting(name) is { } text)
                files[name] = System.Text.Encoding.UTF8.GetBytes(text);
        }
        return files;
    }

    /// <summary>
    /// Ends the engine: attempts are ended, runs stay as they are on disk and go on with the next start.
    /// </summary>
    public async ValueTask DisposeAsync()
    {
        _suspending = true;
        // Nothing is resumed any more by an engine that ends; the times are on disk for the next one.
        _automatic.Dispose();
        // Said beforehand, so that an end in good order is not taken for a crash.
        var told = Task.WhenAll(
            _actors.Values.Where(a => !a.Attempts.IsEmpty).Select(a => a.PostAsync(new SuspendInput(Time.GetUtcNow())))
        );
        await Task.WhenAny(told, Task.Delay(TimeSpan.FromSeconds(1), Time)).ConfigureAwait(false);
        foreach (var actor in _actors.Values)
            actor.Attempts.CancelAll();
        var ended = Task.WhenAll(_actors.Values.Select(a => a.Attempts.EndedAsync()));
        await Task.WhenAny(ended, Task.Delay(Options.ShutdownPatience, Time)).ConfigureAwait(false);
        foreach (var actor in _actors.Values)
            actor.Dispose();
        _watches.Dispose();
        Secrets.Dispose();
    }
}
