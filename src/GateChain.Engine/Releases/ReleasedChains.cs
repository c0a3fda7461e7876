using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Releases;

/// <summary>
/// The chains of releases and of drafts that were tried, read once while they are in use. Thread-safe. One that can't
/// be read is read again when somebody asks again.
/// </summary>
/// <param name="catalogue">Where the contents are.</param>
/// <param name="check">Reads them.</param>
/// <param name="most">How many are kept; those that were asked for longest ago go first.</param>
public sealed class ReleasedChains(ICatalogue catalogue, ChainCheck check, int most = 500)
{
    readonly ConcurrentDictionary<string, Entry> _chains = new();
    long _asked;

    /// <param name="chain">As it was read.</param>
    /// <param name="missing">The kind of a step that is not here, in a sentence; null when all are.</param>
    sealed class Entry(Chain chain, string? missing)
    {
        public Chain Chain => chain;
        public string? Missing => missing;
        public long Asked { get; set; }
    }

    /// <summary>How many are kept.</summary>
    public int Count => _chains.Count;

    /// <summary>The chain of a content.</summary>
    /// <exception cref="RefusedException">There is none, or it can't be read.</exception>
    public async ValueTask<Chain> OfAsync(string hash) => (await FindAsync(hash).ConfigureAwait(false)).Chain;

    /// <summary>
    /// The same where nobody can wait: null when it is not kept just now, or a kind of it is not here.
    /// </summary>
    internal Chain? Loaded(string hash) =>
        _chains.TryGetValue(hash, out var entry) && entry.Missing is null ? entry.Chain : null;

    /// <summary>
    /// The same for lists of many: null for one that can't be read, which must not keep anybody from the others.
    /// </summary>
    public async ValueTask<Chain?> ReadableOfAsync(string hash)
    {
        try
        {
            return await OfAsync(hash).ConfigureAwait(false);
        }
        catch (RefusedException)
        {
            return null;
        }
    }

    /// <summary>The same, to be run or to read a run with: all of its steps have to be there.</summary>
    /// <exception cref="RefusedException">A kind that it uses is not here, so a step would be left out.</exception>
    public async ValueTask<Chain> RunnableOfAsync(string hash)
    {
        var entry = await FindAsync(hash).ConfigureAwait(false);
        return entry.Missing is { } missing
            ? throw new RefusedException(
                RefusalKind.Conflict,
                $"“{entry.Chain.Name}” can't be run, nor its runs be read: {missing.Split(" (", 2)[0]}. "
                    + "Start the service with the plug-in that has it: gatechain serve --plugins FOLDER"
            )
            : entry.Chain;
    }

    async ValueTask<Entry> FindAsync(string hash)
    {
        // Two who ask at once read it twice; both get the same.
        if (!_chains.TryGetValue(hash, out var entry))
        {
            entry = _chains.GetOrAdd(hash, await ReadAsync(hash).ConfigureAwait(false));
            Trim(hash);
        }
        entry.Asked = Interlocked.Increment(ref _asked);
        return entry;
    }

    async ValueTask<Entry> ReadAsync(string hash)
    {
        var stored = await catalogue.FindAsync(hash).ConfigureAwait(false)
            ?? throw new RefusedException(RefusalKind.NotFound, $"there is no release {hash}");
        var (chain, problems) = check.Check(stored.Chain, stored.Source);
        // Damaged on the disk, or written by a version that knew more.
        return chain is not null
            ? new(chain, problems.FirstOrDefault(p => p.Kind == ProblemKinds.UnknownKind)?.Message)
            : throw new RefusedException(
                RefusalKind.Unavailable,
                $"release {hash[..12]} of “{stored.Chain}” can't be read: "
                    + (problems.FirstOrDefault(p => p.IsError)?.Message ?? "its file is not a chain")
            );
    }

    // A quarter at a time, so that it is not done again with the next one. Runs hold their chains themselves.
    void Trim(string newest)
    {
        if (_chains.Count <= most)
            return;
        foreach (var (hash, _) in _chains.Where(c => c.Key != newest).OrderBy(c => c.Value.Asked).Take(1 + most / 4))
            _chains.TryRemove(hash, out _);
    }
}
