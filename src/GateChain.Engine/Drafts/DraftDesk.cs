using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Designing;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Drafts;

/// <summary>A draft that was saved or let go.</summary>
/// <param name="Version">Its version now; 0 when there is none any more.</param>
public sealed record DraftChange(string Chain, long Version, string By);

/// <summary>A draft file as far as it could be read.</summary>
/// <param name="Chain">Null when nothing could be read.</param>
public sealed record CheckedDraft(Chain? Chain, IReadOnlyList<Problem> Problems)
{
    /// <summary>Whether something keeps it from running.</summary>
    public bool HasErrors => Problems.Any(p => p.IsError);

    /// <summary>Helps with its expressions. To be used under a lock on it.</summary>
    public ExpressionDesk? Expressions { get; } = Chain is null ? null : new(Chain);
}

/// <summary>
/// Chains on their way to a release: drafts are saved, checked, compared and released here. Thread-safe.
/// </summary>
public sealed class DraftDesk
{
    const int MostRecent = 24;

    readonly IDrafts _drafts;
    readonly WorkspaceBook _workspace;

    // With what they were checked against: once that is another, they count for nothing.
    readonly LinkedList<(string Chain, string Source, Surroundings Common, CheckedDraft Draft)> _recent = [];
    readonly Lock _lock = new();

    // One for all chains; attachments are a chain's own.
    readonly Remembered<Surroundings> _surroundings;

    internal DraftDesk(IDrafts drafts, WorkspaceBook workspace) =>
        (_drafts, _workspace, _surroundings) = (drafts, workspace, new(_ => workspace.Surroundings()));

    /// <summary>Called for every draft that is saved or let go; must be quick.</summary>
    public event Action<DraftChange>? Changed;

    /// <summary>All drafts there are.</summary>
    public IReadOnlyList<Draft> All() => _drafts.Drafts();

    /// <summary>The draft of a chain, or what a new one would begin with: its latest release, as version 0.</summary>
    /// <exception cref="RefusedException">There is neither.</exception>
    public Draft Get(string chain)
    {
        if (_drafts.FindDraft(chain) is { } draft)
            return draft;
        var (release, content) = Numbered(chain, null);
        return new(chain, 0, content.Source, release.Number, release.Author, release.Made);
    }

    /// <summary>Earlier versions that are still there, newest first.</summary>
    public IReadOnlyList<Draft> History(string chain) => _drafts.DraftHistory(chain);

    /// <summary>The attachments of a draft: its own, and those of the release it began from.</summary>
    public IReadOnlyDictionary<string, byte[]> Files(string chain)
    {
        var files = new Dictionary<string, byte[]>(
            _workspace.Catalogue.Latest(chain)?.Files ?? new Dictionary<string, byte[]>()
        );
        foreach (var (name, content) in _drafts.DraftFiles(chain))
            files[name] = content;
        return files;
    }

    /// <summary>Saves a draft; it need not be free of problems, and not even be YAML.</summary>
    /// <param name="chain">Its name, by which it is found; the file may say another one, which a release
    /// refuses.</param>
    /// <param name="seen">The version it is made from; 0 for none.</param>
    /// <param name="source">The chain file.</param>
    /// <param name="files">Attachments to put to it.</param>
    /// <param name="author">Who saves.</param>
    /// <exception cref="RefusedException">The name is none for a chain, or the file is too big.</exception>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile.</exception>
    public async Task<Draft> SaveAsync(
        string chain,
        long seen,
        string source,
        IReadOnlyDictionary<string, byte[]> files,
        string author
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
        var start = _drafts.FindDraft(chain)?.Base
            ?? (_workspace.Catalogue.Releases(chain) is [var latest, ..] ? latest.Number : null);
        var saved = await _drafts
            .SaveDraftAsync(new(chain, seen), source, start, files, author, _workspace.Time.GetUtcNow())
            .ConfigureAwait(false);
        if (files.Count > 0)
            Forget();
        Changed?.Invoke(new(chain, saved.Version, author));
        return saved;
    }

    /// <summary>Lets a draft go.</summary>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile.</exception>
    public async Task DiscardAsync(string chain, long seen, string author)
    {
        await _drafts.DiscardDraftAsync(new(chain, seen), author, _workspace.Time.GetUtcNow()).ConfigureAwait(false);
        Changed?.Invoke(new(chain, 0, author));
    }

