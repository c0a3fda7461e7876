using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Releases;

/// <summary>
/// Which content a chain's name and number mean, and the other way round. Thread-safe; remembers what it has found.
/// </summary>
sealed class ReleaseIndex(ICatalogue catalogue)
{
    /// <param name="Area">Where the chain lies.</param>
    /// <param name="Retired">Since when nothing starts it; null for one in use.</param>
    sealed record Latest(string Hash, Area Area, Retirement? Retired);

    readonly Cache<Latest> _latest = new(async name =>
        await catalogue.LatestAsync(name).ConfigureAwait(false) is { } found
            ? new(found.Hash, found.Area, found.Retired)
            : null
    );

    // What a number means never changes.
    readonly ConcurrentDictionary<CalledChain, string> _numbered = new();
    readonly ConcurrentDictionary<string, int> _numbers = new();

    /// <summary>The hash of the content; null when there is none.</summary>
    public async ValueTask<string?> FindAsync(CalledChain called)
    {
        var (name, number) = called;
        if (number is null)
            return (await _latest.FindAsync(name).ConfigureAwait(false))?.Hash;
        if (_numbered.TryGetValue(called, out var content))
            return content;
        var found = (await catalogue.ReleasesAsync(name).ConfigureAwait(false)).FirstOrDefault(r => r.Number == number);
        if (found is not null)
            _numbered[called] = found.Hash;
        return found?.Hash;
    }

    /// <summary>The folder that a chain lies in; null for one without a release.</summary>
    public async ValueTask<Area?> AreaOfAsync(string chain) =>
        (await _latest.FindAsync(chain).ConfigureAwait(false))?.Area;

    /// <summary>The hash of the content.</summary>
    /// <exception cref="RefusedException">There is no such chain, or no release of that number.</exception>
    public async ValueTask<string> GetAsync(CalledChain called) =>
        await FindAsync(called).ConfigureAwait(false) ?? (await NumberedAsync(called).ConfigureAwait(false)).Hash;

    /// <summary>Since when nothing starts a chain; null for one in use, and for one without a release.</summary>
    public async ValueTask<Retirement?> RetiredAsync(string chain) =>
        (await _latest.FindAsync(chain).ConfigureAwait(false))?.Retired;

    /// <summary>Does nothing for a chain in use.</summary>
    /// <exception cref="RefusedException">It is retired.</exception>
    public async ValueTask RefuseRetiredAsync(string chain)
    {
        if (await RetiredAsync(chain).ConfigureAwait(false) is { } retired)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"“{chain}” was retired by {retired.By}{(retired.Why is { } why ? $": {why}" : "")}; "
                    + "nothing starts it until it is brought back"
            );
        }
    }

    /// <summary>The release with all that stands in the list of releases.</summary>
    /// <inheritdoc cref="GetAsync"/>
    public async ValueTask<NumberedRelease> NumberedAsync(CalledChain called)
    {
        var (name, number) = called;
        var all = await catalogue.ReleasesAsync(name).ConfigureAwait(false);
        if (all.FirstOrDefault(r => number is null || r.Number == number) is { } found)
            return found;
        if (all.Count > 0)
        {
            throw new RefusedException(
                RefusalKind.NotFound,
                $"“{name}” has no release {number}; it has {(all.Count == 1 ? "only 1" : $"1 to {all[0].Number}")}"
            );
        }
        var names = (await catalogue.ChainsAsync().ConfigureAwait(false)).Select(c => c.Chain);
        throw new RefusedException(RefusalKind.NotFound, $"there is no chain “{name}”{Nearest.Hint(name, names)}");
    }

    /// <summary>
    /// The number that content of a chain has, the first one if it was released again; null for content that was only
    /// tried.
    /// </summary>
    public async ValueTask<int?> NumberOfAsync(string chain, string content)
    {
        if (_numbers.TryGetValue(content, out var number))
            return number;
        var found = (await catalogue.ReleasesAsync(chain).ConfigureAwait(false)).LastOrDefault(r => r.Hash == content);
        if (found is not null)
            _numbers[content] = found.Number;
        return found?.Number;
    }

    /// <summary>The same where nobody can wait: null when it was not looked up before.</summary>
    public int? KnownNumberOf(string content) => _numbers.TryGetValue(content, out var number) ? number : null;

    /// <summary>Something was released: the latest releases are looked up again.</summary>
    public void Forget() => _latest.Forget();
}
