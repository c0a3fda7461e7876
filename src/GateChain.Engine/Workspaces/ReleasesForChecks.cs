using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Engine.Releases;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// Releases for checks. A check itself does not wait: what it asks for and is not here yet is loaded, and the check
/// done again. Thread-safe.
/// </summary>
sealed class ReleasesForChecks(ReleaseIndex releases, ReleasedChains chains, ICatalogue catalogue)
{
    // What a numbered release takes and gives never changes.
    readonly ConcurrentDictionary<CalledChain, ChainInterface> _interfaces = new();

    /// <summary>Does a check, as often as it asks for something new.</summary>
    public async Task<T> CheckAsync<T>(Func<IKnownReleases, T> check)
    {
        var known = new Known(this);
        while (true)
        {
            var result = check(known);
            if (!await known.LoadAsync().ConfigureAwait(false))
                return result;
        }
    }

    sealed class Known(ReleasesForChecks all) : IKnownReleases
    {
        readonly Dictionary<CalledChain, ChainInterface?> _interfaces = [];
        readonly Dictionary<string, (NumberedRelease? Release, bool IsRetired)> _latest = [];
        readonly HashSet<CalledChain> _missing = [];
        readonly HashSet<string> _missingLatest = [];

        public ChainInterface? Find(string chain, int number)
        {
            var called = new CalledChain(chain, number);
            if (all._interfaces.TryGetValue(called, out var known) || _interfaces.TryGetValue(called, out known))
                return known;
            _missing.Add(called);
            return null;
        }

        public NumberedRelease? Latest(string chain) => Of(chain).Release;

        public bool IsRetired(string chain) => Of(chain).IsRetired;

        (NumberedRelease? Release, bool IsRetired) Of(string chain)
        {
            if (!_latest.TryGetValue(chain, out var known))
                _missingLatest.Add(chain);
            return known;
        }

        // Gives whether there was something to load.
        public async Task<bool> LoadAsync()
        {
            var any = _missing.Count + _missingLatest.Count > 0;
            foreach (var called in _missing)
                _interfaces[called] = await all.LoadAsync(called).ConfigureAwait(false);
            foreach (var chain in _missingLatest)
                _latest[chain] = await all.LatestAsync(chain).ConfigureAwait(false);
            _missing.Clear();
            _missingLatest.Clear();
            return any;
        }
    }

    /// <summary>Where chains lie, and from where they may be called, may be otherwise from now on.</summary>
    public void Forget() => _interfaces.Clear();

    async ValueTask<(NumberedRelease? Release, bool IsRetired)> LatestAsync(string chain) =>
        (
            await catalogue.ReleasesAsync(chain).ConfigureAwait(false) is [var latest, ..] ? latest : null,
            await releases.RetiredAsync(chain).ConfigureAwait(false) is not null
        );

    async ValueTask<ChainInterface?> LoadAsync(CalledChain called)
    {
        if (await releases.FindAsync(called).ConfigureAwait(false) is not { } hash)
            return null;
        // Where it lies now, and what it says now, counts for earlier releases too.
        var latest = await releases.FindAsync(new(called.Name, null)).ConfigureAwait(false) ?? hash;
        var found = ChainInterfaces.Of(await chains.OfAsync(hash).ConfigureAwait(false)) with
        {
            Area = await releases.AreaOfAsync(called.Name).ConfigureAwait(false) ?? default,
            Callable = (await chains.OfAsync(latest).ConfigureAwait(false)).Callable,
        };
        _interfaces[called] = found;
        return found;
    }
}
