using System.IO.Enumeration;

namespace GateChain.Kinds.FileServers;

/// <summary>A store of objects: it has names with strokes in them, and no folders.</summary>
abstract class Bucket : FileServer
{
    /// <summary>What the store says to somebody who tests the connection.</summary>
    public abstract string Greeting();

    /// <summary>The objects whose names begin with a text, by name.</summary>
    protected abstract IEnumerable<ServerFile> List(string prefix);

    /// <summary>One; null when there is none.</summary>
    protected abstract ServerFile? Find(string name);

    /// <summary>A path as the name of an object.</summary>
    protected static string NameOf(string path) => path.TrimStart('/');

    public sealed override IReadOnlyList<ServerFile> Match(string pattern, int most = int.MaxValue)
    {
        pattern = NameOf(pattern);
        var at = pattern.IndexOfAny(['*', '?']);
        if (at < 0)
            return Find(pattern) is { } one ? [one] : [];
        var parts = pattern.Split('/');
        return
        [
            .. List(pattern[..at])
                .Where(f => !f.Path.EndsWith(Part, StringComparison.Ordinal) && Fits(parts, f.Path.Split('/')))
                .Take(most),
        ];
    }

    static bool Fits(string[] pattern, string[] name) =>
        pattern.Length == name.Length
        && name[^1].Length > 0
        && pattern.Zip(name).All(p => FileSystemName.MatchesSimpleExpression(p.First, p.Second, ignoreCase: false));

    // Who looks for a name does not read a bucket of millions.
    const int MostLooked = 5_000;

    public sealed override IReadOnlyList<(string Name, bool IsFolder)> Entries(string folder)
    {
        var start = NameOf(folder);
        return
        [
            .. List(start)
                .Take(MostLooked)
                .Select(f => f.Path[start.Length..])
                .Where(name => name.Length > 0)
                .Select(name => name.IndexOf('/') is var at and >= 0 ? (name[..at], true) : (name, false))
                .Distinct(),
        ];
    }

    public sealed override bool IsFolder(string path) => List($"{NameOf(path).TrimEnd('/')}/").Any();

    public sealed override void Move(string from, string to, bool overwrite)
    {
        if (!overwrite && Find(NameOf(to)) is not null)
            throw IsThere(to);
        Copy(NameOf(from), NameOf(to));
        Delete(from);
    }

    /// <summary>Copies an object within the store.</summary>
    protected abstract void Copy(string from, string to);
}
