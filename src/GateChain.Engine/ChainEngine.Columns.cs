using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;

namespace GateChain.Engine;

public sealed partial class ChainEngine
{
    static readonly TimeSpan LookPatience = TimeSpan.FromSeconds(10);

    /// <summary>
    /// The columns that a load step of a draft would meet, as far as its settings can be told: with the data of a run,
    /// or with the values of a profile and the defaults of parameters.
    /// </summary>
    /// <param name="run">A run of the chain whose data is taken; null for none.</param>
    /// <exception cref="RefusedException">There is no such step.</exception>
    public async Task<LoadColumns> ColumnsAsync(
        string chain,
        string source,
        string address,
        long? run,
        CancellationToken cancel
    )
    {
        var draft = Drafts.Check(chain, source).Chain;
        var step = draft?.AllSteps.FirstOrDefault(s => s.Address == address && s.Kind.Name == "load")
            ?? throw new RefusedException(RefusalKind.NotFound, $"there is no load step “{address}”");
        var names = new DictionaryNames(
            new Dictionary<string, Value>
            {
                ["profile"] = ProfileValues(null),
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
            return
                await ReadAsync(past, (state, _) =>
                        (State: state, Names: PastNames.Of(state, step.Scope.Address, step.Id, Time.GetUtcNow()))
                    )
                    .ConfigureAwait(false)
                    is { Names: { } seen }
                ? await LookAsync(chain, step, seen, cancel).ConfigureAwait(false)
                : new([], [], $"run {past} has not come to this place");
        }
        return await LookAsync(chain, step, names, cancel).ConfigureAwait(false);
    }

    async Task<LoadColumns> LookAsync(string chain, Step step, INames names, CancellationToken cancel)
    {
        // Only where rows come from and go to: what else there is may well hang on the run.
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
        var release = _store.Latest(chain)?.Hash;
        var context = new AttemptContext
        {
            Run = 0,
            Step = step.Address,
            Attempt = 1,
            WorkKey = new("design", step.Address, 0),
            WorkFolder = Options.WorkFolder,
            Folders = Options.Folders,
            ReadOnly = true,
            StepsFolder = Options.Steps,
            Log = new Silent(),
            Connections = Connections,
            Secrets = Secrets,
            Attachment = name => release is null ? null : ((Runs.IRunSurroundings)this).Attachment(release, name),
            Time = Time,
        };
        // What is looked at is ended when nobody waits for it any more.
        using var patience = new CancellationTokenSource(LookPatience, Time);
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
        (unknown ?? found.Problem) is { } problem ? found with { Problem = Secrets.Mask.Text(problem) } : found;

    sealed class Silent : IAttemptLog
    {
        public void Out(string line) { }

        public void Err(string line) { }

        public void Note(string line) { }
    }
}
