namespace GateChain.Kinds.Arrivals;

/// <summary>A file as a look saw it.</summary>
/// <param name="Path">Its full path; on a server the path there.</param>
/// <param name="Name">Its name without the folder.</param>
/// <param name="Size">In bytes.</param>
/// <param name="Changed">When it was changed last, as far as the place tells.</param>
/// <param name="Version">Names this content of it: another one once it is written to, or another file takes its
/// place.</param>
public sealed record SeenFile(string Path, string Name, long Size, DateTimeOffset Changed, string Version)
{
    /// <summary>Its key among the files that a trigger has taken.</summary>
    public string Key => $"file:{Version}:{Path}";
}

/// <summary>What a look at a place saw.</summary>
/// <param name="Files">The files, by path.</param>
/// <param name="Troubles">What could not be looked at, and why, a sentence each.</param>
/// <param name="IsThere">Whether the place itself could be looked at: what is not seen is not there.</param>
public sealed record PlaceView(IReadOnlyList<SeenFile> Files, IReadOnlyList<string> Troubles, bool IsThere);
