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
using GateChain.Kinds.Load.Looking;
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
        var step = await StepAsync(chain, source, address, ["load"]).ConfigureAwait(false);
        return await NamesAsync(chain, step, run).ConfigureAwait(false) is { } names
            ? await LookAsync(chain, step.Step, names, cancel).ConfigureAwait(false)
            : new([], [], NotThere(run));
    }

    static string NotThere(long? run) => $"run {run} has not come to this place";

    /// <summary>
    /// What a load or check step of a draft would read: its first rows as the step is set, and what the file itself
    /// seems to be. With the data of a run, or with the values of a profile and the defaults of parameters.
    /// </summary>
    /// <param name="run">A run of the chain whose data is taken; null for none.</param>
    /// <exception cref="RefusedException">There is no such step.</exception>
    public async Task<LoadLook> PreviewAsync(
        string chain,
        string source,
        string address,
        long? run,
        CancellationToken cancel
    )
    {
        var step = await StepAsync(chain, source, address, ["load", "check"]).ConfigureAwait(false);
        if (await NamesAsync(chain, step, run).ConfigureAwait(false) is not { } names)
            return new(null, null, null, NotThere(run));
        // A check reads like a load, all columns as they are.
        (string There, string Here)[] taken =
            step.Step.Kind.Name == "load"
                ? [("from", "from"), ("columns", "columns"), ("bind", "bind"), ("numbers", "numbers")]
                : [("of", "from")];
        var settings = new Dictionary<string, Value> { ["from"] = Value.EmptyMap };
        foreach (var (there, here) in taken)
        {
            if (step.Step.Settings[there]?.Evaluate(names) is not { } value)
                continue;
            if (value.IsError)
            {
                return new(
                    null,
                    null,
                    null,
                    "what is read can be told only with the data of a run (choose one under “values”): "
                        + value.AsError.Message
                );
            }
            settings[here] = value;
        }
        var context = await ContextAsync(chain).ConfigureAwait(false);
        var found = await PatientlyAsync(
                limit => LoadLook.At(Value.Map(DictionaryMap.Of(settings)), context, limit),
                late => new(null, null, null, late),
                cancel
            )
            .ConfigureAwait(false);
        return found.Problem is { } problem ? found with { Problem = _secrets.Mask.Text(problem) } : found;
    }

    async Task<(Chain Draft, Step Step)> StepAsync(
        string chain,
        string source,
        string address,
        IReadOnlyList<string> kinds
    )
    {
        var draft = (await _drafts.CheckAsync(chain, source).ConfigureAwait(false)).Chain;
        return draft?.AllSteps.FirstOrDefault(s => s.Address == address && kinds.Contains(s.Kind.Name)) is { } step
            ? (draft, step)
            : throw new RefusedException(
                RefusalKind.NotFound,
                $"there is no step “{address}” of kind {string.Join(" or ", kinds)}"
            );
    }

    // Null when the run has not come there.
    async Task<IBindings?> NamesAsync(string chain, (Chain Draft, Step Step) at, long? run) =>
        run is { } past
            ? await _runs
                .ReadAsync(past, (state, _) =>
                    PastRunBindings.Of(state, at.Step.Scope.Address, at.Step.Id, _time.GetUtcNow())
                )
                .ConfigureAwait(false)
            : new DictionaryBindings(
                new Dictionary<string, Value>
                {
                    ["profile"] = (await _workspace.ContextOfAsync(chain).ConfigureAwait(false)).Profiles.Choose(null),
                    ["params"] = Value.Map(
                        DictionaryMap.Of(
                            at.Draft.Parameters.Where(p => p.Default is not null)
                                .Select(p => KeyValuePair.Create(p.Name, p.Default!.Value))
                        )
                    ),
                }
            );

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
