using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Live;
using GateChain.Engine.Runs;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Storage;
using GateChain.Storage.Logs;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

/// <summary>Makes runs happen. Thread-safe. One engine at a time works on a data folder.</summary>
public sealed partial class ChainEngine : IRunSurroundings, IAsyncDisposable
{
    readonly ConcurrentDictionary<long, RunActor> _actors = new();
    readonly ConcurrentDictionary<string, Lazy<Chain>> _chains = new();
    readonly ConcurrentDictionary<string, string> _latest = new();
    readonly ConcurrentDictionary<long, ResumeTicket> _resuming = new();
    readonly EndedRuns _ended = new();
    readonly Dictionary<string, IStepKind> _kinds;
    readonly ChainCheck _check;
    readonly ILogger _logger;
    readonly SqliteStore _store;
    ConnectionsFile? _connections;
    Profiles? _profiles;

    /// <param name="options">Where it works.</param>
    /// <param name="store">Where it keeps what must not be lost.</param>
    /// <param name="kinds">The kinds that do work.</param>
    /// <param name="check">Reads and checks chains.</param>
    /// <param name="time">The clock.</param>
    /// <param name="logger">For what concerns the service, not a run.</param>
    public ChainEngine(EngineOptions options, SqliteStore store, IEnumerable<IStepKind> kinds, ChainCheck check, TimeProvider time, ILogger<ChainEngine> logger)
    {
        (Options, _store, _check, Time, _logger) = (options, store, check, time, logger);
        _kinds = kinds.ToDictionary(k => k.Description.Name);
        Logs = new(options.Logs, time);
    }

    public EngineOptions Options { get; }
    public TimeProvider Time { get; }
    public AttemptLogs Logs { get; }
    public LiveFeed Live { get; } = new();
    public ChainCheck Check => _check;
    public IJournal Journal => _store;
    public ICatalogue Catalogue => _store;
    public IRunRegister Register => _store;

    /// <summary>How many runs are going on.</summary>
    public int RunsInFlight => _actors.Count;

    IConnections IRunSurroundings.Connections => _connections ??= ReadConnections();
    bool IRunSurroundings.IsSuspending => _suspending;
    IStepKind IRunSurroundings.KindOf(string name) => _kinds[name];
    volatile bool _suspending;

    ConnectionsFile ReadConnections()
    {
        var text = _store.Setting(Workspace.ConnectionsName) ?? "{}";
        return ConnectionsFile.Read(text, new ProblemList(Workspace.ConnectionsName, text));
    }

    string? IRunSurroundings.Attachment(string release, string name) =>
        _store.Find(release)?.Files.TryGetValue(name, out var content) == true ? System.Text.Encoding.UTF8.GetString(content) : null;

    void IRunSurroundings.Changed(long seq, Decision decision, RunState state)
    {
        if (Live.HasListeners) { Live.Tell(new(state.Id, seq, decision, state)); }
    }

    void IRunSurroundings.Ended(RunActor actor) => _actors.TryRemove(KeyValuePair.Create(actor.Run, actor));

    void IRunSurroundings.Broken(long run, Exception exception) => _logger.LogError(exception, "Internal error in run {Run}", run);

    /// <summary>Takes up every run that had not ended when the service last did.</summary>
    public async Task RecoverAsync()
    {
        foreach (var (head, epoch) in await _store.TakeOverAsync().ConfigureAwait(false))
        {
            try
            {
                var (state, seq) = Fold(head);
                var actor = new RunActor(state, seq, epoch, this);
                _actors[head.Id] = actor;
                actor.Post(new RecoveredInput(Time.GetUtcNow()));
                actor.Post(new TimeInput(Time.GetUtcNow()));
                _logger.LogInformation("Run {Run} of {Chain} goes on", head.Id, head.Chain);
            }
            catch (Exception e) when (e is InvalidOperationException or System.Text.Json.JsonException)
            {
                _logger.LogError(e, "Run {Run} can't be taken up: its journal does not fit this version", head.Id);
            }
        }
    }

