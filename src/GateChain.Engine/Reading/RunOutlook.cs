using GateChain.Core.History;
using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Reading;

/// <summary>How a run that has not ended stands.</summary>
/// <param name="Done">How many of the chain's own steps have settled.</param>
/// <param name="Of">How many there are.</param>
/// <param name="Doing">Paths of steps that are running or waiting, some of them.</param>
/// <param name="Held">Steps that their guards hold, with since when and why.</param>
/// <param name="LateAt">When it is late.</param>
/// <param name="Expected">When it will end; null when too few runs tell it.</param>
public sealed record Outlook(
    int Done,
    int Of,
    IReadOnlyList<string> Doing,
    IReadOnlyList<(string Path, DateTimeOffset Since, string Why)> Held,
    IReadOnlyList<(string Path, string Why)> Paused,
    DateTimeOffset? LateAt,
    Expectation? Expected
);

/// <summary>
/// Looks at runs beside those before them: what is to be expected, and what was different. Thread-safe.
/// </summary>
public sealed class RunOutlook
{
    // So many runs are enough to see how long they take, and few enough to follow a change soon.
    const int Looked = 40;
    const int Told = 4;

    readonly IHistory _history;
    readonly IRunStore _runs;
    readonly RunReader _reader;
    readonly TimeProvider _time;

    internal RunOutlook(IHistory history, IRunStore runs, RunReader reader, TimeProvider time) =>
        (_history, _runs, _reader, _time) = (history, runs, reader, time);

    /// <summary>How a run stands, and when it will end.</summary>
    /// <exception cref="RefusedException">There is no such run, or it can't be read here.</exception>
    public async Task<Outlook> OfAsync(long run)
    {
        var now = _time.GetUtcNow();
        var (chain, started, hasEnded, running, found) = await _reader
            .ReadAsync(run, (state, _) => (state.Chain.Name, state.Started, state.HasEnded, Running(state), Of(state)))
            .ConfigureAwait(false);
        if (hasEnded || started is not { } began)
            return found;
        var past = await _history.OfChainAsync(chain, Looked, before: run, state: "succeeded").ConfigureAwait(false);
        return found with { Expected = ExpectedEnd.Of(began, now, running, past.Where(l => l.Leg == 1)) };
    }

    static Dictionary<string, DateTimeOffset> Running(RunState state) =>
        state
            .AllSteps.Where(s => s.Phase is StepPhase.Running or StepPhase.Resting && s.Started is not null)
            .GroupBy(s => s.Step.Address)
            .ToDictionary(g => g.Key, g => g.Min(s => s.Started!.Value));

    static Outlook Of(RunState state)
    {
        var open = state
            .AllSteps.Where(s => s.Phase is not (StepPhase.Pending or StepPhase.Settled) && !s.InnerScopes.Any())
            .ToList();
        return new(
            state.Root.Steps.Count(s => s.IsSettled),
            state.Root.Steps.Length,
            [.. open.Take(Told).Select(s => s.Path)],
            [
                .. open.Where(s => s.Phase == StepPhase.Held)
                    .Select(s => (s.Path, s.Hold!.Since, s.Hold.Latest?.Message ?? HoldDescription.WaitsFor(s))),
            ],
            [.. open.Where(s => s.Phase == StepPhase.Paused).Select(s => (s.Path, s.Error?.Message ?? s.Note ?? ""))],
            state.LateAt,
            null
        );
    }

    /// <summary>What a run had differently from another of its chain.</summary>
    /// <param name="run">The run.</param>
    /// <param name="with">The other one; the last one before it that succeeded when absent.</param>
    /// <exception cref="RefusedException">There is no such run, none to compare with, or one can't be
    /// read.</exception>
    public async Task<(StoredRun A, StoredRun B, RunComparison Found)> CompareAsync(long run, long? with)
    {
        var b = await _runs.FindAsync(run).ConfigureAwait(false) ?? throw RefusedException.NoRun(run);
        if (with == run)
            throw new RefusedException(RefusalKind.Invalid, "a run is not compared with itself");
        var a = with is { } other
            ? await _runs.FindAsync(other).ConfigureAwait(false) ?? throw RefusedException.NoRun(other)
            : await LastGoodAsync(b).ConfigureAwait(false)
                ?? throw new RefusedException(
                    RefusalKind.NotFound,
                    $"no run of “{b.Chain}” before run {run} has succeeded: name one to compare with"
                );
        if (a.Chain != b.Chain)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"run {a.Id} is one of “{a.Chain}”, and run {b.Id} of “{b.Chain}”: only runs of one chain are compared"
            );
        }
        return (
            a,
            b,
            RunComparison.Of(await FactsAsync(a.Id).ConfigureAwait(false), await FactsAsync(run).ConfigureAwait(false))
        );
    }

    async Task<StoredRun?> LastGoodAsync(StoredRun run) =>
        (await _runs.ListAsync(new(run.Chain, State: "succeeded", Before: run.Id, Limit: 20)).ConfigureAwait(false))
        // A child is compared with children, and a run of its own with such.
        .FirstOrDefault(r => r.Parent is null == run.Parent is null && r.Origin != "try");

    Task<RunFacts> FactsAsync(long run) =>
        _reader.ReadAsync(run, (state, _) =>
            new RunFacts(
                state.Number is 0 ? null : state.Number,
                state.Release,
                state.Word,
                Core.Values.Value.Map(state.Params),
                state.Profile,
                state.Outputs,
                LegFold.Whole(state)
            )
            {
                Items = LegFold.Items(state),
            }
        );
}
