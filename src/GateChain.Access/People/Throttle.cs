using System.Collections.Concurrent;

namespace GateChain.Access.People;

/// <summary>
/// Slows who guesses: after a few failures each further one doubles the pause, for the account and for the address that
/// it came from. Nobody is locked out for good, so that nobody can lock out somebody else. Kept in memory. Thread-safe.
/// </summary>
sealed class Throttle(TimeProvider time)
{
    // An address may be that of many people.
    const int FreeOfAccount = 5,
        FreeOfAddress = 20;

    static readonly TimeSpan Longest = TimeSpan.FromMinutes(15);

    // So many that somebody can't fill the memory with names that are not there.
    const int MostKept = 20_000;

    sealed record Failures(int Count, DateTimeOffset Last);

    readonly ConcurrentDictionary<string, Failures> _failures = new();

    /// <summary>How long it has to be waited before the next try; zero for not at all.</summary>
    public TimeSpan Pause(string account, string address)
    {
        var (a, b) = (PauseOf(Of(account), FreeOfAccount), PauseOf(At(address), FreeOfAddress));
        return a > b ? a : b;
    }

    TimeSpan PauseOf(string key, int free)
    {
        if (!_failures.TryGetValue(key, out var failures) || failures.Count < free)
            return TimeSpan.Zero;
        var wait = TimeSpan.FromSeconds(Math.Min(Math.Pow(2, failures.Count - free), Longest.TotalSeconds));
        var left = failures.Last + wait - time.GetUtcNow();
        return left > TimeSpan.Zero ? left : TimeSpan.Zero;
    }

    public void Failed(string account, string address)
    {
        if (_failures.Count > MostKept)
            Forget();
        foreach (var key in (string[])[Of(account), At(address)])
        {
            _failures.AddOrUpdate(
                key,
                _ => new(1, time.GetUtcNow()),
                (_, before) => new(Faded(before) + 1, time.GetUtcNow())
            );
        }
    }

    /// <summary>Somebody has got in: their failures are forgotten; those of the address fade by themselves.</summary>
    public void Succeeded(string account) => _failures.TryRemove(Of(account), out _);

    // A day later it is as if nothing had been.
    int Faded(Failures failures) => time.GetUtcNow() - failures.Last > TimeSpan.FromDays(1) ? 0 : failures.Count;

    void Forget()
    {
        foreach (var (key, failures) in _failures)
        {
            if (time.GetUtcNow() - failures.Last > Longest)
                _failures.TryRemove(key, out _);
        }
        if (_failures.Count > MostKept)
            _failures.Clear();
    }

    static string Of(string account) => $"account {account.ToLowerInvariant()}";

    static string At(string address) => $"address {address}";
}
