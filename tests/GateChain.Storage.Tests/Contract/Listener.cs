using System.Collections.Concurrent;

namespace GateChain.Storage.Tests.Contract;

/// <summary>Learns what becomes of appends, each told of once.</summary>
sealed class Listener : IAppendListener
{
    readonly ConcurrentDictionary<(long, long), TaskCompletionSource<AppendOutcome>> _outcomes = new();

    public Task<AppendOutcome> Outcome(long run, long seq) =>
        _outcomes.GetOrAdd((run, seq), _ => new(TaskCreationOptions.RunContinuationsAsynchronously)).Task;

    public void Appended(JournalAppend append, AppendOutcome outcome) =>
        _outcomes
            .GetOrAdd((append.Run, append.Seq), _ => new(TaskCreationOptions.RunContinuationsAsynchronously))
            .SetResult(outcome);
}