    (RunState State, long Seq) Fold(RunHead head, int upToLeg = int.MaxValue)
    {
        var chain = ChainOf(head.Release);
        long seq = 0;
        var journal = _store.Read(head.Id).Select(row => (row.Seq, Decision: Decision.FromBytes(row.Body)))
            .TakeWhile(row => !row.Decision.Events.Any(e => e is LegStarted next && next.Leg > upToLeg));
        var state = RunState.Fold(head.Id, chain, journal.Select(row =>
        {
            seq = row.Seq;
            return row.Decision;
        }));
        return (state, seq);
    }

    /// <summary>The chain of a release, read once.</summary>
    public Chain ChainOf(string release) => _chains.GetOrAdd(release, hash => new(() =>
    {
        var stored = _store.Find(hash) ?? throw new RefusedException(RefusalKind.NotFound, $"there is no release {hash}");
        return _check.Check(stored.Chain, stored.Source).Chain!;
    })).Value;

    /// <summary>Checks and stores a workspace. With errors nothing is stored.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<Workspace> PushAsync(IReadOnlyDictionary<string, byte[]> files)
    {
        var workspace = new Workspace(files, _check.Kinds);
        if (!workspace.HasErrors)
        {
            await _store.PushAsync(workspace.ToPush(Time.GetUtcNow())).ConfigureAwait(false);
            // Runs that start from here on follow what was pushed.
            (_connections, _profiles) = (null, null);
            _latest.Clear();
        }
        return workspace;
    }

    /// <summary>Starts a run; it is on disk when this returns.</summary>
    /// <param name="name">The chain.</param>
    /// <param name="given">Parameters; text is read as their types ask.</param>
    /// <param name="profile">The name of a profile, or null.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is no such chain, or a parameter is missing, unknown or ill-typed.</exception>
    /// <exception cref="StorageException">Nothing can be written at the moment.</exception>
    public async Task<long> StartAsync(string name, IReadOnlyDictionary<string, Value> given, string? profile, string by)
    {
        if (!_latest.TryGetValue(name, out var release)) { _latest[name] = release = LatestOf(name); }
        var chain = ChainOf(release);
        var values = Parameters.Read(chain.Parameters, given, complete: true);
        var profileValues = (_profiles ??= ReadProfiles()).Choose(profile);
        var now = Time.GetUtcNow();
        // Runs that are going hold still while nothing can be written; a new one is refused instead.
        if (Journal.Writer.Trouble is { } trouble) { throw new StorageException($"the run was not started: {trouble}"); }
        var id = _store.NextId();
        var actor = new RunActor(new(id, chain), 0, 1, this);
        _actors[id] = actor;
        await actor.PostAsync(new StartInput(now, Guid.NewGuid().ToString("N"), release, values, profileValues, by)).ConfigureAwait(false);
        return id;
    }

    string LatestOf(string name) => _store.Latest(name)?.Hash ?? throw new RefusedException(RefusalKind.NotFound,
        $"there is no chain “{name}”{(Nearest.Mend(name, _store.Chains().Select(c => c.Chain)) is { } mend ? $"; {mend}" : "")}");

    Profiles ReadProfiles()
    {
        var text = _store.Setting(Workspace.ProfilesName) ?? "{}";
        return Profiles.Read(text, new ProblemList(Workspace.ProfilesName, text));
    }

    /// <summary>The names of the profiles that a run can be started under.</summary>
    public IEnumerable<string> ProfileNames => (_profiles ??= ReadProfiles()).Names;

    /// <summary>Asks a run to stop; what runs is ended.</summary>
    /// <exception cref="RefusedException">There is no such run, or it has ended.</exception>
    public async Task StopAsync(long run, string by, string? message)
    {
        if (_actors.TryGetValue(run, out var actor) && await actor.PostAsync(new StopInput(Time.GetUtcNow(), by, message)).ConfigureAwait(false)) { return; }
        HeadOf(run);
        var (state, at, stopping) = await ReadAsync(run, (s, _) => (s.Word, s.Ended, s.IsStopping)).ConfigureAwait(false);
        if (at is null && stopping) { return; }
        throw new RefusedException(RefusalKind.Conflict, $"run {run} has already ended: it {(state == "stopped" ? "was stopped" : state)} at {at:u}");
    }

