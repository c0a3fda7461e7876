using System.Text;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>A file of the workspace that is no chain.</summary>
/// <param name="Path">Where it lies.</param>
/// <param name="Kind">The word of its name (<c>connections profiles lanes calendars triggers</c>), else
/// <c>attachment</c>.</param>
/// <param name="Version">Names the content that it has now.</param>
/// <param name="Author">Who changed it last.</param>
/// <param name="At">When.</param>
/// <param name="Size">Bytes.</param>
/// <param name="UsedBy">The chains that it belongs to, for attachments; the files that name it.</param>
public sealed record FileEntry(
    string Path,
    string Kind,
    string Version,
    string Author,
    DateTimeOffset At,
    long Size,
    IReadOnlyList<string> UsedBy
);

/// <summary>A version of a file.</summary>
/// <param name="Version">Names it: a number, or of an attachment the release of a chain that brought it.</param>
/// <param name="Action">By what it came; null when that is not known.</param>
/// <param name="Size">Bytes; null says that the file was taken away.</param>
public sealed record FileVersion(string Version, string Author, DateTimeOffset At, string? Action, long? Size);

/// <summary>What came of a file that was checked or saved.</summary>
/// <param name="Problems">What is wrong with it.</param>
/// <param name="Breaks">What would not fit any more, or does not.</param>
/// <param name="Version">The version that was saved; null when nothing was.</param>
public sealed record FileAnswer(IReadOnlyList<Problem> Problems, IReadOnlyList<Broken> Breaks, string? Version);

/// <summary>What somebody wants to save.</summary>
/// <param name="Path">Where it lies.</param>
/// <param name="Content">Its content; null takes it away.</param>
/// <param name="Seen">The version that was edited, empty for a new file; null to check only.</param>
/// <param name="Anyway">Whether it is saved though something would not fit any more.</param>
/// <param name="Note">For attachments: what the releases are for that they make.</param>
public sealed record FileEdit(string Path, byte[]? Content, string? Seen, bool Anyway = false, string? Note = null);

/// <summary>
/// Lists, checks and saves what stands beside the chains, and their attachments. Of two who save, the second is told.
/// An attachment that is saved makes a new release of each chain that uses it. Thread-safe.
/// </summary>
public sealed class WorkspaceFileService
{
    /// <summary>The most bytes of a file.</summary>
    public const int MostBytes = 4 << 20;

    readonly WorkspaceService _workspace;
    readonly BrokenChains _broken;

    internal WorkspaceFileService(WorkspaceService workspace, BrokenChains broken) =>
        (_workspace, _broken) = (workspace, broken);

    /// <summary>All files that there are, by path.</summary>
    public async Task<IReadOnlyList<FileEntry>> ListAsync()
    {
        var files = await _workspace.Files.AllAsync().ConfigureAwait(false);
        var named = files
            .SelectMany(f => WorkspaceFiles.NamedBy([(f.Path, f.Content!)], _ => true).Select(n => (Named: n, f.Path)))
            .ToLookup(n => n.Named, n => n.Path);
        var entries = files
            .Select(f => new FileEntry(
                f.Path,
                KindOf(f.Path),
                Text(f.Version),
                f.Author,
                f.At,
                Encoding.UTF8.GetByteCount(f.Content!),
                [.. named[f.Path].Distinct()]
            ))
            .ToDictionary(f => f.Path);
        var numbers = await _workspace.Catalogue.LatestReleasesAsync().ConfigureAwait(false);
        var attached = await _workspace.Catalogue.AttachmentsAsync().ConfigureAwait(false);
        foreach (var uses in attached.GroupBy(a => a.Path).Where(g => !entries.ContainsKey(g.Key)))
        {
            var newest = uses.Select(u => numbers[u.Chain]).MaxBy(n => n.Made)!;
            entries.Add(
                uses.Key,
                new(
                    uses.Key,
                    "attachment",
                    VersionOf(uses.Select(u => numbers[u.Chain])),
                    newest.Author,
                    newest.Made,
                    uses.First().Size,
                    [.. uses.Select(u => u.Chain).Order(StringComparer.Ordinal)]
                )
            );
        }
        return [.. entries.Values.OrderBy(e => e.Path, StringComparer.Ordinal)];
    }

    /// <summary>A file and its content, as it is or was.</summary>
    /// <param name="path">Where it lies.</param>
    /// <param name="version">Which version; null for the newest.</param>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<(FileEntry File, byte[] Content)> GetAsync(string path, string? version = null)
    {
        var entry = (await ListAsync().ConfigureAwait(false)).FirstOrDefault(f => f.Path == path) ?? throw NoFile(path);
        if (await _workspace.Files.FindAsync(path).ConfigureAwait(false) is not { } file)
            return (entry, await AttachmentAsync(path, version).ConfigureAwait(false));
        if (version is null)
            return (entry, Encoding.UTF8.GetBytes(file.Content!));
        var before = (await _workspace.Files.HistoryAsync(path).ConfigureAwait(false)).FirstOrDefault(f =>
            Text(f.Version) == version && f.Content is not null
        );
        return before is null
            ? throw new RefusedException(RefusalKind.NotFound, $"“{path}” has no version {version}")
            : (entry, Encoding.UTF8.GetBytes(before.Content!));
    }

