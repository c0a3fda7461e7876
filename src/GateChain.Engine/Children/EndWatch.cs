using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Engine.Children;

/// <summary>Tells <c>wait</c> steps when the runs they wait for have ended. Thread-safe.</summary>
/// <param name="endOf">How a run ended, as a map with <c>run chain outcome error outputs</c>; null while it is going;
/// an error when there is no such run.</param>
sealed class EndWatch(Func<long, Task<Value?>> endOf)
{
    readonly Lock _lock = new();
    readonly Dictionary<(long Run, string Step), Watch> _watches = [];

    sealed record Watch(IReadOnlyList<long> Runs, bool All, Action<AttemptResult> Done);

    /// <summary>Begins to wait; <paramref name="done"/> is called once, perhaps at once.</summary>
    public void Begin((long Run, string Step) who, Value inputs, Action<AttemptResult> done)
    {
        var runs = inputs.AsMap.Find("runs") is { Kind: ValueKind.List } list
            ? list.AsList.Where(r => r.Kind == ValueKind.Int).Select(r => r.AsInt).Distinct().ToList()
            : [];
        var all = inputs.AsMap.Find("need") is not { Kind: ValueKind.String, AsString: "any" };
        lock (_lock)
        {
            _watches[who] = new(runs, all, done);
        }
        _ = LookAsync(who);
    }

    public void End((long Run, string Step) who)
    {
        lock (_lock)
        {
            _watches.Remove(who);
        }
    }

    /// <summary>A run has ended.</summary>
    public void Ended(long run)
    {
        List<(long, string)> who;
        lock (_lock)
        {
            who = [.. _watches.Where(w => w.Value.Runs.Contains(run)).Select(w => w.Key)];
        }
        foreach (var one in who)
            _ = LookAsync(one);
    }

    async Task LookAsync((long, string) who)
    {
        Watch? watch;
        lock (_lock)
        {
            if (!_watches.TryGetValue(who, out watch))
                return;
        }
        var result = await ResultOfAsync(watch).ConfigureAwait(false);
        if (result is null)
            return;
        lock (_lock)
        {
            // Somebody else may have answered, or asked anew.
            if (!_watches.TryGetValue(who, out var now) || now != watch)
                return;
            _watches.Remove(who);
        }
        watch.Done(result);
    }

    async Task<AttemptResult?> ResultOfAsync(Watch watch)
    {
        var ends = new List<Value>();
        foreach (var run in watch.Runs)
        {
            try
            {
                if (await endOf(run).ConfigureAwait(false) is { } end)
                    ends.Add(end);
            }
            catch (RefusedException e)
            {
                return AttemptResult.Fail("run", e.Message);
            }
        }
        if (watch.All || watch.Runs.Count == 0 ? ends.Count < watch.Runs.Count : ends.Count == 0)
            return null;
        return AttemptResult.Done(RunEnds.Outputs(ends));
    }
}
