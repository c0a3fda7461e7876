using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Reading;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Storage;

namespace GateChain.Engine.Design;

/// <summary>Looks at the columns that a load of a draft would meet, for the designer. Thread-safe.</summary>
public sealed class ColumnPreview
{
    readonly EngineOptions _options;
    readonly WorkspaceService _workspace;
    readonly DraftService _drafts;
    readonly SecretVault _secrets;
    readonly ICatalogue _catalogue;
    readonly RunReader _runs;
    readonly TimeProvider _time;

    internal ColumnPreview(
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
        var files = (await _catalogue.LatestAsync(chain).ConfigureAwait(false))?.Files;
        var context = new AttemptContext
        {
            Run = 0,
            Step = step.Address,
            Attempt = 1,
            WorkKey = new("design", step.Address, 0),
            WorkFolder = _options.WorkFolder,
            Folders = _options.Folders,
            ReadOnly = true,
            StepsFolder = _options.Steps,
            Log = new NullAttemptLog(),
            Connections = (await _workspace.ContextOfAsync(chain).ConfigureAwait(false)).Connections,
            Secrets = _secrets,
            Attachment = name => files?.GetValueOrDefault(name),
            Time = _time,
        };
        // What is looked at is ended when nobody waits for it any more.
        using var patience = new CancellationTokenSource(LookPatience, _time);
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel, patience.Token);
        try
        {
            return Masked(
                await Task.Run(() => LoadColumns.Look(from.IsError ? null : from, into, context, limit.Token), cancel)
                    .WaitAsync(LookPatience + TimeSpan.FromSeconds(2), cancel)
                    .ConfigureAwait(false),
                unknown
            );
        }
        catch (Exception e)
            when (e is TimeoutException or OperationCanceledException && !cancel.IsCancellationRequested)
        {
            return new([], [], $"nothing answered within {LookPatience.TotalSeconds} s");
        }
    }

    LoadColumns Masked(LoadColumns found, string? unknown) =>
        (unknown ?? found.Problem) is { } problem ? found with { Problem = _secrets.Mask.Text(problem) } : found;

    sealed class NullAttemptLog : IAttemptLog
    {
        public void Out(string line) { }

        public void Err(string line) { }

        public void Note(string line) { }
    }
}