    // A version is “chain#release”.
    async Task<byte[]> AttachmentAsync(string path, string? version)
    {
        var uses = await UsesAsync(path).ConfigureAwait(false);
        var use = version is null
            ? uses[0]
            : uses.FirstOrDefault(u => version.StartsWith(u.Chain + "#", StringComparison.Ordinal));
        var release =
            use is null ? null
            : version is null ? (await _workspace.Catalogue.LatestAsync(use.Chain).ConfigureAwait(false))
            : (await _workspace.Catalogue.ReleasesAsync(use.Chain).ConfigureAwait(false)).FirstOrDefault(r =>
                version == $"{use.Chain}#{Text(r.Number)}"
            )
                is { } number
                ? await _workspace.Catalogue.FindAsync(number.Hash).ConfigureAwait(false)
            : null;
        return release?.Files.GetValueOrDefault(use!.Name)
            ?? throw new RefusedException(RefusalKind.NotFound, $"“{path}” has no version {version}");
    }

    /// <summary>The versions of a file, newest first; at most a hundred of an attachment.</summary>
    /// <exception cref="RefusedException">There never was such a file.</exception>
    public async Task<IReadOnlyList<FileVersion>> VersionsAsync(string path)
    {
        var files = await _workspace.Files.HistoryAsync(path).ConfigureAwait(false);
        if (files.Count > 0)
        {
            return
            [
                .. files.Select(f => new FileVersion(
                    Text(f.Version),
                    f.Author,
                    f.At,
                    f.Action,
                    f.Content is null ? null : Encoding.UTF8.GetByteCount(f.Content)
                )),
            ];
        }
        var versions = new List<FileVersion>();
        foreach (var use in await UsesAsync(path).ConfigureAwait(false))
        {
            versions.AddRange(
                (await _workspace.Catalogue.AttachmentHistoryAsync(use.Chain, use.Name).ConfigureAwait(false)).Select(
                    v => new FileVersion(
                        $"{use.Chain}#{Text(v.Release.Number)}",
                        v.Release.Author,
                        v.Release.Made,
                        v.Release.Action,
                        v.Size
                    )
                )
            );
        }
        return [.. versions.OrderByDescending(v => v.At)];
    }

    /// <summary>The folders of the chains that have a file as an attachment; none for other files.</summary>
    public async Task<IReadOnlyList<Area>> AreasUsingAsync(string path)
    {
        var areas = new List<Area>();
        foreach (var use in await _workspace.Catalogue.AttachmentsAsync().ConfigureAwait(false))
        {
            if (use.Path == path)
                areas.Add(await _workspace.AreaOfAsync(use.Chain).ConfigureAwait(false));
        }
        return areas;
    }

    /// <summary>Checks a file, and saves it when a version is given and nothing keeps it from that.</summary>
    /// <exception cref="RefusedException">The path is no file of the workspace, it is too big, or somebody else has
    /// saved meanwhile.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<FileAnswer> SaveAsync(FileEdit edit, Actor by)
    {
        if (!AttachmentNames.IsName(edit.Path) || edit.Path.EndsWith(Workspace.ChainEnding, StringComparison.Ordinal))
            throw new RefusedException(RefusalKind.Invalid, $"“{edit.Path}” is no path of such a file");
        if (edit.Content?.Length > MostBytes)
            throw new RefusedException(RefusalKind.Invalid, $"“{edit.Path}” would have more than 4 MiB");
        return
            Workspace.IsSettings(edit.Path)
            || await _workspace.Files.FindAsync(edit.Path).ConfigureAwait(false) is not null
            ? await SaveTextAsync(edit, by).ConfigureAwait(false)
            : await ChangeAsync(() => SaveAttachmentAsync(edit, by)).ConfigureAwait(false);
    }

    // Nobody else changes anything from the look at what is there on.
    async Task<T> ChangeAsync<T>(Func<Task<T>> change)
    {
        await using (await _workspace.HoldAsync().ConfigureAwait(false))
            return await change().ConfigureAwait(false);
    }

    async Task<FileAnswer> SaveTextAsync(FileEdit edit, Actor by)
    {
        if (edit.Content is { } bytes && !IsText(bytes))
            throw new RefusedException(RefusalKind.Invalid, $"“{edit.Path}” is to be UTF-8, and this is not");
        var text = edit.Content is null ? null : Workspace.TextOf(edit.Content);
        var (problems, breaks) = await CheckAsync(edit.Path, text).ConfigureAwait(false);
        if (edit.Seen is not { } seen || problems.Any(p => p.IsError) || (breaks.Count > 0 && !edit.Anyway))
            return new(problems, breaks, null);
        try
        {
            // A check may take its time: only what is stored is waited for by others.
            var saved = await ChangeAsync(() =>
                    _workspace.Files.SaveAsync(
                        edit.Path,
                        long.TryParse(seen, out var version) ? version : 0,
                        text,
                        Line(by, text is null ? "remove" : "save", edit.Path)
                    )
                )
                .ConfigureAwait(false);
            await _workspace.LoadAsync().ConfigureAwait(false);
            return new(problems, breaks, saved is null ? "" : Text(saved.Version));
        }
        catch (FileChangedException)
        {
            throw Changed(edit.Path, (await _workspace.Files.HistoryAsync(edit.Path).ConfigureAwait(false))[0].Author);
        }
    }

