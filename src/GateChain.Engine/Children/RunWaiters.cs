using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;

namespace GateChain.Engine.Children;

/// <summary>Tells <c>wait</c> steps when the runs they wait for have ended. Thread-safe.</summary>
sealed class RunWaiters
{
    readonly Lock _lock = new();
    readonly Dictionary<(long Run, string Step), Watch> _watches = [];
    readonly RunReader _reader;

    /// <param name="reader">Shows how runs have ended.</param>
    /// <param name="feed">Tells that one has.</param>
    public RunWaiters(RunReader reader, RunFeed feed)
    {
        _reader = reader;
        feed.SubscribeToNotifications(notification =>
        {
            if (notification.End is { ResumeAt: null })
                Ended(notification.Run);
        });
    }

    sealed record Watch(long Waiting, Area Area, IReadOnlyList<long> Runs, bool All, Action<AttemptResult> Done);

    /// <summary>Begins to wait; <paramref name="done"/> is called once, perhaps at once.</summary>
    /// <param name="who">The step that waits.</param>
    /// <param name="area">Where its run lies: it learns of runs there and below, and of those that it has
    /// called.</param>
    /// <param name="inputs">What it waits for.</param>
    /// <param name="done">Told once.</param>
    public void Begin((long Run, string Step) who, Area area, Value inputs, Action<AttemptResult> done)
    {
        var runs = inputs.AsMap.Find("runs") is { Kind: ValueKind.List } list
            ? list.AsList.Where(r => r.Kind == ValueKind.Int).Select(r => r.AsInt).Distinct().ToList()
            : [];
        var all = inputs.AsMap.Find("need") is not { Kind: ValueKind.String, AsString: "any" };
        lock (_lock)
        {
            _watches[who] = new(who.Run, area, runs, all, done);
        }
        LookSoon(who);
    }

    public void End((long Run, string Step) who)
    {
        lock (_lock)
        {
            _watches.Remove(who);
        }
    }

    void Ended(long run)
    {
        List<(long, string)> who;
        lock (_lock)
        {
            who = [.. _watches.Where(w => w.Value.Runs.Contains(run)).Select(w => w.Key)];
        }
        foreach (var one in who)
            LookSoon(one);
    }

    // Not in the mailbox of the run that waits, nor of the one that has ended: reading takes its time.
    void LookSoon((long, string) who) => _ = Task.Run(() => LookAsync(who));

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
            // Somebody else may have answered, or asked again.
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
                if (await EndOfAsync(run, watch).ConfigureAwait(false) is { } end)
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

    // As wait steps give it; null while the run is going or will be resumed by itself.
    Task<Value?> EndOfAsync(long run, Watch watch) => _reader.ReadAsync(run, (s, _) => !watch.Area.Holds(s.Area)
            && s.Parent?.Run != watch.Waiting
                ? throw RefusedException.NoRun(run)
            : s is { Outcome: { } outcome, ResumeAt: null }
                ? RunEnds.Describe(run, s.Chain.Name, outcome.Word(), s.Error?.Message, s.Outputs)
            : (Value?)null);
}