    /// <summary>Everything that is wrong with a file in the surroundings of the service.</summary>
    /// <param name="chain">The name it is found by.</param>
    /// <param name="source">The file.</param>
    /// <exception cref="RefusedException">It takes longer than a check may.</exception>
    public CheckedDraft Check(string chain, string source)
    {
        var common = Common;
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
        var (read, problems) = CheckClock.Run(_workspace.Bounds, cancel =>
            _workspace.Check.Check(
                $"{chain}{Workspace.ChainEnding}",
                source,
                Beside(chain, common) with
                {
                    Cancel = cancel,
                }
            )
        );
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
    /// <param name="author">Who releases.</param>
    /// <exception cref="InvalidDraftException">It has errors.</exception>
    /// <exception cref="RefusedException">It says another name, or nothing has changed.</exception>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile.</exception>
    public async Task<NumberedRelease> ReleaseAsync(string chain, long seen, string? note, string author)
    {
        var draft = _drafts.FindDraft(chain)
            ?? throw new RefusedException(RefusalKind.Conflict, $"“{chain}” has no draft");
        if (draft.Version != seen)
            throw new DraftChangedException(chain);
        var content = Content(chain, draft.Source);
        if (_workspace.Catalogue.Latest(chain)?.Hash == content.Hash)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"the draft of “{chain}” is the same as its latest release"
            );
        }
        return await StoreAsync(content, [new(chain, seen)], note, author).ConfigureAwait(false);
    }

    /// <summary>
    /// Makes the content of an earlier release the latest one again, under a new number. A draft is left as it is.
    /// </summary>
    /// <exception cref="RefusedException">There is no such release, or it is the latest one.</exception>
    public async Task<NumberedRelease> GoBackAsync(string chain, int number, string? note, string author)
    {
        var (release, content) = Numbered(chain, number);
        if (_workspace.Catalogue.Latest(chain)!.Hash == release.Hash)
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
                author
            )
            .ConfigureAwait(false);
    }

    async Task<NumberedRelease> StoreAsync(
        Release content,
        IReadOnlyList<DraftVersion> drafts,
        string? note,
        string author
    )
    {
        await _workspace
            .StoreAsync(new([content], new Dictionary<string, string>(), author, note) { Drafts = drafts })
            .ConfigureAwait(false);
        foreach (var draft in drafts)
            Changed?.Invoke(new(draft.Chain, 0, author));
        return _workspace.Catalogue.Releases(content.Chain)[0];
    }

    /// <summary>The content that a run of a draft follows.</summary>
    /// <exception cref="InvalidDraftException">It has errors.</exception>
    /// <exception cref="RefusedException">It says another name.</exception>
    public Release Content(string chain, string source)
    {
        var draft = Check(chain, source);
        if (draft.HasErrors)
            throw new InvalidDraftException(draft.Problems);
        if (draft.Chain!.Name != chain)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"the file says “chain: {draft.Chain.Name}”, and this is the draft of “{chain}”"
            );
        }
        return ReleaseContent.Of(draft.Chain, source, Files(chain), _workspace.Time.GetUtcNow());
    }

    /// <summary>A release and its content.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="number">Its number; null for the latest.</param>
    /// <exception cref="RefusedException">There is none.</exception>
    public (NumberedRelease Release, Release Content) Numbered(string chain, int? number)
    {
        var release = _workspace.Releases.Numbered(new(chain, number));
        return (release, _workspace.Catalogue.Find(release.Hash)!);
    }

    /// <summary>What a draft can name: connections, attachments, other chains, lanes.</summary>
    public Surroundings Beside(string chain) => Beside(chain, Common);

    Surroundings Common => _surroundings.Find("")!;

    Surroundings Beside(string chain, Surroundings common) => common with { Files = Files(chain).Keys.ToHashSet() };

    /// <summary>What was pushed or released may change what drafts can name.</summary>
    internal void Forget() => _surroundings.Forget();
}

/// <summary>A draft with errors was to be released or run.</summary>
public sealed class InvalidDraftException(IReadOnlyList<Problem> problems) : Exception("the draft has errors")
{
    /// <summary>What is wrong with it.</summary>
    public IReadOnlyList<Problem> Problems { get; } = problems;
}
