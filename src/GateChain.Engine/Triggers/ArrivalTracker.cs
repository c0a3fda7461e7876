using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Kinds.Arrivals;

namespace GateChain.Engine.Triggers;

/// <summary>
/// What an arrival trigger knows of files: which are quiet, which are gathered, and when to look again. Knows no disk
/// and no clock: views and moments are handed in. Not thread-safe.
/// </summary>
/// <param name="source">The trigger.</param>
sealed class ArrivalTracker(ArrivalSource source)
{
    /// <summary>How long a file that is gone is still remembered: it may only be out of sight.</summary>
    static readonly TimeSpan Cache = TimeSpan.FromDays(1);

    /// <summary>A file that has changed for so long is told of.</summary>
    static readonly TimeSpan Restless = TimeSpan.FromMinutes(10);

    readonly HashSet<string> _taken = [];
    readonly Dictionary<string, DateTimeOffset> _missing = [];
    readonly Dictionary<string, Seen> _seen = [];
    DateTimeOffset? _windowEnd;

    sealed record Seen(SeenFile File, DateTimeOffset Since, DateTimeOffset First, DateTimeOffset? QuietAt);

    /// <summary>What a look leads to.</summary>
    /// <param name="Fires">Files that are complete, one fire each.</param>
    /// <param name="Gone">Keys that need not be remembered any more.</param>
    /// <param name="Next">When to look again by itself; null for no reason.</param>
    /// <param name="Restless">Files that do not get quiet.</param>
    public sealed record Step(
        IReadOnlyList<IReadOnlyList<SeenFile>> Fires,
        IReadOnlyList<string> Gone,
        DateTimeOffset? Next,
        IReadOnlyList<string> Restless
    );

    /// <summary>Files that have been dealt with.</summary>
    public void Take(IEnumerable<string> keys)
    {
        foreach (var key in keys)
            _taken.Add(key);
    }

    /// <summary>Whether a file was dealt with.</summary>
    public bool IsTaken(SeenFile file) => _taken.Contains(file.Key);

    /// <summary>Files whose fire came to nothing are looked at again.</summary>
    public void Release(IEnumerable<SeenFile> files)
    {
        foreach (var file in files)
            _taken.Remove(file.Key);
    }

    /// <summary>Takes a look in.</summary>
    public Step Look(PlaceView view, DateTimeOffset now)
    {
        var names = view.Files.Select(f => f.Path).ToHashSet();
        var files = view.Files.Where(f => !IsMarker(f, names)).ToList();
        var keys = files.Select(f => f.Key).ToHashSet();
        var gone = view.IsThere ? Missing(keys, now) : [];
        foreach (var path in _seen.Keys.Where(p => !names.Contains(p)).ToList())
        {
            if (view.IsThere)
                _seen.Remove(path);
        }
        var quiet = new List<SeenFile>();
        DateTimeOffset? next = null;
        var restless = new List<string>();
        foreach (var file in files.Where(f => !_taken.Contains(f.Key)))
        {
            var seen = _seen.GetValueOrDefault(file.Path);
            if (seen is null || seen.File.Version != file.Version)
                seen = new(file, now, seen?.First ?? now, null);
            _seen[file.Path] = seen;
            if (source.Ready is { } ready)
            {
                if (names.Contains(MarkerOf(file, ready)))
                    Quiet(now);
                continue;
            }
            if (now - seen.Since >= source.Quiet)
                Quiet(seen.Since + source.Quiet);
            else
                next = Sooner(next, seen.Since + source.Quiet);
            if (now - seen.First >= Restless && seen.QuietAt is null)
                restless.Add($"{file.Name} has been changing since {seen.First:u}: it starts when it is quiet");

            void Quiet(DateTimeOffset at)
            {
                _seen[file.Path] = seen with { QuietAt = seen.QuietAt ?? at };
                quiet.Add(file);
            }
        }
        var fires = source.Together is { } together
            ? Gathered(quiet, together, now, ref next)
            : quiet.ConvertAll(f => (IReadOnlyList<SeenFile>)[f]);
        foreach (var file in fires.SelectMany(f => f))
        {
            _taken.Add(file.Key);
            _seen.Remove(file.Path);
        }
        return new(fires, gone, next, restless);
    }

    // The window runs from the first quiet file and is not moved.
    List<IReadOnlyList<SeenFile>> Gathered(
        List<SeenFile> quiet,
        TimeSpan together,
        DateTimeOffset now,
        ref DateTimeOffset? next
    )
    {
        if (quiet.Count == 0)
        {
            _windowEnd = null;
            return [];
        }
        _windowEnd ??= quiet.Min(f => _seen[f.Path].QuietAt!.Value) + together;
        if (now < _windowEnd && quiet.Count < ArrivalSource.MostTogether)
        {
            next = Sooner(next, _windowEnd.Value);
            return [];
        }
        _windowEnd = null;
        return [.. quiet.Chunk(ArrivalSource.MostTogether)];
    }

    bool IsMarker(SeenFile file, HashSet<string> names)
    {
        if (source.Ready is not { } ready)
            return false;
        var place = ready.IndexOf("{name}", StringComparison.Ordinal);
        var (before, after) = (ready[..place], ready[(place + 6)..]);
        return file.Name.Length >= before.Length + after.Length
            && file.Name.StartsWith(before, StringComparison.Ordinal)
            && file.Name.EndsWith(after, StringComparison.Ordinal)
            && (before.Length + after.Length > 0)
            && names.Contains(
                file.Path[..^file.Name.Length] + file.Name[before.Length..(file.Name.Length - after.Length)]
            );
    }

    static string MarkerOf(SeenFile file, string ready) =>
        file.Path[..^file.Name.Length] + ready.Replace("{name}", file.Name, StringComparison.Ordinal);

    List<string> Missing(HashSet<string> keys, DateTimeOffset now)
    {
        var gone = new List<string>();
        foreach (var key in _taken.Where(k => !keys.Contains(k)))
        {
            if (!_missing.TryGetValue(key, out var since))
                _missing[key] = now;
            else if (now - since >= Cache)
                gone.Add(key);
        }
        foreach (var key in _missing.Keys.Where(keys.Contains).ToList())
            _missing.Remove(key);
        foreach (var key in gone)
        {
            _missing.Remove(key);
            _taken.Remove(key);
        }
        return gone;
    }

    static DateTimeOffset Sooner(DateTimeOffset? a, DateTimeOffset b) => a < b ? a.Value : b;

    /// <summary>What happened, as expressions see it.</summary>
    /// <param name="trigger">The trigger's name.</param>
    /// <param name="files">The files.</param>
    /// <param name="now">The moment.</param>
    /// <param name="shown">The path of a file as chains of the place write it.</param>
    public Value Event(string trigger, IReadOnlyList<SeenFile> files, DateTimeOffset now, Func<SeenFile, string> shown)
    {
        Value[] all = [.. files.Select(f => Value.Map(DictionaryMap.Of(Fields(f, shown))))];
        var common = new List<KeyValuePair<string, Value>>
        {
            new("trigger", Value.String(trigger)),
            new("at", Value.Timestamp(now)),
            new("files", Value.List(all)),
        };
        return Value.Map(DictionaryMap.Of(source.Together is null ? common.Concat(Fields(files[0], shown)) : common));
    }

    static IEnumerable<KeyValuePair<string, Value>> Fields(SeenFile file, Func<SeenFile, string> shown) =>
        [
            new("path", Value.String(shown(file))),
            new("name", Value.String(file.Name)),
            new("size", Value.Int(file.Size)),
            new("changed", Value.Timestamp(file.Changed)),
        ];
}