    // What is wrong with a file, and what it would break, were it to take the place of what is there.
    async Task<(IReadOnlyList<Problem> Problems, IReadOnlyList<Broken> Breaks)> CheckAsync(string path, string? text)
    {
        var next = await _workspace
            .CheckedFilesAsync(new Dictionary<string, string?> { [path] = text })
            .ConfigureAwait(false);
        var problems = next.Problems.Where(p => p.File == path).ToList();
        var others = next.Problems.Where(p => p.File != path && p.IsError).ToList();
        // Only where another file is wrong it matters whether it was before.
        if (others.Count > 0)
        {
            var now = await _workspace.CheckedFilesAsync(new Dictionary<string, string?>()).ConfigureAwait(false);
            var before = now.Problems.Select(p => (p.File, p.Message)).ToHashSet();
            others.RemoveAll(p => before.Contains((p.File, p.Message)));
        }
        var files = others.GroupBy(p => p.File).Select(g => new Broken(g.Key, false, g.First().Message, g.Count() - 1));
        return (problems, [.. files, .. await _broken.ByAsync(next.Files, Nothing).ConfigureAwait(false)]);
    }

    static readonly IReadOnlySet<string> Nothing = new HashSet<string>();

    async Task<FileAnswer> SaveAttachmentAsync(FileEdit edit, Actor by)
    {
        var uses = await UsesAsync(edit.Path).ConfigureAwait(false);
        if (edit.Content is null)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"“{edit.Path}” belongs to {string.Join(", ", uses.Select(u => u.Chain))}; it goes when they do not "
                    + "name it any more"
            );
        }
        if (edit.Seen is null)
            return new([], [], null);
        var numbers = await _workspace.Catalogue.LatestReleasesAsync().ConfigureAwait(false);
        if (VersionOf(uses.Select(u => numbers[u.Chain])) != edit.Seen)
            throw Changed(edit.Path, uses.Select(u => numbers[u.Chain]).MaxBy(n => n.Made)!.Author);
        var releases = new List<Release>();
        foreach (var use in uses)
        {
            var latest = (await _workspace.Catalogue.LatestAsync(use.Chain).ConfigureAwait(false))!;
            var chain = await _workspace.LatestChainAsync(use.Chain).ConfigureAwait(false);
            releases.Add(
                ReleaseContent.Of(
                    chain,
                    latest.Source,
                    new Dictionary<string, byte[]>(latest.Files) { [use.Name] = edit.Content },
                    _workspace.Time.GetUtcNow()
                ) with
                {
                    Area = latest.Area,
                    Places = latest.Places,
                }
            );
        }
        await _workspace
            .StoreChangedAsync(
                new(
                    releases,
                    new Dictionary<string, string>(),
                    Line(by, "save", edit.Path),
                    edit.Note ?? $"{edit.Path} was changed"
                )
            )
            .ConfigureAwait(false);
        var after = await _workspace.Catalogue.LatestReleasesAsync().ConfigureAwait(false);
        return new([], [], VersionOf(uses.Select(u => after[u.Chain])));
    }

    async Task<IReadOnlyList<AttachmentEntry>> UsesAsync(string path)
    {
        var uses = (await _workspace.Catalogue.AttachmentsAsync().ConfigureAwait(false))
            .Where(a => a.Path == path)
            .ToList();
        return uses.Count > 0 ? uses : throw NoFile(path);
    }

    static RefusedException NoFile(string path) =>
        new(
            RefusalKind.NotFound,
            $"there is no file “{path}”; an attachment that is new comes with the draft of the chain that names it"
        );

    static RefusedException Changed(string path, string by) =>
        new(RefusalKind.Conflict, $"{by} has saved “{path}” meanwhile; nothing of yours was stored");

    AuditLine Line(Actor by, string action, string path) =>
        new(_workspace.Time.GetUtcNow(), by, action, $"file {path}");

    // Of all chains that have it: a release of any of them may have changed it.
    static string VersionOf(IEnumerable<NumberedRelease> releases) =>
        string.Join(' ', releases.Select(r => $"{r.Chain}#{Text(r.Number)}").Order(StringComparer.Ordinal));

    static string Text(long number) => number.ToString(System.Globalization.CultureInfo.InvariantCulture);

    static string KindOf(string path) =>
        Workspace.IsSettings(path) ? System.IO.Path.GetFileNameWithoutExtension(path) : "attachment";

    static bool IsText(byte[] content)
    {
        try
        {
            _ = new UTF8Encoding(false, throwOnInvalidBytes: true).GetCharCount(content);
            return true;
        }
        catch (ArgumentException)
        {
            return false;
        }
    }
}
