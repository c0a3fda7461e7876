using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Runs;

/// <summary>How an attempt stands that another node does.</summary>
/// <param name="IsKnown">Whether that node knows it; one that it knew before and does not now is lost.</param>
/// <param name="Result">What came of it; null while it is at work.</param>
/// <param name="Progress">How far it has got; null when it tells nothing.</param>
sealed record FarState(bool IsKnown, AttemptResult? Result, AttemptProgress? Progress);

/// <summary>A question about an attempt, which starts it when it is not known.</summary>
/// <param name="Run">The run.</param>
/// <param name="Number">The attempt's number in it.</param>
/// <param name="Epoch">The asker's: an older owner of the run ends nothing.</param>
/// <param name="Order">What is to be done; null to start nothing.</param>
/// <param name="Place">The label for which it is done here.</param>
sealed record FarQuestion(long Run, int Number, long Epoch, AttemptOrder? Order, string? Place);

/// <summary>
/// Does attempts for the owners of runs on other nodes, each once however often it is asked for. Who owns the run may
/// change meanwhile: the next owner asks on. What nobody asks for any more is ended. Thread-safe.
/// </summary>
sealed class AttemptHost(RunServices services, Func<string, ValueTask<Chain>> chains, Func<bool> isDraining)
{
    /// <summary>The names of the questions.</summary>
    public const string Ask = "attempt",
        End = "end-attempt";

    // An answer is waited for so long; then it is said that it is at work.
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(3),
        // Its owner is gone, and nobody has taken its run over.
        Forgotten = TimeSpan.FromMinutes(2),
        // Somebody may not have heard the answer.
        Remembered = TimeSpan.FromMinutes(10);

    readonly ConcurrentDictionary<(long Run, int Number), Hosted> _hosted = new();
    readonly Lock _starting = new();

    sealed class Hosted(long epoch)
    {
        public CancellationTokenSource Cancel { get; } = new();
        public Task<AttemptResult?> Work { get; set; } = Task.FromResult<AttemptResult?>(null);
        public long Epoch { get; set; } = epoch;
        public long Asked { get; set; }
        public string Step { get; set; } = "";
    }

    /// <summary>Those that are at work.</summary>
    public IEnumerable<(long Run, string Step)> Working =>
        _hosted.Where(h => !h.Value.Work.IsCompleted).Select(h => (h.Key.Run, h.Value.Step));

    /// <summary>Whether any is at work.</summary>
    public bool HasAny => _hosted.Values.Any(h => !h.Work.IsCompleted);

    public async Task<FarState> AskAsync(FarQuestion question)
    {
        Hosted? hosted;
        lock (_starting)
        {
            Tidy();
            if (!_hosted.TryGetValue((question.Run, question.Number), out hosted))
            {
                if (question.Order is not { } order || isDraining() || services.Ending.IsCancellationRequested)
                    return new(false, null, null);
                hosted = new(question.Epoch) { Step = order.Step };
                hosted.Work = Task.Run(() => WorkAsync(order, question.Place, hosted.Cancel.Token));
                _hosted[(question.Run, question.Number)] = hosted;
            }
            hosted.Epoch = Math.Max(hosted.Epoch, question.Epoch);
            hosted.Asked = services.Time.GetTimestamp();
        }
        await Task.WhenAny(hosted.Work, Task.Delay(Patience, services.Time)).ConfigureAwait(false);
        if (!hosted.Work.IsCompleted)
            return new(true, null, services.Progress.Of(question.Run).GetValueOrDefault(hosted.Step));
        var result = await hosted.Work.ConfigureAwait(false);
        return new(result is not null, result, null);
    }

    async Task<AttemptResult?> WorkAsync(AttemptOrder order, string? place, CancellationToken cancel)
    {
        AttemptResult result;
        try
        {
            var chain = await chains(order.Release).ConfigureAwait(false);
            using var work = new AttemptWork(order, chain, services);
            work.Log.Note($"on node {services.Options.Node?.Split('.')[0]}, for its place {place}");
            result = await work.RunAsync(cancel).ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            result = AttemptResult.Fail("place", $"node {services.Options.Node} can't do it: {e.Message}");
        }
        // Cut off by the end of this node: nobody knows what it had done.
        return services.Ending.IsCancellationRequested && !result.Succeeded ? null : result;
    }

    /// <summary>Ends an attempt, when the run's owner asks.</summary>
    public Task<bool> EndAsync(FarQuestion question)
    {
        if (!_hosted.TryGetValue((question.Run, question.Number), out var hosted) || question.Epoch < hosted.Epoch)
            return Task.FromResult(false);
        hosted.Cancel.Cancel();
        return Task.FromResult(true);
    }

    /// <summary>Ends all of them: this node can't say any more that it is there, or ends.</summary>
    public void EndAll()
    {
        foreach (var hosted in _hosted.Values)
            hosted.Cancel.Cancel();
    }

    void Tidy()
    {
        foreach (var (key, hosted) in _hosted)
        {
            var unasked = services.Time.GetElapsedTime(hosted.Asked);
            if (hosted.Work.IsCompleted && unasked > Remembered)
                _hosted.TryRemove(key, out _);
            else if (!hosted.Work.IsCompleted && unasked > Forgotten)
                hosted.Cancel.Cancel();
        }
    }
}
