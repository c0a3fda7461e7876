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
using GateChain.Engine.Connections;
using GateChain.Engine.Design;
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
public sealed partial class ChainEngine : IRunSurroundings, IChildHost, IAsyncDisposable
{
    readonly ConcurrentDictionary<long, RunActor> _actors = new();

    readonly ConcurrentDictionary<long, ResumeTicket> _resuming = new();
    readonly ReleaseBook _releases;
    readonly ReleasedChains _released;
    readonly RunFolder _folder;
    readonly ChainLines _lines = new();
    readonly Dictionary<string, IStepKind> _kinds;
    readonly Dictionary<string, IProbe> _probes;
    readonly FileWatches _watches;
    readonly SnapshotFiles _snapshots;
    readonly ChildRuns _children;
    readonly EndWatch _ends;
    readonly AutomaticResumes _automatic;
    readonly StageKeeper _stages;
    readonly ILogger _logger;
    readonly SqliteStore _store;

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
        (Options, _store, Check, Time, _logger) = (options, store, check, time, logger);
        Journal = journal ?? store;
        _releases = new(store);
        _released = new(store, check);
        _kinds = kinds.ToDictionary(k => k.Description.Name);
        _snapshots = new(options.Snapshots);
        _probes = probes.ToDictionary(p => p.Description.Name);
        void Dropped(Exception e) => _logger.LogError(e, "A listener of the live feed broke and was dropped");
        Feed = new(Dropped);
        _folder = new(store, _snapshots, _released.RunnableOf);
        Reader = new(store, _folder, Feed, time, Dropped);
        Logs = new(options.Logs, time);
        _watches = new(logger);
        _children = new(this);
        _ends = new(EndOfAsync);
        _automatic = new(time, ResumeByItselfAsync);
        _stages = new(
            options,
            () => Workspace!.Connections,
            () => options.Folders.For(options.WorkFolder, Secrets!),
            run => store.Find(run)?.State,
            logger
        );
        Secrets = new(store.Secrets, cipher, time);
        Workspace = new(store, _releases, _released, check, Secrets, time, options.Bounds);
        Drafts = new(store.Drafts, Workspace);
        Connections = new(options, Workspace, Secrets, _stages, store, _released);
        Columns = new(options, Workspace, Drafts, Secrets, store, Reader, time);
        Lanes.SetWidths(Workspace.Lanes);
        Workspace.Stored += () =>
        {
            Drafts.Forget();
            Lanes.SetWidths(Workspace.Lanes);
        };
    }

    public EngineOptions Options { get; }
    public Bounds Bounds => Options.Bounds;

    /// <summary>The address of the console, for links to runs; null while nobody knows.</summary>
    public string? Home { get; set; }

    public TimeProvider Time { get; }
    public AttemptLogs Logs { get; }

    /// <summary>What has reached the disk, as it does.</summary>
    public RunFeed Feed { get; }

    /// <summary>Shows runs as they are on disk.</summary>
    public RunReader Reader { get; }
    public ChainCheck Check { get; }
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

    /// <summary>The workspace as it was pushed last.</summary>
    public WorkspaceBook Workspace { get; }

    /// <summary>What people do with connections.</summary>
    public ConnectionDesk Connections { get; }

    /// <summary>The columns that a load of a draft would meet.</summary>
    public ColumnLook Columns { get; }

    IConnections IGuardSurroundings.Connections => Workspace.Connections;
    bool IRunSurroundings.IsSuspending => _suspending;

    IStepKind IRunSurroundings.KindOf(string name) => _kinds[name];

    IProbe IGuardSurroundings.ProbeOf(string name) => _probes[name];

    FileWatches IGuardSurroundings.Watches => _watches;
    SnapshotFiles IRunSurroundings.Snapshots => _snapshots;
    ChildRuns IRunSurroundings.Children => _children;
    EndWatch IRunSurroundings.Ends => _ends;
    volatile bool _suspending;

    byte[]? IRunSurroundings.Attachment(string release, string name) =>
        _store.Find(release)?.Files.GetValueOrDefault(name);

    void IRunSurroundings.Changed(RunChanged change) => Feed.Tell(change);

    void IRunSurroundings.Gone(RunActor actor, string? why)
    {
        _actors.TryRemove(KeyValuePair.Create(actor.Run, actor));
        if (why is not null)
            _stranded[actor.Run] = new(why, Time.GetUtcNow(), actor.Attempts);
        // Last: what is on disk of it may not be readable.
        Reader.LookAgain(actor.Run);
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
