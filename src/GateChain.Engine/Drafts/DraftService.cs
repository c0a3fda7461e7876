using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Designing;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Drafts;

/// <summary>A draft that was saved or discarded.</summary>
/// <param name="Version">Its version now; 0 when there is none any more.</param>
public sealed record DraftChange(string Chain, long Version, string By);

/// <summary>A draft file as far as it could be read.</summary>
/// <param name="Chain">Null when nothing could be read.</param>
public sealed record CheckedDraft(Chain? Chain, IReadOnlyList<Problem> Problems)
{
    /// <summary>Whether something keeps it from running.</summary>
    public bool HasErrors => Problems.Any(p => p.IsError);

    /// <summary>Helps with its expressions. To be used under a lock on it.</summary>
    public ExpressionService? Expressions { get; } = Chain is null ? null : new(Chain);
}

/// <summary>
/// Chains on their way to a release: drafts are saved, checked, compared and released here. Thread-safe.
/// </summary>
public sealed class DraftService
{
    const int MostRecent = 24;

    readonly IDrafts _drafts;
    readonly WorkspaceService _workspace;

    // With what they were checked against: once that is another, they count for nothing.
    readonly LinkedList<(string Chain, string Source, WorkspaceContext Common, CheckedDraft Draft)> _recent = [];
    readonly Lock _lock = new();

    // One for the chains of a folder, by its path; attachments are a chain's own.
    readonly Cache<WorkspaceContext> _context;

    internal DraftService(IDrafts drafts, WorkspaceService workspace) =>
        (_drafts, _workspace, _context) = (
            drafts,
            workspace,
            new(async area => await workspace.WorkspaceContextAsync(new(area)).ConfigureAwait(false))
        );

    /// <summary>Called for every draft that is saved or discarded; must be quick.</summary>
    public event Action<DraftChange>? Changed;

    /// <summary>All drafts there are.</summary>
    public ValueTask<IReadOnlyList<Draft>> AllAsync() => _drafts.AllAsync();

    /// <summary>The draft of a chain, or what a new one would begin with: its latest release, as version 0.</summary>
    /// <exception cref="RefusedException">There is neither.</exception>
    public async Task<Draft> GetAsync(string chain)
    {
        if (await _drafts.FindAsync(chain).ConfigureAwait(false) is { } draft)
            return draft;
        var (release, content) = await NumberedAsync(chain, null).ConfigureAwait(false);
        return new(chain, 0, content.Source, release.Number, release.Author, release.Made);
    }

    /// <summary>Earlier versions that are still there, newest first.</summary>
    public ValueTask<IReadOnlyList<Draft>> HistoryAsync(string chain) => _drafts.HistoryAsync(chain);

    /// <summary>The attachments of a draft: its own, and those of the release it began from.</summary>
    public async Task<IReadOnlyDictionary<string, byte[]>> FilesAsync(string chain) =>
        await FilesAsync(chain, await _workspace.Catalogue.LatestAsync(chain).ConfigureAwait(false))
            .ConfigureAwait(false);

    async Task<IReadOnlyDictionary<string, byte[]>> FilesAsync(string chain, Release? latest)
    {
        var files = new Dictionary<string, byte[]>(latest?.Files ?? new Dictionary<string, byte[]>());
        foreach (var (name, content) in await _drafts.FilesAsync(chain).ConfigureAwait(false))
            files[name] = content;
        return files;
    }

