using GateChain.Core.Checking;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Connections;
using GateChain.Engine.Design;
using GateChain.Engine.Drafts;
using GateChain.Engine.Guards;
using GateChain.Engine.Leftovers;
using GateChain.Engine.Live;
using GateChain.Engine.Logs;
using GateChain.Engine.Nodes;
using GateChain.Engine.Reading;
using GateChain.Engine.Releases;
using GateChain.Engine.Retention;
using GateChain.Engine.Runs;
using GateChain.Engine.Secrets;
using GateChain.Engine.Sharing;
using GateChain.Engine.Slots;
using GateChain.Engine.Triggers;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Contract;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

/// <summary>
/// The engine, put together: who needs a part of it takes that part. One engine at a time works on a data folder.
/// </summary>
public sealed partial class ChainEngine : IAsyncDisposable
{
    readonly EngineOptions _options;
    readonly TimeProvider _time;
    readonly CancellationTokenSource _ending = new();
    readonly FileWatches _watches;
    readonly DangerWatch _dangers;
    readonly ISlots _slots;
    readonly StageKeeper _stages;
    readonly ITriggerStore _triggerStore;
    readonly SelfStarts _starts;
    readonly RunMeter _meter;
    readonly Shared? _shared;
    readonly OutboxReader? _newsOfOthers;

