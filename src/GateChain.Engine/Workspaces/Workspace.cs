using System.Text;
using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Triggers;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// A folder of chains and what stands beside them, read and checked. Chains and files may lie in folders of it: what
/// a chain names is looked for in its own folder first, then in those around it. Used offline by the command line and
/// by the service for a push. Pure: works on names and contents.
/// </summary>
public sealed class Workspace
{
    /// <summary>How the files of chains end.</summary>
    public const string ChainEnding = ".chain.yaml";

    readonly List<Problem> _problems = [];
    readonly List<(Chain Chain, string Source, string File)> _chains = [];
    readonly IReadOnlyDictionary<string, byte[]> _files;
    readonly WorkspaceFiles _settings;
    readonly IReadOnlySet<string> _named;

    /// <summary>Reads everything and gathers all problems.</summary>
    /// <param name="files">Contents by name relative to the folder, with <c>/</c> between parts.</param>
    /// <param name="kinds">The kinds that steps may have.</param>
    /// <param name="releases">The releases that are there already; null where none are known.</param>
    /// <param name="isSecretSet">Whether a secret of a name is set for a folder; null where secrets are not
    /// known.</param>
    /// <param name="above">What holds in folders above, of which nothing is brought: contents by path. It is looked at,
    /// and is no part of the workspace.</param>
    /// <param name="labels">The labels that nodes have; null where there is only one, or they are not known.</param>
    /// <param name="cancel">Ends it when it has taken long enough.</param>
    /// <exception cref="OperationCanceledException">It has.</exception>
    public Workspace(
        IReadOnlyDictionary<string, byte[]> files,
        KindCatalogue kinds,
        IKnownReleases? releases = null,
        Func<string, Area, bool>? isSecretSet = null,
        IReadOnlyDictionary<string, string>? above = null,
        IReadOnlySet<string>? labels = null,
        CancellationToken cancel = default
    )
    {
        _files = files;
        _named = NamedBySettings(files);
        _settings = new(
            files
                .Where(f => IsSettings(f.Key) || _named.Contains(f.Key))
                .OrderBy(f => f.Key, StringComparer.Ordinal)
                .Select(f => (f.Key, TextOf(f.Value)))
                .Concat((above ?? new Dictionary<string, string>()).Select(f => (f.Key, f.Value))),
            kinds,
            problems => _problems.AddRange(problems.Ordered.Where(p => files.ContainsKey(p.File))),
            isSecretSet
        );
        foreach (var name in files.Keys.Where(n => !AttachmentNames.IsName(n)))
        {
            _problems.Add(
                new(
                    ProblemKinds.BadName,
                    "workspace",
                    1,
                    1,
                    $"“{new string([.. name.Take(60).Select(c => char.IsControl(c) ? '·' : c)])}” is no "
                        + $"name of a file in a workspace: a relative path without “..”, "
                        + $"“\\” and control characters",
                    null
                )
            );
        }
        var read = new List<(Chain Chain, string Source, string File, ProblemList Problems)>();
        foreach (
            var (name, content) in files
                .Where(f => f.Key.EndsWith(ChainEnding, StringComparison.Ordinal))
                .OrderBy(f => f.Key, StringComparer.Ordinal)
        )
        {
            var source = TextOf(content);
            var problems = new ProblemList(name, source);
            if (ChainReader.Read(source, kinds, problems) is { } chain)
                read.Add((chain, source, name, problems));
            else
                _problems.AddRange(problems.Ordered);
        }
        // What the chains take and give has to be known before one of them is checked.
        var interfaces = read.GroupBy(c => c.Chain.Name)
            .ToDictionary(
                g => g.Key,
                g =>
                    ChainInterfaces.Of(g.First().Chain) with
                    {
                        IsRetired = releases?.IsRetired(g.Key) == true,
                        Area = Area.OfFile(g.First().File),
                    }
            );
        var attachments = new Dictionary<Area, IReadOnlySet<string>>();
        foreach (var (chain, source, name, problems) in read)
        {
            // Also the release that this very workspace makes; not the caller's own, which would call itself for ever.
            ChainInterface? Numbered(string called, int number) =>
                releases!.Find(called, number)
                ?? (
                    called != chain.Name
                    && read.Find(c => c.Chain.Name == called) is { Chain: { } here } found
                    && releases.NumberFor(ReleaseOf(here, found.Source, found.File, default)) == number
                        ? interfaces[called]
                        : null
                );
            var area = Area.OfFile(name);
            if (!attachments.TryGetValue(area, out var seen))
                attachments[area] = seen = AttachmentsSeenIn(area);
            var beside = _settings.In(area);
            _problems.AddRange(
                ChainCheck.Check(
                    chain,
                    problems,
                    new(beside.Connections.Types, seen, interfaces, beside.Lanes)
                    {
                        Area = area,
                        Profiles = beside.Profiles.All,
                        Releases = releases is null ? null : Numbered,
                        IsSecretSet = isSecretSet is null ? null : secret => isSecretSet(secret, area),
                        Labels = labels,
                        Cancel = cancel,
                    }
                )
            );
            if (_chains.Find(c => c.Chain.Name == chain.Name) is { File: { } other })
            {
                _problems.Add(
                    new(
                        ProblemKinds.DoubleKey,
                        name,
                        1,
                        1,
                        $"the chain “{chain.Name}” is already in {other}",
                        "give one of them another name"
                    )
                );
            }

            _chains.Add((chain, source, name));
        }
        _settings.CheckTriggers(interfaces, ProfilesOf, isSecretSet);
        _problems.AddRange(_settings.Triggers.SelectMany(f => f.Problems.Ordered));
    }