    /// <summary>Saves a draft; it need not be free of problems, and not even be YAML.</summary>
    /// <param name="chain">Its name, by which it is found; the file may say another one, which a release
    /// refuses.</param>
    /// <param name="seen">The version it is made from; 0 for none.</param>
    /// <param name="source">The chain file.</param>
    /// <param name="files">Attachments to put to it.</param>
    /// <param name="by">Who saves.</param>
    /// <param name="area">Where a chain that is new is to lie; null for the workspace itself, or where its draft
    /// says.</param>
    /// <exception cref="RefusedException">The name is none for a chain, or the file is too big.</exception>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile.</exception>
    public async Task<Draft> SaveAsync(
        string chain,
        long seen,
        string source,
        IReadOnlyDictionary<string, byte[]> files,
        Actor by,
        Area? area = null
    )
    {
        if (!ChainReader.IsName(chain))
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"the name of a chain begins with a letter and holds letters, digits and -; this is “{chain}”"
            );
        }
        if (source.Length > ChainReader.MaxLength || files.Values.Any(f => f.Length > ChainReader.MaxLength))
            throw new RefusedException(RefusalKind.Invalid, "a draft and its attachments are at most 4 MiB each");
        if (
            files.Keys.FirstOrDefault(n => !AttachmentNames.IsName(n) || !Workspaces.Workspace.IsAttachment(n)) is
            { } bad
        )
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{new string([.. bad.Take(60).Select(c => char.IsControl(c) ? '·' : c)])}” is no name "
                    + "of an attachment: a relative path without “..”, and none of a chain or of the "
                    + "workspace's own files"
            );
        }
        if (area is { Path: { Length: > 0 } path } && !AttachmentNames.IsName(path))
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                "a folder is named by its path in the workspace, for example sales/daily"
            );
        }
        var before = await _drafts.FindAsync(chain).ConfigureAwait(false);
        var start = before?.Base
            ?? (
                await _workspace.Catalogue.ReleasesAsync(chain).ConfigureAwait(false) is [var latest, ..]
                    ? latest.Number
                    : null
            );
        var saved = await _drafts
            .SaveAsync(
                new(chain, seen),
                source,
                start,
                files,
                by.Name,
                _workspace.Time.GetUtcNow(),
                area ?? before?.Area ?? Area.Root
            )
            .ConfigureAwait(false);
        // A chain in another folder can name other things.
        if (files.Count > 0 || saved.Area != (before?.Area ?? Area.Root))
            Forget();
        Changed?.Invoke(new(chain, saved.Version, by.Name));
        return saved;
    }

    /// <summary>Lets a draft go.</summary>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile.</exception>
    public async Task DiscardAsync(string chain, long seen, Actor by)
    {
        var audit = Line(by, "discard", $"draft of {chain}", null);
        await _drafts.DiscardAsync(new(chain, seen), audit).ConfigureAwait(false);
        Changed?.Invoke(new(chain, 0, by.Name));
    }

    /// <summary>Everything that is wrong with a file in the workspace context of the service.</summary>
    /// <param name="chain">The name it is found by.</param>
    /// <param name="source">The file.</param>
    /// <exception cref="RefusedException">It takes longer than a check may.</exception>
    public async Task<CheckedDraft> CheckAsync(string chain, string source)
    {
        var common = await CommonAsync(chain).ConfigureAwait(false);
        lock (_lock)
        {
            for (var node = _recent.First; node is not null; node = node.Next)
            {
                if (
                    node.Value.Chain != chain
                    || node.Value.Source != source
                    || !ReferenceEquals(node.Value.Common, common)
                )
                {
                    continue;
                }
                _recent.Remove(node);
                _recent.AddFirst(node);
                return node.Value.Draft;
            }
        }
        var beside = await ContextOfAsync(chain, common).ConfigureAwait(false);
        var (read, problems) = await _workspace
            .CheckAsync(
                (known, cancel) =>
                    _workspace.Check.Check(
                        $"{chain}{Workspace.ChainEnding}",
                        source,
                        beside with
                        {
                            Releases = known.Find,
                            Cancel = cancel,
                        }
                    )
            )
            .ConfigureAwait(false);
        var draft = new CheckedDraft(read, problems);
        lock (_lock)
        {
            _recent.AddFirst((chain, source, common, draft));
            if (_recent.Count > MostRecent)
                _recent.RemoveLast();
        }
        return draft;
    }

    /// <summary>Makes the draft the next release. Gives its number.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="seen">The version that is released.</param>
    /// <param name="note">What it is for.</param>
    /// <param name="by">Who releases.</param>
    /// <exception cref="InvalidDraftException">It has errors.</exception>
    /// <exception cref="RefusedException">It says another name, or nothing has changed.</exception>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile.</exception>
    public async Task<NumberedRelease> ReleaseAsync(string chain, long seen, string? note, Actor by)
    {
        var draft = await _drafts.FindAsync(chain).ConfigureAwait(false)
            ?? throw new RefusedException(RefusalKind.Conflict, $"“{chain}” has no draft");
        if (draft.Version != seen)
            throw new DraftChangedException(chain);
        var content = await ContentAsync(chain, draft.Source).ConfigureAwait(false);
        if ((await _workspace.Catalogue.LatestAsync(chain).ConfigureAwait(false))?.Hash == content.Hash)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"the draft of “{chain}” is the same as its latest release"
            );
        }
        return await StoreAsync(content, [new(chain, seen)], note, Line(by, "release", $"chain {chain}", note))
            .ConfigureAwait(false);
    }

    /// <summary>
    /// Makes the content of an earlier release the latest one again, under a new number. A draft is left as it is.
    /// </summary>
    /// <exception cref="RefusedException">There is no such release, or it is the latest one.</exception>
    public async Task<NumberedRelease> GoBackAsync(string chain, int number, string? note, Actor by)
    {
        var (release, content) = await NumberedAsync(chain, number).ConfigureAwait(false);
        if ((await _workspace.Catalogue.LatestAsync(chain).ConfigureAwait(false))!.Hash == release.Hash)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"release {number} of “{chain}” is what new runs follow already"
            );
        }
        return await StoreAsync(
                content with
                {
                    Pushed = _workspace.Time.GetUtcNow(),
                },
                [],
                note ?? $"release {number} again",
                Line(by, "go back", $"chain {chain}", $"to release {number}")
            )
            .ConfigureAwait(false);
    }

    async Task<NumberedRelease> StoreAsync(
        Release content,
        IReadOnlyList<DraftVersion> drafts,
        string? note,
        AuditLine audit
    )
    {
        await _workspace
            .StoreAsync(new([content], new Dictionary<string, string>(), audit, note) { Drafts = drafts })
            .ConfigureAwait(false);
        foreach (var draft in drafts)
            Changed?.Invoke(new(draft.Chain, 0, audit.By.Name));
        return (await _workspace.Catalogue.ReleasesAsync(content.Chain).ConfigureAwait(false))[0];
    }

    AuditLine Line(Actor by, string action, string what, string? detail) =>
        new(_workspace.Time.GetUtcNow(), by, action, what, detail);

    /// <summary>The content that a run of a draft follows.</summary>
    /// <exception cref="InvalidDraftException">It has errors.</exception>
    /// <exception cref="RefusedException">It says another name.</exception>
    public async Task<Release> ContentAsync(string chain, string source)
    {
        var draft = await CheckAsync(chain, source).ConfigureAwait(false);
        if (draft.HasErrors)
            throw new InvalidDraftException(draft.Problems);
        if (draft.Chain!.Name != chain)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"the file says “chain: {draft.Chain.Name}”, and this is the draft of “{chain}”"
            );
        }
        var latest = await _workspace.Catalogue.LatestAsync(chain).ConfigureAwait(false);
        var files = await FilesAsync(chain, latest).ConfigureAwait(false);
        return ReleaseContent.Of(draft.Chain, source, files, _workspace.Time.GetUtcNow()) with
        {
            Area = await _workspace.AreaOfAsync(chain).ConfigureAwait(false),
            Places = latest?.Places ?? new Dictionary<string, string>(),
        };
    }

    /// <summary>A release and its content.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="number">Its number; null for the latest.</param>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<(NumberedRelease Release, Release Content)> NumberedAsync(string chain, int? number)
    {
        var release = await _workspace.Releases.NumberedAsync(new(chain, number)).ConfigureAwait(false);
        return (release, (await _workspace.Catalogue.FindAsync(release.Hash).ConfigureAwait(false))!);
    }

    /// <summary>The folder that a chain lies in, or is to lie in.</summary>
    public ValueTask<Area> AreaOfAsync(string chain) => _workspace.AreaOfAsync(chain);

    /// <summary>What a draft can name: connections, attachments, other chains, lanes.</summary>
    public async Task<WorkspaceContext> ContextOfAsync(string chain) =>
        await ContextOfAsync(chain, await CommonAsync(chain).ConfigureAwait(false)).ConfigureAwait(false);

    async ValueTask<WorkspaceContext> CommonAsync(string chain)
    {
        var area = await _workspace.AreaOfAsync(chain).ConfigureAwait(false);
        return (await _context.FindAsync(area.Path).ConfigureAwait(false))!;
    }

    async Task<WorkspaceContext> ContextOfAsync(string chain, WorkspaceContext common) =>
        common with
        {
            Files = (await FilesAsync(chain).ConfigureAwait(false)).Keys.ToHashSet(),
        };

    /// <summary>What was pushed or released may change what drafts can name.</summary>
    internal void Forget() => _context.Forget();
}

/// <summary>A draft with errors was to be released or run.</summary>
public sealed class InvalidDraftException(IReadOnlyList<Problem> problems) : Exception("the draft has errors")
{
    /// <summary>What is wrong with it.</summary>
    public IReadOnlyList<Problem> Problems { get; } = problems;
}
