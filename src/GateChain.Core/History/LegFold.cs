using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.History;

/// <summary>
/// Makes what is remembered of a leg out of a run's state as it was when the leg ended. Pure: the same state gives the
/// same answer, so that history can be made again from the journal at any time.
/// </summary>
public static class LegFold
{
    /// <param name="run">The state, of a run that has ended; its latest leg is taken.</param>
    public static LegHistory Of(RunState run)
    {
        var attempts = run.Attempts.Where(a => a.Leg == run.Leg).ToLookup(a => a.Step);
        var instances = run
            .Handlers.Where(h => h.Leg == run.Leg)
            .Select(h => h.Scope)
            .Prepend(run.Root)
            .SelectMany(Instances)
            .ToList();
        var begins = instances
            .Where(s => s.Leg == run.Leg)
            .Select(s => Begin(s, attempts[s.Path]))
            .OfType<DateTimeOffset>();
        var started = run.Leg == 1 ? run.Started!.Value : begins.DefaultIfEmpty(run.Ended!.Value).Min();
        return new(
            run.Id,
            run.Leg,
            run.Chain.Name,
            run.Number is 0 ? null : run.Number,
            run.Word,
            started,
            run.Ended!.Value,
            run.IsLate,
            run.Try is not null ? LegSource.Try
                : run.Parent is not null ? LegSource.Child
                : LegSource.Run,
            Steps(instances, s => s.Leg == run.Leg, started, s => attempts[s.Path])
        )
        {
            Area = run.Area,
        };
    }

    /// <summary>The steps of all legs together: each as it was when it last ran. The run need not have ended.</summary>
    public static IReadOnlyList<StepHistory> Whole(RunState run)
    {
        var attempts = run.Attempts.ToLookup(a => (a.Step, a.Leg));
        var instances = run.Handlers.Select(h => h.Scope).Prepend(run.Root).SelectMany(Instances);
        return Steps(instances, _ => true, run.Started!.Value, s => attempts[(s.Path, s.Leg)]);
    }

    /// <summary>So many instances are told apart; of more only the sums are compared.</summary>
    const int MostItems = 5000;

    /// <summary>
    /// The instances of steps in loops over items, each by itself, with the items that it was for. Of a run that has
    /// very many, none.
    /// </summary>
    public static IReadOnlyList<ItemHistory> Items(RunState run)
    {
        var attempts = run.Attempts.ToLookup(a => (a.Step, a.Leg));
        var instances = Instances(run.Root)
            .Where(s => s.Phase != StepPhase.Pending && ItemsOf(s.Scope).Length > 0)
            .Take(MostItems + 1)
            .ToList();
        return instances.Count > MostItems
            ? []
            :
            [
                .. instances.Select(s => new ItemHistory(
                    ItemsOf(s.Scope),
                    Steps([s], _ => true, run.Started!.Value, _ => attempts[(s.Path, s.Leg)])[0]
                )),
            ];
    }

    // What the loops around it go through, the outer one first; rounds of a repetition are no items.
    static string ItemsOf(ScopeState scope)
    {
        var items = new List<string>();
        for (var at = scope; at.Owner is { } owner; at = owner.Scope)
        {
            if (owner.Each is not null)
                items.Insert(0, LoopItems.Name(at.Item, 80));
        }
        return string.Join(" / ", items);
    }

    static IReadOnlyList<StepHistory> Steps(
        IEnumerable<StepState> instances,
        Func<StepState, bool> ran,
        DateTimeOffset started,
        Func<StepState, IEnumerable<AttemptRecord>> attempts
    ) =>
        [
            .. instances
                .Where(s => s.Phase != StepPhase.Pending)
                .GroupBy(s => s.Step.Address)
                .Select(g =>
                {
                    var (state, sums) = ("skipped", new Sums());
                    foreach (var step in g)
                    {
                        state = Worse(state, step.Word);
                        if (ran(step) && step.Word != "skipped")
                            sums.Add(step, [.. attempts(step)]);
                    }
                    return sums.Of(g.Key, state, started);
                }),
        ];

