using System.Text;
using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Kinds;
using GateChain.Kinds.Connections;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// A folder of chains and what stands beside them, read and checked. Used offline by the command line and by the
/// service for a push. Pure: works on names and contents.
/// </summary>
public sealed class Workspace
{
    /// <summary>The names of its files, and how those of chains end.</summary>
    public const string ConnectionsName = "connections.yaml",
        ProfilesName = "profiles.yaml",
        LanesName = "lanes.yaml",
        ChainEnding = ".chain.yaml";

    readonly List<Problem> _problems = [];
    readonly List<(Chain Chain, string Source, string File)> _chains = [];
    readonly IReadOnlyDictionary<string, byte[]> _files;

    /// <summary>Reads everything and gathers all problems.</summary>
    /// <param name="files">Contents by name relative to the folder, with <c>/</c> between parts.</param>
    /// <param name="kinds">The kinds that steps may have.</param>
    /// <param name="releases">The releases that are there already; null where none are known.</param>
    /// <param name="isSecretSet">Whether a secret of a name is set; null where secrets are not known.</param>
    /// <param name="cancel">Ends it when it has taken long enough.</param>
    /// <exception cref="OperationCanceledException">It has.</exception>
    public Workspace(
        IReadOnlyDictionary<string, byte[]> files,
        KindCatalogue kinds,
        IKnownReleases? releases = null,
        Func<string, bool>? isSecretSet = null,
        CancellationToken cancel = default
    )
    {
        _files = files;
        var connections = ReadSettings(ConnectionsName, (text, problems) =>
            ConnectionsFile.Read(text, problems, AllConnections.Types, isSecretSet)
        )?.Types
            ?? new Dictionary<string, string>();
        Profiles = ReadSettings(ProfilesName, Profiles.Read) ?? new();
        var lanes = ReadSettings(LanesName, LanesFile.Read)?.Widths.Keys ?? [];
        foreach (var name in files.Keys.Where(n => !AttachmentNames.IsName(n)))
        {
            _problems.Add(
                new(
                    ProblemKinds.BadName,
                    "workspace",
                    1,
                    1,
                    $"“{new string([.. name.Take(60).Select(c => char.IsControl(c) ? '·' : c)])}” is no "
                        + "name of a file in a workspace: a relative path without “..”, "
                        + "“\\” and control characters",
                    null
                )
            );
        }
        var attachments = files.Keys.Where(IsAttachment).ToHashSet();
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
            .ToDictionary(g => g.Key, g => ChainInterfaces.Of(g.First().Chain));
        foreach (var (chain, source, name, problems) in read)
        {
            // Also the release that this very workspace makes; not the caller's own, which would call itself for ever.
            ChainInterface? Numbered(string called, int number) =>
                releases!.Find(called, number)
                ?? (
                    called != chain.Name
                    && read.Find(c => c.Chain.Name == called) is { Chain: { } here } found
                    && releases.NumberFor(ReleaseContent.Of(here, found.Source, files, default)) == number
                        ? interfaces[called]
                        : null
                );
            _problems.AddRange(
                ChainCheck.Check(
                    chain,
                    problems,
                    new(connections, attachments, interfaces, lanes.ToHashSet())
                    {
                        Profiles = Profiles.All,
                        Releases = releases is null ? null : Numbered,
                        IsSecretSet = isSecretSet,
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
    }

    /// <summary>What is wrong with it, files and chains alike.</summary>
    public IReadOnlyList<Problem> Problems => _problems;

    /// <summary>The values that runs can be started with.</summary>
    public Profiles Profiles { get; }

    /// <summary>The chain of a file; null when it could not be read.</summary>
    public Chain? ChainIn(string file) => _chains.Find(c => c.File == file).Chain;

    /// <summary>Whether something keeps it from being stored.</summary>
    public bool HasErrors => _problems.Exists(p => p.IsError);

    /// <summary>The chains, as far as they can be read.</summary>
    public IReadOnlyList<Chain> Chains => [.. _chains.Select(c => c.Chain)];

    /// <summary>The names of the attachments that the chains use.</summary>
    public IReadOnlySet<string> Attachments =>
        _chains.SelectMany(c => ReleaseContent.AttachmentsOf(c.Chain)).ToHashSet();

    /// <summary>Whether a file is neither a chain nor settings.</summary>
    public static bool IsAttachment(string name) =>
        name is not (ConnectionsName or ProfilesName or LanesName)
        && !name.EndsWith(ChainEnding, StringComparison.Ordinal);

    internal static ConnectionsFile ReadConnections(string text, ProblemList problems) =>
        ConnectionsFile.Read(text, problems, AllConnections.Types);

    // A byte order mark says that a file is UTF-8, and nothing more. What is not UTF-8 is told by the reader.
    static string TextOf(byte[] content) =>
        Encoding.UTF8.GetString(
            content.AsSpan().StartsWith(Encoding.UTF8.Preamble)
                ? content.AsSpan(Encoding.UTF8.Preamble.Length)
                : content
        );

    T? ReadSettings<T>(string name, Func<string, ProblemList, T> read)
        where T : class
    {
        if (!_files.TryGetValue(name, out var content))
            return null;
        var text = TextOf(content);
        var problems = new ProblemList(name, text);
        var result = read(text, problems);
        _problems.AddRange(problems.Ordered);
        return result;
    }

    /// <summary>What is stored of it. Only for a workspace without errors.</summary>
    public Push ToPush(DateTimeOffset now, Actor by, string? note)
    {
        var settings = new Dictionary<string, string>();
        foreach (var name in (string[])[ConnectionsName, ProfilesName, LanesName])
        {
            if (_files.TryGetValue(name, out var content))
                settings[name] = TextOf(content);
        }
        var chains = string.Join(", ", _chains.Select(c => c.Chain.Name).Take(MostNamed));
        return new(
            [.. _chains.Select(c => ReleaseContent.Of(c.Chain, c.Source, _files, now))],
            settings,
            new(now, by, "push", $"{_chains.Count} chains, {settings.Count} files", chains),
            note
        );
    }

    // In a line of the audit log; the releases themselves say the rest.
    const int MostNamed = 20;
}
