using GateChain.Core.Chains;

namespace GateChain.Engine.Runs;

/// <summary>
/// Which runs of a chain are going, and which wait for them. Thread-safe. Kept in memory only; rebuilt from the runs
/// after a restart.
/// </summary>
sealed class ChainLines
{
    readonly Lock _lock = new();
    readonly Dictionary<string, Line> _lines = [];

    /// <summary>The runs of one chain. Going in and out costs the same however many there are.</summary>
    sealed class Line
    {
        readonly Dictionary<long, (bool Waits, long Place)> _runs = [];
        long _places;

        public int Count => _runs.Count;
        public int Going { get; private set; }

        public void Enter(long run, bool waits)
        {
            Leave(run);
            _runs[run] = (waits, _places++);
            if (!waits)
                Going++;
        }

        public void Leave(long run)
        {
            if (_runs.Remove(run, out var spot) && !spot.Waits)
                Going--;
        }

        public bool IsGoing(long run) => _runs.TryGetValue(run, out var spot) && !spot.Waits;

        /// <summary>Those that came first, first.</summary>
        public IEnumerable<long> InOrder => _runs.OrderBy(r => r.Value.Place).Select(r => r.Key);

        /// <summary>The one that has waited longest does not wait any more.</summary>
        public long ReleaseFirst()
        {
            var (run, spot) = _runs.MinBy(r => r.Value.Place);
            _runs[run] = (false, spot.Place);
            Going++;
            return run;
        }
    }

    /// <summary>Whether a run has to wait, and for which others.</summary>
    /// <param name="Queued">Whether it waits.</param>
    /// <param name="Others">The runs that are going, oldest first; none where it does not matter.</param>
    public readonly record struct Place(bool Queued, IReadOnlyList<long> Others);

    /// <summary>
    /// Puts a run into its chain's line. With <see cref="BusyRule.Skip"/> and others going it is not put there.
    /// </summary>
    /// <param name="chain">The chain's name.</param>
    /// <param name="run">The run's number.</param>
    /// <param name="rule">What happens when others are going.</param>
    /// <param name="above">Runs that this one must not wait for: they wait for it.</param>
    public Place Enter(string chain, long run, BusyRule rule, IReadOnlyCollection<long> above)
    {
        lock (_lock)
        {
            var line = LineOf(chain);
            if (rule == BusyRule.Allow)
            {
                line.Enter(run, waits: false);
                return new(false, []);
            }
            List<long> others = [.. line.InOrder.Where(r => r != run && !above.Contains(r))];
            var waits = others.Count > 0;
            if (!(waits && rule == BusyRule.Skip))
                line.Enter(run, waits);
            return new(waits, others);
        }
    }

    /// <summary>Puts a run into the line as the journal has it.</summary>
    public void Restore(string chain, long run, bool queued)
    {
        lock (_lock)
        {
            LineOf(chain).Enter(run, queued);
        }
    }

    /// <summary>Whether a run does not wait, or not any more.</summary>
    public bool IsReleased(string chain, long run)
    {
        lock (_lock)
        {
            return _lines.TryGetValue(chain, out var line) && line.IsGoing(run);
        }
    }

    /// <summary>Takes a run out; gives the one whose turn it is now, if any.</summary>
    public long? Leave(string chain, long run)
    {
        lock (_lock)
        {
            if (_lines.TryGetValue(chain, out var line))
            {
                line.Leave(run);
                if (line.Count == 0)
                    _lines.Remove(chain);
            }
            return Next(chain);
        }
    }

    /// <summary>The run whose turn it is in each line, after a restart.</summary>
    public IReadOnlyList<long> NextOfAll()
    {
        lock (_lock)
        {
            return [.. _lines.Keys.ToList().Select(Next).OfType<long>()];
        }
    }

    long? Next(string chain)
    {
        return _lines.TryGetValue(chain, out var line) && line.Going == 0 ? line.ReleaseFirst() : null;
    }

    Line LineOf(string chain)
    {
        if (!_lines.TryGetValue(chain, out var line))
            _lines[chain] = line = new();
        return line;
    }
}
