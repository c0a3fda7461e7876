using System.Text;
using System.Text.RegularExpressions;
using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Workspaces;

/// <summary>What of a promotion is there already.</summary>
public enum PromotedState
{
    /// <summary>It is not there.</summary>
    New,

    /// <summary>It is there, and says something else.</summary>
    Changed,

    /// <summary>It is there, and nothing has to be brought.</summary>
    Same,
}

/// <summary>One thing that chains need, on its way from one workspace to another.</summary>
/// <param name="What">The chain, file, connection or lane: <c>chain nightly</c>.</param>
/// <param name="State">Whether it is there already.</param>
/// <param name="Note">What else is to be known; null for nothing.</param>
public sealed record PromotedThing(string What, PromotedState State, string? Note = null);

/// <summary>
/// Chains with what they need, brought from one workspace to another. Chains and attachments are brought as they are;
/// of connections and lanes those that are not there: what stands there under the same name belongs to that place, and
/// stays. Profiles are brought where there are none, and triggers never: they belong to their place. Secrets are named,
/// and never brought. Pure.
/// </summary>
/// <param name="Things">All that was looked at.</param>
/// <param name="Files">What has to be pushed, by path.</param>
/// <param name="Secrets">The secrets that are needed.</param>
public sealed partial record Promotion(
    IReadOnlyList<PromotedThing> Things,
    IReadOnlyDictionary<string, byte[]> Files,
    IReadOnlyList<string> Secrets
)
{
    /// <summary>Works out a promotion.</summary>
    /// <param name="from">The workspace that has the chains.</param>
    /// <param name="to">The workspace that they are brought to.</param>
    /// <param name="chains">Their names; those that they call come too.</param>
    /// <param name="kinds">The kinds that there are.</param>
    /// <exception cref="RefusedException">There is no chain of a name.</exception>
    public static Promotion Of(
        IReadOnlyDictionary<string, byte[]> from,
        IReadOnlyDictionary<string, byte[]> to,
        IReadOnlyList<string> chains,
        KindCatalogue kinds
    )
    {
        var (source, target) = (new Workspace(from, kinds), new Workspace(to, kinds));
        var things = new List<PromotedThing>();
        var files = new Dictionary<string, byte[]>();
        var secrets = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var (name, caller) in WithCalled(source, chains))
        {
            var chain = source.Chains.First(c => c.Name == name);
            var (file, attachments) = source.FilesOf(name)!.Value;
            // Where the chain lies in another folder there, it stays there.
            Bring(
                $"chain {name}",
                file,
                target.FilesOf(name)?.File ?? file,
                caller is null ? null : $"called by {caller}"
            );
            foreach (var attachment in attachments)
                Bring($"file {attachment}", attachment, attachment, null);
            var area = Area.OfFile(file);
            foreach (var connection in chain.AllSteps.SelectMany(ConnectionNames.In).Select(c => c.Name).Distinct())
                BringConnection(connection, area);
            foreach (var lane in chain.AllSteps.Select(s => s.Lane).OfType<string>().Distinct())
                BringLane(lane, area);
            secrets.UnionWith(SecretNames.In(chain).Select(s => s.Name));
            BringProfiles(area);
        }
        return new(things.DistinctBy(t => t.What).ToList(), files, [.. secrets]);

        void Bring(string what, string path, string there, string? note)
        {
            var state =
                !to.TryGetValue(there, out var present) ? PromotedState.New
                : present.AsSpan().SequenceEqual(from[path]) ? PromotedState.Same
                : PromotedState.Changed;
            things.Add(new(what, state, note));
            if (state != PromotedState.Same)
                files[there] = from[path];
        }

        void BringConnection(string name, Area area)
        {
            if (source.In(area).Connections.Find(name) is not { } connection)
                return;
            if (target.In(area).Connections.Find(name) is { } there)
            {
                things.Add(
                    new(
                        $"connection {name}",
                        PromotedState.Same,
                        there.Type == connection.Type
                            ? "there, and kept as it is there"
                            : $"there, and kept, though it is of type {there.Type} there and {connection.Type} here"
                    )
                );
                secrets.UnionWith(there.Secrets);
                return;
            }
            things.Add(new($"connection {name}", PromotedState.New, "brought as it is here: look whether that holds"));
            secrets.UnionWith(connection.Secrets);
            Add(connection.Area.File(WorkspaceFiles.ConnectionsName), name);
        }

        // A place that has values of its own keeps them; one that has none begins with ours.
        void BringProfiles(Area area)
        {
            if (target.In(area).Profiles.Names.Any())
                return;
            var path = area.Upward.Select(a => a.File(WorkspaceFiles.ProfilesName)).FirstOrDefault(from.ContainsKey);
            if (path is null || !files.TryAdd(path, from[path]))
                return;
            things.Add(new($"file {path}", PromotedState.New, "brought as it is here: look whether that holds"));
        }

        void BringLane(string name, Area area)
        {
            if (target.In(area).Lanes.Contains(name))
            {
                things.Add(new($"lane {name}", PromotedState.Same, "there, and kept as it is there"));
                return;
            }
            var path = area
                .Upward.Select(a => a.File(WorkspaceFiles.LanesName))
                .FirstOrDefault(p => from.ContainsKey(p) && EntryIn(from[p], name) is not null);
            if (path is null)
                return;
            things.Add(new($"lane {name}", PromotedState.New));
            Add(path, name);
        }

        // An entry of a file of ours comes behind what the file there says.
        void Add(string path, string name)
        {
            var present = files.GetValueOrDefault(path) ?? to.GetValueOrDefault(path) ?? [];
            var text = Workspace.TextOf(present);
            if (EntryIn(present, name) is not null || EntryIn(from[path], name) is not { } entry)
                return;
            files[path] = Encoding.UTF8.GetBytes(
                text.Length == 0 || text.EndsWith('\n') ? text + entry : $"{text}\n{entry}"
            );
        }
    }

    // Those asked for, and those that they call, each once, with the first caller.
    static IEnumerable<(string Chain, string? Caller)> WithCalled(Workspace source, IReadOnlyList<string> chains)
    {
        var seen = new HashSet<string>();
        var left = new Queue<(string Chain, string? Caller)>(chains.Select(c => (c, (string?)null)));
        while (left.TryDequeue(out var next))
        {
            if (!seen.Add(next.Chain))
                continue;
            if (source.Chains.FirstOrDefault(c => c.Name == next.Chain) is not { } chain)
                throw new RefusedException(RefusalKind.NotFound, $"there is no chain “{next.Chain}” here");
            yield return next;
            foreach (var called in chain.AllSteps.Select(s => s.Call?.Child.Name).OfType<string>())
                left.Enqueue((called, next.Chain));
        }
    }

    // The lines of an entry of a file that is one mapping; null when it has none of that name.
    static string? EntryIn(byte[] content, string name)
    {
        var lines = Workspace.TextOf(content).ReplaceLineEndings("\n").Split('\n');
        var start = Array.FindIndex(lines, l =>
            EntryName().Match(l) is { Success: true } m && m.Groups[1].Value == name
        );
        if (start < 0)
            return null;
        var end = Array.FindIndex(lines, start + 1, l => l.Length > 0 && !char.IsWhiteSpace(l[0]) && l[0] != '#');
        var entry = lines[start..(end < 0 ? lines.Length : end)];
        return string.Join('\n', entry).TrimEnd() + "\n";
    }

    [GeneratedRegex("^[\"']?([A-Za-z0-9_.-]+)[\"']?\\s*:")]
    private static partial Regex EntryName();
}
