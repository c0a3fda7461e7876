using System.Collections.Concurrent;

namespace GateChain.Engine.Basics;

/// <summary>
/// Values that are read when they are wanted, and kept until all are forgotten. Thread-safe: what was being read while
/// they were forgotten is given, and not kept.
/// </summary>
/// <param name="read">Reads a value; null is not kept.</param>
sealed class Cache<TValue>(Func<string, ValueTask<TValue?>> read)
    where TValue : class
{
    readonly ConcurrentDictionary<string, TValue> _values = new();
    readonly Lock _lock = new();
    int _forgotten;

    /// <summary>The value of a name; null when there is none.</summary>
    public async ValueTask<TValue?> FindAsync(string name)
    {
        if (_values.TryGetValue(name, out var known))
            return known;
        var before = Volatile.Read(ref _forgotten);
        if (await read(name).ConfigureAwait(false) is not { } value)
            return null;
        lock (_lock)
        {
            if (before == _forgotten)
                _values[name] = value;
        }
        return value;
    }

    /// <summary>To be called when what is read has changed, not before.</summary>
    public void Forget()
    {
        lock (_lock)
        {
            _forgotten++;
            _values.Clear();
        }
    }
}