    /// <param name="options">Where it works.</param>
    /// <param name="store">Where it keeps what must not be lost.</param>
    /// <param name="kinds">The kinds that do work.</param>
    /// <param name="probes">What guards can look at.</param>
    /// <param name="cipher">Encrypts secrets for the store.</param>
    /// <param name="check">Reads and checks chains.</param>
    /// <param name="time">The clock.</param>
    /// <param name="logger">For what concerns the service, not a run.</param>
    /// <param name="journal">Where decisions go; the store when absent.</param>
    /// <param name="shared">The nodes that it shares the store with; null when it has it alone.</param>
    public ChainEngine(
        EngineOptions options,
        IStore store,
        IEnumerable<IStepKind> kinds,
        IEnumerable<IProbe> probes,
        ISecretCipher cipher,
        ChainCheck check,
        TimeProvider time,
        ILogger<ChainEngine> logger,
        IJournal? journal = null,
        Shared? shared = null
    )
    {
        (_options, _time, _triggerStore, _shared) = (options, time, store.Triggers, shared);
        void Dropped(Exception e) => logger.LogError(e, "A listener of the live feed broke");

        void Granted(SlotName _, Seat seat) =>
            Runs.Tell(
                seat.Run,
                seat.Step is { } step ? new LaneInput(time.GetUtcNow(), step) : new ReleaseInput(time.GetUtcNow())
            );
        var local = shared is null ? new LocalSlots(Granted) : null;
        _slots = local ?? shared!.Slots(Granted);

        // What is kept, and shown.
        var snapshots = new SnapshotFiles(options.Snapshots);
        var releases = new ReleaseIndex(store.Catalogue);
        Chains = new(store.Catalogue, check);
        var folder = new RunFolder(store.Journal, store.Runs, snapshots, Chains);
        Feed = new(Dropped);
        Reader = new(store.Runs, folder, Feed, time, Dropped, shared is null ? null : Runs.Has);
        Logs = new(options.Logs, time);
        LogReader = new(Logs, shared, time);
        ProgressReader = new(Progress, shared, Runs.Has);
        Outbox = new(store.Outbox, Feed, time, logger, alone: shared is null);

        // What people design, and what runs work with.
        Secrets = new(store.Secrets, cipher, options.SecretFiles, time);
        Workspace = new(store, releases, Chains, check, Secrets, time, options.Bounds, shared?.Store);
        Uses = new(store.Catalogue, Chains, Workspace);
        Broken = new(Workspace, logger);
        WorkspaceFiles = new(Workspace, Broken);
        Retirement = new(store.Catalogue, releases, Workspace, time);
        Drafts = new(store.Drafts, Workspace);
        _stages = new(options, ConnectionsOf, UseOf, store.Runs, logger);
        if (shared is null)
        {
            Outbox.Add("stages", _stages.HandleAsync);
        }
        else
        {
            var news = new NewsOfOthers(Reader, Feed, Runs.Has, _stages.HandleAsync);
            _newsOfOthers = new(store.Outbox, Feed, time, logger, alone: false);
            _newsOfOthers.Add(INodes.Consumer + shared.Link.Id, news.HandleAsync);
        }
        Connections = new(options, Workspace, Secrets, _stages, store.Catalogue, Chains);
        Lookup = new(options, Workspace, Drafts, Secrets, store.Catalogue, Reader, time);
        Workspace.Stored += () =>
        {
            Drafts.Forget();
            local?.SetWidths(Workspace.Lanes);
        };

        // Runs, and who begins, commands and recovers them.
        Kept = new(store.Kept, time, shared is not null);
        Positions = new(store.Kept, time);
        _watches = new(logger);
        _meter = new(time);
        var services = new RunServices
        {
            Meter = _meter,
            Options = options,
            Time = time,
            Journal = journal ?? store.Journal,
            Snapshots = snapshots,
            Logs = Logs,
            Secrets = Secrets,
            Watches = _watches,
            Slots = _slots,
            Kept = Kept,
            Positions = Positions,
            Ends = new(Reader, Feed),
            Progress = Progress,
            Feed = Feed,
            Ending = _ending.Token,
            IsShared = shared is not null,
            Kinds = kinds.ToDictionary(k => k.Description.Name),
            Probes = probes.ToDictionary(p => p.Description.Name),
            Connections = (area, tried) =>
                GuardedConnections.Of(Workspace.In(area).Connections, options.Rules(area), options.OwnPort(), tried),
            Attachments = async release =>
                (await store.Catalogue.FindAsync(release).ConfigureAwait(false))?.Files
                ?? new Dictionary<string, byte[]>(),
        };
        var admission = new Admission(Runs, _slots, store.Runs, Feed, time);
        Starter = new(services, admission, releases, Chains, Workspace, Drafts, store.Catalogue, store.Runs, Reader);
        var router = new RunRouter(shared, store.Runs, run => Recovery!.Has(run), time);
        Commands = new(services, Runs, admission, releases, Chains, Drafts, store, folder, Reader, router);
        Recovery = new(services, Runs, admission, store, folder, Reader, router, shared, logger);
        if (shared is not null)
            admission.StopElsewhere = Commands.StopAsync;
        services.Keeper = Recovery;
        services.Children = new(new ChildWork(Runs, Starter, Commands), store.Runs, Reader, Feed, time);
        // What starts chains by itself.
        Triggers = new(Workspace, store.Triggers, time);
        Workspace.AfterStored += Triggers.LoadAsync;
        Triggers.Released += Recovery.ContinueHeldAsync;
        Fires = new(Starter, Kept, Secrets, store.Triggers, time, options.Bounds, logger);
        Fires.Missed += Outbox.Ring;
        var parts = new TriggerParts
        {
            Triggers = Triggers,
            Desk = Fires,
            Store = store.Triggers,
            Workspace = Workspace,
            Starter = Starter,
            Secrets = Secrets,
            Options = options,
            Watches = _watches,
            Probes = services.Probes,
            Time = time,
            Logger = logger,
        };
        Hooks = new(parts, Reader, Feed, store.Runs);
        Backfills = new(Triggers, Fires, store, releases, Workspace, time, logger);
        var outcomes = new OutcomeFires(Triggers, Fires, store.Triggers, store.Journal, store.Runs, Reader, time);
        Outbox.Add("triggers", outcomes.HandleAsync);
        History = new(store.History, store.Runs, folder, () => Runs.Count, time, logger);
        if (options.KeepsHistory)
            Outbox.Add("history", HistoryIsGathered, History.HandleAsync);
        Data = DataOf(store.Catalogue, logger);
        Replayer = new(store.Runs, store.Journal, Chains);
        Moments = new(folder, store.Runs);
        Consequences = new(Uses, Data, store.Catalogue, Chains, Workspace);
        Keeping = new(options, store, Reader, new(folder, ConnectionsOf, UseOf, logger), time, logger);
        Outlook = new(store.History, store.Runs, Reader, time);
        _dangers = new(Runs, Reader, Outlook, time, logger);
        _meter.Start(
            Feed,
            () => Runs.Count,
            () => Recovery.Stranded.Count,
            store.Journal,
            () => Triggers.Holds.Any(h => h.Area.Length == 0)
        );
        TriggerService = new(Triggers, Fires, store.Triggers, Workspace, () => _starts!.Sources, time);
        TriggerFiles = new(Workspace, store.Files, time);
        _starts = new(
            parts,
            Backfills,
            Outbox,
            options.KeepsHistory ? History : null,
            store.Ownership,
            store.Runs,
            Commands,
            Feed,
            Keeping
        );
        if (shared is not null)
            _host = new(services, Chains.RunnableOfAsync, () => Node!.IsDraining);
        Nodes = new(shared, Runs, _host, time);
        Workspace.Labels = Nodes.LabelsAsync;
        if (shared is null)
            return;
        services.Far = new(shared, services);
        Node = NodeOf(shared, logger);
    }