    static IEnumerable<StepState> Instances(ScopeState scope) =>
        scope.Steps.SelectMany(s => s.InnerScopes.SelectMany(Instances).Prepend(s));

    // What a person wants to know first.
    static readonly string[] Order = ["skipped", "succeeded", "stopped", "failed"];

    static string Worse(string a, string b) => Rank(b) > Rank(a) ? b : a;

    // What has not ended yet is more than any end.
    static int Rank(string state) => Array.IndexOf(Order, state) is >= 0 and var rank ? rank : Order.Length;

    static DateTimeOffset? Begin(StepState step, IEnumerable<AttemptRecord> attempts)
    {
        var first = attempts.FirstOrDefault()?.Started ?? step.Started;
        var held = step.Hold?.Since;
        return held < first || first is null ? held ?? first : first;
    }

    sealed class Sums
    {
        int _count,
            _failed,
            _attempts;
        DateTimeOffset? _begin,
            _end;
        long _work,
            _held,
            _queued,
            _rested;
        long? _read,
            _written,
            _rejected;

        public void Add(StepState step, IReadOnlyList<AttemptRecord> attempts)
        {
            var begin = Begin(step, attempts);
            _count++;
            if (step.Word == "failed")
                _failed++;
            _attempts += attempts.Count;
            if (begin is { } from && (_begin is null || from < _begin))
                _begin = from;
            if (step.Ended is { } to && (_end is null || to > _end))
                _end = to;
            // What follows is a part of what is left of the time that it took: when an attempt was lost, it is known
            // only later that it had ended, and the next one may have waited for its turn meanwhile.
            var left = Ms(begin, step.Ended);
            // A step that works through others, or by itself, has no attempts of its own.
            Take(ref _work, attempts.Count > 0 ? attempts.Sum(Worked) : Ms(step.Started, step.Ended));
            var first = attempts.Count > 0 ? attempts[0].Started : step.Started ?? step.Ended;
            if (step.Hold is { Looks: > 1 } hold)
                Take(ref _held, Ms(hold.Since, step.QueuedAt < first ? step.QueuedAt : first));
            if (step.QueuedAt is { } queued)
                Take(ref _queued, Ms(queued, attempts.FirstOrDefault(a => a.Started >= queued)?.Started));
            Take(ref _rested, attempts.Zip(attempts.Skip(1)).Sum(p => Ms(p.First.Ended, p.Second.Started)));

            void Take(ref long sum, long ms)
            {
                ms = Math.Min(ms, left);
                (sum, left) = (sum + ms, left - ms);
            }

            var outputs = step.Outputs.AsMap;
            Count(ref _read, outputs, "rows_read");
            Count(ref _written, outputs, "rows_written");
            Count(ref _rejected, outputs, "rows_rejected");
        }

        static long Worked(AttemptRecord attempt) => Ms(attempt.Started, attempt.Ended);

        static void Count(ref long? sum, MapValue outputs, string name)
        {
            if (outputs.Find(name) is { Kind: ValueKind.Int } found)
                sum = (sum ?? 0) + found.AsInt;
        }

        public StepHistory Of(string address, string state, DateTimeOffset started) =>
            new(address, state)
            {
                Count = _count,
                Failed = _failed,
                Attempts = _attempts,
                Begin = Ms(started, _begin),
                Span = Ms(_begin, _end),
                Work = _work,
                Held = _held,
                Queued = _queued,
                Rested = _rested,
                Read = _read,
                Written = _written,
                Rejected = _rejected,
            };

        static long Ms(DateTimeOffset? from, DateTimeOffset? to) =>
            from is { } a && to is { } b && b > a ? (long)(b - a).TotalMilliseconds : 0;
    }
}
