using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Releases;

/// <summary>
/// Which content a chain's name and number mean, and the other way round. Thread-safe; remembers what it has found.
/// </summary>
sealed class ReleaseBook(ICatalogue catalogue)
{
    readonly Remembered<string> _latest = new(name => catalogue.Latest(name)?.Hash);

    // What a number means never changes.
    readonly ConcurrentDictionary<CalledChain, string> _numbered = new();
    readonly ConcurrentDictionary<string, int> _numbers = new();

    /// <summary>The hash of the content; null when there is none.</summary>
    public string? Find(CalledChain called)
    {
        var (name, number) = called;
        if (number is null)
            return _latest.Find(name);
        if (
            !_numbered.TryGetValue(called, out var content)
            && catalogue.Releases(name).FirstOrDefault(r => r.Number == number) is { } found
        )
        {
            _numbered[called] = content = found.Hash;
        }
        return content;
    }

    /// <summary>The hash of the content.</summary>
    /// <exception cref="RefusedException">There is no such chain, or no release of that number.</exception>
    public string Get(CalledChain called) => Find(called) ?? Numbered(called).Hash;

    /// <summary>The release with all that stands in the list of releases.</summary>
    /// <inheritdoc cref="Get"/>
    public NumberedRelease Numbered(CalledChain called)
    {
        var (name, number) = called;
        var all = catalogue.Releases(name);
        return all.FirstOrDefault(r => number is null || r.Number == number)
            ?? throw new RefusedException(
                RefusalKind.NotFound,
                all.Count > 0
                    ? $"“{name}” has no release {number}; it has "
                        + $"{(all.Count == 1 ? "only 1" : $"1 to {all[0].Number}")}"
                    : $"there is no chain “{name}”"
                        + (Nearest.Mend(name, catalogue.Chains().Select(c => c.Chain)) is { } mend ? $"; {mend}" : "")
            );
    }

    /// <summary>
    /// The number that content of a chain has, the first one if it was released again; null for content that was only
    /// tried.
    /// </summary>
    public int? NumberOf(string chain, string content)
    {
        if (!_numbers.TryGetValue(content, out var number))
        {
            if (catalogue.Releases(chain).LastOrDefault(r => r.Hash == content) is not { } found)
                return null;
            _numbers[content] = number = found.Number;
        }
        return number;
    }

    /// <summary>The number that content has as the latest release, or would get as the next one.</summary>
    public int NumberFor(Release content) =>
        catalogue.Releases(content.Chain) is [var latest, ..]
            ? latest.Hash == content.Hash
                ? latest.Number
                : latest.Number + 1
            : 1;

    /// <summary>Something was released: the latest releases are looked up anew.</summary>
    public void Forget() => _latest.Forget();
}