    /// <summary>Starts runs.</summary>
    public RunStarter Starter { get; }

    /// <summary>What chains keep from run to run.</summary>
    public KeptValueService Kept { get; }

    /// <summary>How far steps have got in what they read.</summary>
    public PositionService Positions { get; }

    /// <summary>What starts chains by itself.</summary>
    public TriggerIndex Triggers { get; }

    internal ScheduleClock Schedules => _starts.Schedules!;

    internal TriggerSources Sources => _starts.Sources!;

    /// <summary>What people do with triggers.</summary>
    public TriggerService TriggerService { get; }

    /// <summary>Checks and saves files of triggers.</summary>
    public TriggerFileService TriggerFiles { get; }

    /// <summary>Where occasions of triggers come in.</summary>
    public FireService Fires { get; }

    /// <summary>Takes the calls of other systems.</summary>
    public HookService Hooks { get; }

    /// <summary>Makes up for due times of a span.</summary>
    public BackfillService Backfills { get; }

    /// <summary>What people decide about runs.</summary>
    public RunCommands Commands { get; }

    /// <summary>Continues runs that were given up.</summary>
    public RunRecovery Recovery { get; }

    /// <summary>The runs that continue in this process.</summary>
    public ActiveRuns Runs { get; } = new();

    /// <summary>Shows runs as they are on disk.</summary>
    public RunReader Reader { get; }

    /// <summary>What has reached the disk, as it does.</summary>
    public RunFeed Feed { get; }

    /// <summary>The same for those who must not miss any of it.</summary>
    public OutboxReader Outbox { get; }

    /// <summary>What attempts have written.</summary>
    public AttemptLogs Logs { get; }

    /// <summary>Reads them, wherever they are.</summary>
    public LogReader LogReader { get; }

    /// <summary>How far the attempts running have got here.</summary>
    public ProgressBoard Progress { get; } = new();

    /// <summary>How far those of a run have got, wherever it is.</summary>
    public ProgressReader ProgressReader { get; }

    /// <summary>What is remembered of runs that have ended.</summary>
    public HistoryKeeper History { get; }

    /// <summary>How long runs are kept that have ended.</summary>
    public RunKeeping Keeping { get; }

    /// <summary>Looks at runs beside those before them.</summary>
    public RunOutlook Outlook { get; }

    // Nobody misses a run in its history for half a second, and many are written at once.
    static readonly TimeSpan HistoryIsGathered = TimeSpan.FromMilliseconds(500);