    /// <summary>Goes on with a run from its checkpoint, in a new leg.</summary>
    /// <param name="run">The run.</param>
    /// <param name="by">Who asks.</param>
    /// <param name="set">Overrides: <c>params.x</c>, <c>vars.x</c>, or a bare name when it is unambiguous.</param>
    /// <param name="from">Steps to do again, with all their descendants.</param>
    /// <param name="skip">Steps to pass over.</param>
    /// <exception cref="RefusedException">The run is going, succeeded, or was resumed by somebody else at the same time.</exception>
    public async Task<int> ResumeAsync(long run, string by, IReadOnlyDictionary<string, Value> set, IReadOnlyList<string> from, IReadOnlyList<string> skip)
    {
        var head = HeadOf(run);
        var chain = ChainOf(head.Release);
        var (parameters, variables) = Parameters.ReadOverrides(chain, set);
        // Two at once: one of them gets its name in, and the other is told who was first.
        var ticket = new ResumeTicket(by);
        var first = _resuming.GetOrAdd(run, ticket);
        if (first != ticket) { throw new RefusedException(RefusalKind.Conflict, $"run {run} is being resumed by {first.By} at this moment"); }
        try
        {
            if (_actors.TryGetValue(run, out var going)) { throw await AlreadyGoingAsync(going).ConfigureAwait(false); }
            var epoch = await _store.TakeOverAsync(run).ConfigureAwait(false);
            var (state, seq) = Fold(HeadOf(run));
            if (RunMachine.PlanResume(state, from, skip).Refusal is { } refusal) { throw new RefusedException(state.Outcome == Outcome.Succeeded ? RefusalKind.Conflict : RefusalKind.Invalid, $"run {run} can't be resumed: {refusal}"); }
            var actor = new RunActor(state, seq, epoch, this);
            _actors[run] = actor;
            await actor.PostAsync(new ResumeInput(Time.GetUtcNow(), by, parameters, variables, from, skip)).ConfigureAwait(false);
            return state.Leg;
        }
        finally
        {
            _resuming.TryRemove(run, out _);
        }
    }

    /// <summary>Somebody who is just beginning a leg.</summary>
    sealed class ResumeTicket(string by)
    {
        public string By { get; } = by;
    }

    static async Task<RefusedException> AlreadyGoingAsync(RunActor actor)
    {
        var (leg, by, at) = await actor.ReadAsync((s, _) => (s.Leg, s.Resumes.Count > 0 ? s.Resumes[^1].By : s.By, s.Started)).ConfigureAwait(false);
        return new(RefusalKind.Conflict, leg > 1 ? $"run {actor.Run} is already going on: leg {leg} was begun by {by}" : $"run {actor.Run} is still going since {at:u}");
    }

    RunHead HeadOf(long run) => _store.Find(run) ?? throw new RefusedException(RefusalKind.NotFound, $"there is no run {run}");

    /// <summary>Reads a run's state between two decisions, with the number of its last journal row.</summary>
    /// <param name="run">The run.</param>
    /// <param name="read">Must not keep the state.</param>
    /// <exception cref="RefusedException">There is no such run.</exception>
    public async Task<T> ReadAsync<T>(long run, Func<RunState, long, T> read)
    {
        if (_actors.TryGetValue(run, out var actor)) { return await actor.ReadAsync(read).ConfigureAwait(false); }
        var head = HeadOf(run);
        return _ended.Read(run, head.Leg, () => Fold(head), read);
    }

    /// <summary>Reads a run's state as it was when a leg ended: the fold of the journal up to where the next one began.</summary>
    /// <exception cref="RefusedException">There is no such run or leg.</exception>
    public T ReadPast<T>(long run, int leg, Func<RunState, long, T> read)
    {
        var head = HeadOf(run);
        if (leg < 1 || leg > head.Leg) { throw new RefusedException(RefusalKind.NotFound, $"run {run} has no leg {leg}"); }
        var (state, seq) = Fold(head, leg);
        return read(state, seq);
    }

    /// <summary>Ends the engine: attempts are ended, runs stay as they are on disk and go on with the next start.</summary>
    public async ValueTask DisposeAsync()
    {
        _suspending = true;
        foreach (var actor in _actors.Values) { actor.Attempts.CancelAll(); }
        var patience = Time.GetTimestamp();
        while (_actors.Values.Any(a => !a.Attempts.IsEmpty) && Time.GetElapsedTime(patience) < Options.ShutdownPatience)
        {
            await Task.Delay(10).ConfigureAwait(false);
        }
        foreach (var actor in _actors.Values) { actor.Dispose(); }
    }
}
