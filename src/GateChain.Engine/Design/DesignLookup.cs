using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Connections;
using GateChain.Engine.Drafts;
using GateChain.Engine.Reading;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Kinds.Lookups;
using GateChain.Storage;

namespace GateChain.Engine.Design;

/// <summary>
/// Looks up what settings of a draft can name, for the designer: columns, tables, files. Thread-safe.
/// </summary>
public sealed class DesignLookup
{
    readonly EngineOptions _options;
    readonly WorkspaceService _workspace;
    readonly DraftService _drafts;
    readonly SecretVault _secrets;
    readonly ICatalogue _catalogue;
    readonly RunReader _runs;
    readonly TimeProvider _time;

    internal DesignLookup(
        EngineOptions options,
        WorkspaceService workspace,
        DraftService drafts,
        SecretVault secrets,
        ICatalogue catalogue,
        RunReader runs,
        TimeProvider time
    ) =>
        (_options, _workspace, _drafts, _secrets, _catalogue, _runs, _time) = (
            options,
            workspace,
            drafts,
            secrets,
            catalogue,
            runs,
            time
        );

    static readonly TimeSpan LookPatience = TimeSpan.FromSeconds(10);

    /// <summary>
    /// The columns that a load step of a draft would meet, as far as its settings can be told: with the data of a run,
    /// or with the values of a profile and the defaults of parameters.
    /// </summary>
    /// <param name="run">A run of the chain whose data is taken; null for none.</param>
    /// <exception cref="RefusedException">There is no such step.</exception>
    public async Task<LoadColumns> OfAsync(
        string chain,
        string source,
        string address,
        long? run,
        CancellationToken cancel
    )
    {
        var draft = (await _drafts.CheckAsync(chain, source).ConfigureAwait(false)).Chain;
        var step = draft?.AllSteps.FirstOrDefault(s => s.Address == address && s.Kind.Name == "load")
            ?? throw new RefusedException(RefusalKind.NotFound, $"there is no load step “{address}”");
        var names = new DictionaryBindings(
            new Dictionary<string, Value>
            {
                ["profile"] = (await _workspace.ContextOfAsync(chain).ConfigureAwait(false)).Profiles.Choose(null),
                ["params"] = Value.Map(
                    DictionaryMap.Of(
                        draft!
                            .Parameters.Where(p => p.Default is not null)
                            .Select(p => KeyValuePair.Create(p.Name, p.Default!.Value))
                    )
                ),
            }
        );
        if (run is { } past)
        {
            var seen = await _runs
                .ReadAsync(past, (state, _) =>
                    PastRunBindings.Of(state, step.Scope.Address, step.Id, _time.GetUtcNow())
                )
                .ConfigureAwait(false);
            return seen is null
                ? new([], [], $"run {past} has not come to this place")
                : await LookAsync(chain, step, seen, cancel).ConfigureAwait(false);
        }
        return await LookAsync(chain, step, names, cancel).ConfigureAwait(false);
    }

    async Task<LoadColumns> LookAsync(string chain, Step step, IBindings names, CancellationToken cancel)
    {
        // Only where rows come from and go to: what else there is may well depend on the run.
        var (from, into) = (
            step.Settings["from"]?.Evaluate(names) ?? Value.EmptyMap,
            step.Settings["into"]?.Evaluate(names) ?? Value.EmptyMap
        );
        if (into.IsError)
            return new([], [], $"where rows go can be told only with the data of a run: {into.AsError.Message}");
        var unknown = from.IsError
            ? "where rows come from can be told only with the data of a run (choose one under “values”): "
                + $"{from.AsError.Message}"
            : null;
        var context = await ContextAsync(chain).ConfigureAwait(false);
        var found = await PatientlyAsync(
                limit => LoadColumns.Look(from.IsError ? null : from, into, context, limit),
                late => new([], [], late),
                cancel
            )
            .ConfigureAwait(false);
        return (unknown ?? found.Problem) is { } problem ? found with { Problem = _secrets.Mask.Text(problem) } : found;
    }

    /// <summary>The tables and views of a connection, as the chain may name them.</summary>
    /// <param name="chain">The chain, whose folder decides which connections it sees.</param>
    public Task<LookupResult> TablesAsync(string chain, string connection, CancellationToken cancel) =>
        LookAsync(chain, (context, limit) => Lookup.Tables(connection, context, limit), cancel);

    /// <summary>The files and folders that begin with a text.</summary>
    /// <param name="connection">A connection of type folder or sftp; null for the work folder.</param>
    public Task<LookupResult> PathsAsync(string chain, string? connection, string begin, CancellationToken cancel) =>
        LookAsync(chain, (context, limit) => Lookup.Paths(begin, connection, context, limit), cancel);

    async Task<LookupResult> LookAsync(
        string chain,
        Func<AttemptContext, CancellationToken, LookupResult> look,
        CancellationToken cancel
    )
    {
        var context = await ContextAsync(chain).ConfigureAwait(false);
        var found = await PatientlyAsync(
                limit => look(context, limit),
                late => new LookupResult([], Problem: late),
                cancel
            )
            .ConfigureAwait(false);
        return found.Problem is { } problem ? found with { Problem = _secrets.Mask.Text(problem) } : found;
    }

    // What is looked at is ended when nobody waits for it any more.
    async Task<T> PatientlyAsync<T>(Func<CancellationToken, T> look, Func<string, T> late, CancellationToken cancel)
    {
        using var patience = new CancellationTokenSource(LookPatience, _time);
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel, patience.Token);
        try
        {
            return await Task.Run(() => look(limit.Token), cancel)
                .WaitAsync(LookPatience + TimeSpan.FromSeconds(2), cancel)
                .ConfigureAwait(false);
        }
        catch (Exception e)
            when (e is TimeoutException or OperationCanceledException && !cancel.IsCancellationRequested)
        {
            return late($"nothing answered within {LookPatience.TotalSeconds} s");
        }
    }

    // Nothing is changed, and nothing of a run is there.
    async Task<AttemptContext> ContextAsync(string chain)
    {
        var area = await _workspace.AreaOfAsync(chain).ConfigureAwait(false);
        var files = (await _catalogue.LatestAsync(chain).ConfigureAwait(false))?.Files;
        return new AttemptContext
        {
            Run = 0,
            Step = chain,
            Attempt = 1,
            WorkKey = new("design", chain, 0),
            WorkFolder = _options.WorkFolder,
            Folders = _options.Folders,
            ReadOnly = true,
            StepsFolder = _options.Steps,
            Log = new NullAttemptLog(),
            Connections = GuardedConnections.Of(
                (await _workspace.ContextOfAsync(chain).ConfigureAwait(false)).Connections,
                _options.Rules(area),
                _options.OwnPort(),
                tried: true
            ),
            Secrets = _secrets.In(area),
            Attachment = name => files?.GetValueOrDefault(name),
            Time = _time,
        };
    }

    sealed class NullAttemptLog : IAttemptLog
    {
        public void Out(string line) { }

        public void Err(string line) { }

        public void Note(string line) { }
    }
}