    /// <summary>Who is in which lane, and who waits.</summary>
    public ISlots Slots => _slots;

    /// <summary>The workspace as it was pushed last.</summary>
    public WorkspaceService Workspace { get; }

    /// <summary>The chains of releases and of drafts that were tried.</summary>
    public ReleasedChains Chains { get; }

    /// <summary>Which chains do not fit what stands beside them.</summary>
    public BrokenChains Broken { get; }

    /// <summary>Lists and saves what stands beside the chains.</summary>
    public WorkspaceFileService WorkspaceFiles { get; }

    /// <summary>Who calls and starts a chain.</summary>
    public ChainUses Uses { get; }

    /// <summary>Takes chains out of use.</summary>
    public ChainRetirement Retirement { get; }

    /// <summary>Chains on their way to a release.</summary>
    public DraftService Drafts { get; }

    /// <summary>Values that can be used and not read.</summary>
    public SecretVault Secrets { get; }

    /// <summary>What people do with connections.</summary>
    public ConnectionService Connections { get; }

    /// <summary>Looks up what settings of a draft can name.</summary>
    public DesignLookup Lookup { get; }

    /// <summary>Reads what people have set: before anybody works with it.</summary>
    internal async Task LoadAsync()
    {
        await Secrets.LoadAsync().ConfigureAwait(false);
        await Workspace.LoadAsync().ConfigureAwait(false);
    }

    /// <summary>Continues with every run that had not ended when the service last did.</summary>
    /// <exception cref="StorageException">The store can't be written.</exception>
    public async Task StartAsync()
    {
        await LoadAsync().ConfigureAwait(false);
        if (Node is not null)
        {
            await Triggers.LoadAsync().ConfigureAwait(false);
            await _newsOfOthers!.StartAsync().ConfigureAwait(false);
            await Node.StartAsync().ConfigureAwait(false);
        }
        else
        {
            await _starts.StartAsync(RecoverAsync).ConfigureAwait(false);
        }
        _dangers.Start(Feed);
        _stages.Start();
    }

    async Task RecoverAsync()
    {
        var isCopy = await MovedFolder.HoldAsync(_options.DataFolder, _triggerStore, Triggers).ConfigureAwait(false);
        await Recovery.RecoverAsync(isCopy ? MovedFolder.Why : null).ConfigureAwait(false);
    }

    /// <summary>
    /// Ends the engine: attempts are ended, runs stay as they are on disk and continue with the next start.
    /// </summary>
    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        _dangers.Dispose();
        if (Node is not null)
            await Node.DisposeAsync().ConfigureAwait(false);
        await _starts.StopAsync(_options.ShutdownPatience).ConfigureAwait(false);
        // Said beforehand, so that an end in good order is not taken for a crash.
        var told = Task.WhenAll(
            Runs.All.Where(a => !a.Attempts.IsEmpty).Select(a => a.PostAsync(new SuspendInput(_time.GetUtcNow())))
        );
        await Task.WhenAny(told, Task.Delay(TimeSpan.FromSeconds(1), _time)).ConfigureAwait(false);
        _host?.EndAll();
        foreach (var actor in Runs.All)
            actor.Attempts.CancelAll();
        var ended = Task.WhenAll(Runs.All.Select(a => a.Attempts.EndedAsync()));
        await Task.WhenAny(ended, Task.Delay(_options.ShutdownPatience, _time)).ConfigureAwait(false);
        foreach (var actor in Runs.All)
            actor.Dispose();
        if (_newsOfOthers is not null)
        {
            await Task.WhenAny(_newsOfOthers.DisposeAsync().AsTask(), Task.Delay(_options.ShutdownPatience, _time))
                .ConfigureAwait(false);
        }
        await Backfills.DisposeAsync().ConfigureAwait(false);
        _watches.Dispose();
        Triggers.Dispose();
        Keeping.Dispose();
        _meter.Dispose();
        DisposeData();
        Workspace.Dispose();
        Secrets.Dispose();
    }
}
