using GateChain.Core.Chains;

namespace GateChain.Engine.Runs;

/// <summary>Which runs of a chain are going, and which wait for them. Thread-safe. Kept in memory only; rebuilt from the runs after a restart.</summary>
sealed class ChainLines
{
    readonly Lock _lock = new();
    readonly Dictionary<string, OrderedDictionary<long, bool>> _lines = [];

    /// <summary>Whether a run has to wait, and for which others.</summary>
    /// <param name="Queued">Whether it waits.</param>
    /// <param name="Others">The runs that are going, oldest first; none where it does not matter.</param>
    public readonly record struct Place(bool Queued, IReadOnlyList<long> Others);

    /// <summary>Puts a run into its chain's line. With <see cref="BusyRule.Skip"/> and others going it is not put there.</summary>
    /// <param name="chain">The chain's name.</param>
    /// <param name="run">The run's number.</param>
    /// <param name="rule">What happens when others are going.</param>
    /// <param name="above">Runs that this one must not wait for: they wait for it.</param>
    public Place Enter(string chain, long run, BusyRule rule, IReadOnlyCollection<long> above)
    {
        lock (_lock)
        {
            var line = Line(chain);
            if (rule == BusyRule.Allow)
            {
                line[run] = false;
                return new(false, []);
            }
            List<long> others = [.. line.Keys.Where(r => r != run && !above.Contains(r))];
            var waits = others.Count > 0;
            if (!(waits && rule == BusyRule.Skip)) { line[run] = waits; }
            return new(waits, others);
        }
    }

    /// <summary>Puts a run into the line as the journal has it.</summary>
    public void Restore(string chain, long run, bool queued)
    {
        lock (_lock) { Line(chain)[run] = queued; }
    }

    /// <summary>Whether a run does not wait, or not any more.</summary>
    public bool IsReleased(string chain, long run)
    {
        lock (_lock) { return _lines.TryGetValue(chain, out var line) && line.TryGetValue(run, out var waits) && !waits; }
    }

    /// <summary>Takes a run out; gives the one whose turn it is now, if any.</summary>
    public long? Leave(string chain, long run)
    {
        lock (_lock)
        {
            if (_lines.TryGetValue(chain, out var line))
            {
                line.Remove(run);
                if (line.Count == 0) { _lines.Remove(chain); }
            }
            return Next(chain);
        }
    }

    /// <summary>The run whose turn it is in each line, after a restart.</summary>
    public IReadOnlyList<long> NextOfAll()
    {
        lock (_lock) { return [.. _lines.Keys.ToList().Select(Next).OfType<long>()]; }
    }

    long? Next(string chain)
    {
        if (!_lines.TryGetValue(chain, out var line) || line.ContainsValue(false)) { return null; }
        var next = line.Keys.First();
        line[next] = false;
        return next;
    }

    OrderedDictionary<long, bool> Line(string chain)
    {
        if (!_lines.TryGetValue(chain, out var line)) { _lines[chain] = line = []; }
        return line;
    }
}