    /// <summary>What starts its chains by itself.</summary>
    public IEnumerable<TriggerDefinition> Triggers => _settings.Triggers.SelectMany(f => f.Triggers);

    /// <summary>The paths of files that calendars and triggers name.</summary>
    public static IReadOnlySet<string> NamedBySettings(IReadOnlyDictionary<string, byte[]> files) =>
        WorkspaceFiles
            .NamedBy(files.Where(f => IsSettings(f.Key)).Select(f => (f.Key, TextOf(f.Value))), files.ContainsKey)
            .ToHashSet();

    /// <summary>What is wrong with it, files and chains alike.</summary>
    public IReadOnlyList<Problem> Problems => _problems;

    /// <summary>The values that runs of a chain can be started with.</summary>
    /// <param name="chain">Its name.</param>
    public Profiles ProfilesOf(string chain) =>
        _settings
            .In(_chains.Find(c => c.Chain.Name == chain).File is { } file ? Area.OfFile(file) : Area.Root)
            .Profiles;

    /// <summary>The chain of a file; null when it could not be read.</summary>
    public Chain? ChainIn(string file) => _chains.Find(c => c.File == file).Chain;

    /// <summary>Whether something keeps it from being stored.</summary>
    public bool HasErrors => _problems.Exists(p => p.IsError);

    /// <summary>The chains, as far as they can be read.</summary>
    public IReadOnlyList<Chain> Chains => [.. _chains.Select(c => c.Chain)];

    /// <summary>The paths of the attachments that the chains, calendars and triggers use.</summary>
    public IReadOnlySet<string> Attachments =>
        _chains
            .SelectMany(c => ReleaseContent.AttachmentsOf(c.Chain).Select(name => PlaceOf(name, Area.OfFile(c.File))))
            .OfType<string>()
            .Concat(_named)
            .ToHashSet();

    /// <summary>The path of the file of a chain, and those of the attachments that it uses; null when there is no such
    /// chain.</summary>
    public (string File, IReadOnlyList<string> Attachments)? FilesOf(string chain) =>
        _chains.Find(c => c.Chain.Name == chain) is { Chain: { } found, File: { } file }
            ? (
                file,
                [
                    .. ReleaseContent
                        .AttachmentsOf(found)
                        .Select(name => PlaceOf(name, Area.OfFile(file)))
                        .OfType<string>()
                        .Distinct(),
                ]
            )
            : null;

    /// <summary>What stands beside the chains of a folder.</summary>
    public AreaFiles In(Area area) => _settings.In(area);

    /// <summary>Whether a file is neither a chain nor settings.</summary>
    public static bool IsAttachment(string path) =>
        !IsSettings(path) && !path.EndsWith(ChainEnding, StringComparison.Ordinal);

    /// <summary>
    /// Whether a file is <c>connections.yaml</c>, <c>profiles.yaml</c>, <c>lanes.yaml</c>, <c>calendars.yaml</c> or
    /// <c>triggers.yaml</c>, in any folder.
    /// </summary>
    public static bool IsSettings(string path) => WorkspaceFiles.IsOne(path);

    // The nearest file of a name, going up from a chain's folder.
    string? PlaceOf(string name, Area area) =>
        area.Upward.Select(a => a.File(name)).FirstOrDefault(path => IsAttachment(path) && _files.ContainsKey(path));

    HashSet<string> AttachmentsSeenIn(Area area)
    {
        var seen = new HashSet<string>();
        foreach (var path in _files.Keys.Where(IsAttachment))
        {
            seen.UnionWith(
                area.Upward.Where(a => a.Holds(Area.OfFile(path)))
                    .Select(a => a.Path.Length == 0 ? path : path[(a.Path.Length + 1)..])
            );
        }
        return seen;
    }

    Release ReleaseOf(Chain chain, string source, string file, DateTimeOffset now)
    {
        var area = Area.OfFile(file);
        var places = ReleaseContent
            .AttachmentsOf(chain)
            .Distinct()
            .Select(name => (Name: name, Path: PlaceOf(name, area)))
            .Where(a => a.Path is not null)
            .ToDictionary(a => a.Name, a => a.Path!);
        return ReleaseContent.Of(chain, source, places.ToDictionary(p => p.Key, p => _files[p.Value]), now) with
        {
            Area = area,
            Places = places.Where(p => p.Value != area.File(p.Key)).ToDictionary(),
        };
    }

    // A byte order mark says that a file is UTF-8, and nothing more. What is not UTF-8 is told by the reader.
    internal static string TextOf(byte[] content) =>
        Encoding.UTF8.GetString(
            content.AsSpan().StartsWith(Encoding.UTF8.Preamble)
                ? content.AsSpan(Encoding.UTF8.Preamble.Length)
                : content
        );

    /// <summary>What is stored of it. Only for a workspace without errors.</summary>
    public Push ToPush(DateTimeOffset now, Actor by, string? note)
    {
        var settings = _files
            .Where(f => IsSettings(f.Key) || _named.Contains(f.Key))
            .ToDictionary(f => f.Key, f => TextOf(f.Value));
        var chains = string.Join(", ", _chains.Select(c => c.Chain.Name).Take(MostNamed));
        return new(
            [.. _chains.Select(c => ReleaseOf(c.Chain, c.Source, c.File, now))],
            settings,
            new(now, by, "push", $"{_chains.Count} chains, {settings.Count} files", chains),
            note
        );
    }

    // In a line of the audit log; the releases themselves say the rest.
    const int MostNamed = 20;
}
