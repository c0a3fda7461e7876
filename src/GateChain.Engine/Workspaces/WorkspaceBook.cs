using System.Text;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Problems;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Engine.Secrets;
using GateChain.Kinds.Connections;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// The workspace as it was pushed last: chains, connections, profiles, lanes. Takes pushes. Thread-safe.
/// </summary>
public sealed class WorkspaceBook : IKnownReleases
{
    readonly ICatalogue _catalogue;
    readonly ReleasedChains _chains;
    readonly SecretBook _secrets;
    readonly Remembered<ConnectionsFile> _connections;
    readonly Remembered<Profiles> _profiles;
    readonly Remembered<LanesFile> _lanes;

    internal WorkspaceBook(
        ICatalogue catalogue,
        ReleaseBook releases,
        ReleasedChains chains,
        ChainCheck check,
        SecretBook secrets,
        TimeProvider time,
        Bounds bounds
    )
    {
        (_catalogue, Releases, _chains, Check, _secrets) = (catalogue, releases, chains, check, secrets);
        (Time, Bounds) = (time, bounds);
        _connections = new(name => ReadFile(name, Workspace.ReadConnections));
        _profiles = new(name => ReadFile(name, Workspaces.Profiles.Read));
        _lanes = new(name => ReadFile(name, LanesFile.Read));
    }

    /// <summary>Called when something was stored; runs that start from here on follow it.</summary>
    internal event Action? Stored;

    /// <summary>Reads and checks chains.</summary>
    public ChainCheck Check { get; }

    /// <summary>The connections as they were pushed last.</summary>
    public ConnectionsFile Connections => _connections.Find(Workspace.ConnectionsName)!;

    /// <summary>How many steps may be in a lane, by its name.</summary>
    public IReadOnlyDictionary<string, int> Lanes => _lanes.Find(Workspace.LanesName)!.Widths;

    Profiles Profiles => _profiles.Find(Workspace.ProfilesName)!;

    /// <summary>The names of the profiles that a run can be started under.</summary>
    public IEnumerable<string> ProfileNames => Profiles.Names;

    /// <summary>The values of a profile, as a run would have them.</summary>
    /// <exception cref="RefusedException">There is no profile of that name.</exception>
    public Value ProfileValues(string? name) => Profiles.Choose(name);

    /// <summary>The chain that new runs of a name would follow.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public Chain LatestChain(string name) => _chains.Of(Releases.Get(new(name, null)));

    /// <summary>The chain that a call runs; null when there is none.</summary>
    public Chain? FindChain(CalledChain called) => Releases.Find(called) is { } release ? _chains.Of(release) : null;

    /// <summary>
    /// The number that content of a chain has as a release, the first one if it was released again; null for content
    /// that was only tried.
    /// </summary>
    public int? NumberOf(string chain, string release) => Releases.NumberOf(chain, release);

    /// <summary>Checks a workspace against the releases that are there; stores nothing.</summary>
    /// <exception cref="RefusedException">It takes longer than a check may.</exception>
    public Workspace Read(IReadOnlyDictionary<string, byte[]> files) =>
        CheckClock.Run(Bounds, cancel => new Workspace(files, Check.Kinds, this, _secrets.IsSet, cancel));

    /// <summary>
    /// Checks and stores a workspace: each chain that changed gets a new release. With errors nothing is stored. Drafts
    /// stay.
    /// </summary>
    /// <param name="files">Contents by name.</param>
    /// <param name="author">Who brings it.</param>
    /// <param name="note">What the releases are for.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<Workspace> PushAsync(
        IReadOnlyDictionary<string, byte[]> files,
        string author,
        string? note = null
    )
    {
        var workspace = Read(files);
        if (!workspace.HasErrors)
            await StoreAsync(workspace.ToPush(Time.GetUtcNow(), author, note)).ConfigureAwait(false);
        return workspace;
    }

    /// <summary>
    /// The workspace as files that could be pushed again: the latest releases, their attachments and what stands beside
    /// them.
    /// </summary>
    public IReadOnlyDictionary<string, byte[]> Export()
    {
        var files = new SortedDictionary<string, byte[]>(StringComparer.Ordinal);
        foreach (var chain in _catalogue.Chains())
        {
            var release = _catalogue.Find(chain.Hash)!;
            files[chain.Chain + Workspace.ChainEnding] = Encoding.UTF8.GetBytes(release.Source);
            foreach (var (name, content) in release.Files)
                files[name] = content;
        }
        foreach (var name in (string[])[Workspace.ConnectionsName, Workspace.ProfilesName, Workspace.LanesName])
        {
            if (_catalogue.Setting(name) is { } text)
                files[name] = Encoding.UTF8.GetBytes(text);
        }
        return files;
    }

    /// <summary>Stores releases; runs that start from here on follow them.</summary>
    internal async Task StoreAsync(Push push)
    {
        await _catalogue.PushAsync(push).ConfigureAwait(false);
        _connections.Forget();
        _profiles.Forget();
        _lanes.Forget();
        Releases.Forget();
        Stored?.Invoke();
    }

    // A file of the workspace as it was pushed last; what was wrong with it was told then.
    T ReadFile<T>(string name, Func<string, ProblemList, T> read)
    {
        var text = _catalogue.Setting(name) ?? "{}";
        return read(text, new ProblemList(name, text));
    }

    internal ICatalogue Catalogue => _catalogue;
    internal ReleaseBook Releases { get; }
    internal TimeProvider Time { get; }
    internal Bounds Bounds { get; }

    /// <summary>What stands beside the chains, attachments left out.</summary>
    internal Surroundings Surroundings() =>
        new(
            Connections.Types,
            new HashSet<string>(),
            _catalogue
                .Chains()
                .Select(r => _chains.ReadableOf(r.Hash))
                .OfType<Chain>()
                .ToDictionary(c => c.Name, ChainInterfaces.Of),
            Lanes.Keys.ToHashSet()
        )
        {
            Profiles = Profiles.All,
            Releases = ((IKnownReleases)this).Find,
            IsSecretSet = _secrets.IsSet,
        };

    ChainInterface? IKnownReleases.Find(string chain, int number) =>
        FindChain(new(chain, number)) is { } found ? ChainInterfaces.Of(found) : null;

    int IKnownReleases.NumberFor(Release content) => Releases.NumberFor(content);
}
