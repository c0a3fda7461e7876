using System.Collections.Concurrent;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Live;

/// <summary>
/// How far attempts have got that are running now. Only in memory: what counts is in the journal. Thread-safe.
/// </summary>
public sealed class ProgressBoard
{
    readonly ConcurrentDictionary<(long Run, string Step), AttemptProgress> _progress = new();

    internal void Tell(long run, string step, AttemptProgress progress) => _progress[(run, step)] = progress;

    internal void Forget(long run, string step) => _progress.TryRemove((run, step), out _);

    /// <summary>The steps of a run that told something, by path.</summary>
    public IReadOnlyDictionary<string, AttemptProgress> Of(long run) =>
        _progress.Where(p => p.Key.Run == run).ToDictionary(p => p.Key.Step, p => p.Value);
}
