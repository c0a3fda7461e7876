using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Scheduling.Calendars;
using GateChain.Core.Triggers;
using GateChain.Core.Triggers.Reading;
using GateChain.Kinds;
using GateChain.Kinds.Connections;

namespace GateChain.Engine.Workspaces;

/// <summary>What the chains of a folder can name of what stands in files beside them. Immutable.</summary>
/// <param name="Connections">Those of the folder and of the folders around it; the nearest of a name.</param>
/// <param name="Profiles">Their values: those of the folder, and of the folders around it what it does not say
/// itself.</param>
/// <param name="Lanes">The names of those of the folder and of the folders around it.</param>
/// <param name="Calendars">Those of the folder and of the folders around it; the nearest of a name.</param>
public sealed record AreaFiles(
    ConnectionsFile Connections,
    Profiles Profiles,
    IReadOnlySet<string> Lanes,
    CalendarsFile Calendars
)
{
    /// <summary>There are no files.</summary>
    public static AreaFiles None { get; } = new(new(), new(), new HashSet<string>(), CalendarsFile.None);
}

/// <summary>
/// The files that stand beside the chains, read: <c>connections.yaml</c>, <c>profiles.yaml</c>, <c>lanes.yaml</c>,
/// <c>calendars.yaml</c> and <c>triggers.yaml</c> may lie in any folder of the workspace, and hold there and below.
/// Immutable.
/// </summary>
sealed class WorkspaceFiles
{
    /// <summary>Their names.</summary>
    public const string ConnectionsName = "connections.yaml",
        ProfilesName = "profiles.yaml",
        LanesName = "lanes.yaml",
        CalendarsName = "calendars.yaml",
        TriggersName = "triggers.yaml";

    // Only folders that have such a file; what is seen in others is what the nearest one above sees.
    readonly Dictionary<Area, AreaFiles> _areas = new() { [Area.Root] = AreaFiles.None };
    readonly Dictionary<string, (int Width, string File)> _lanes = [];
    readonly List<TriggersIn> _triggers = [];

    /// <summary>There are none.</summary>
    public static WorkspaceFiles None { get; } = new([], KindDescriptions.Catalogue, _ => { });

    /// <summary>The triggers of one file.</summary>
    /// <param name="Problems">What is wrong with the file, as far as it can be told from the file alone.</param>
    /// <param name="Triggers">Those that can be read.</param>
    public sealed record TriggersIn(ProblemList Problems, IReadOnlyList<TriggerDefinition> Triggers);

    /// <param name="files">Paths and contents; others than these files, and those that they name, are left out.</param>
    /// <param name="kinds">The probes that there are.</param>
    /// <param name="found">Gets what is wrong with one of them.</param>
    /// <param name="isSecretSet">Whether a secret of a name is set for a folder; null where secrets are not
    /// known.</param>
    public WorkspaceFiles(
        IEnumerable<(string Path, string Text)> files,
        KindCatalogue kinds,
        Action<ProblemList> found,
        Func<string, Area, bool>? isSecretSet = null
    )
    {
        var contents = files.ToDictionary(f => f.Path, f => f.Text);
        // From the outside in: a file says more than, or other than, those of the folders around it.
        foreach (
            var area in files
                .Where(f => IsOne(f.Path))
                .GroupBy(f => Area.OfFile(f.Path))
                .OrderBy(a => a.Key.Path.Length)
        )
        {
            var outer = In(area.Key);
            T Read<T>(string name, T otherwise, Func<string, ProblemList, T> read)
            {
                var (path, text) = area.FirstOrDefault(f => f.Path == area.Key.File(name));
                if (path is null)
                    return otherwise;
                var problems = new ProblemList(path, text);
                var result = read(text, problems);
                found(problems);
                return result;
            }
            _areas[area.Key] = new(
                Read(ConnectionsName, outer.Connections, (text, problems) =>
                    ConnectionsFile
                        .Read(text, problems, AllConnections.Types, isSecretSet, area.Key)
                        .Over(outer.Connections)
                ),
                Read(ProfilesName, outer.Profiles, (text, problems) => Profiles.Read(text, problems, outer.Profiles)),
                Read(LanesName, outer.Lanes, (text, problems) =>
                    outer.Lanes.Concat(AddLanes(area.Key.File(LanesName), text, problems)).ToHashSet()
                ),
                Read(CalendarsName, outer.Calendars, (text, problems) =>
                    CalendarsFile.Read(text, problems, outer.Calendars, Attachment)
                )
            );
            var path = area.Key.File(TriggersName);
            if (contents.TryGetValue(path, out var said))
            {
                var problems = new ProblemList(path, said);
                var calendars = _areas[area.Key].Calendars;
                _triggers.Add(new(problems, TriggersFile.Read(said, area.Key, problems, kinds, calendars, Attachment)));
            }

            string? Attachment(string name) =>
                area
                    .Key.Upward.Select(a => contents.GetValueOrDefault(a.File(name)))
                    .FirstOrDefault(t => t is not null);
        }
        foreach (var file in _triggers)
        {
            foreach (var trigger in file.Triggers)
            {
                if (!_names.TryAdd(trigger.Name, file.Problems.File))
                {
                    file.Problems.Add(
                        ProblemKinds.DoubleKey,
                        trigger.Span,
                        $"the trigger “{trigger.Name}” is already in {_names[trigger.Name]}",
                        "give one of them another name: keys and state belong to it"
                    );
                }
            }
        }
    }

    // In which file each trigger is.
    readonly Dictionary<string, string> _names = [];

    /// <summary>The triggers, by file.</summary>
    public IReadOnlyList<TriggersIn> Triggers => _triggers;

    /// <summary>Adds what is wrong with the triggers when they are held to the chains that they start.</summary>
    /// <param name="interfaces">What the chains take and give, by name.</param>
    /// <param name="profiles">The profiles where a chain lies.</param>
    /// <param name="isSecretSet">Whether a secret of a name is set for a folder; null where secrets are not
    /// known.</param>
    public void CheckTriggers(
        IReadOnlyDictionary<string, ChainInterface> interfaces,
        Func<string, Profiles> profiles,
        Func<string, Area, bool>? isSecretSet
    )
    {
        var all = _triggers.SelectMany(f => f.Triggers).ToList();
        foreach (var (problems, triggers) in _triggers)
        {
            foreach (var trigger in triggers)
            {
                var connections = In(trigger.Area).Connections.Types;
                TriggerCheck.Check(
                    trigger,
                    new(interfaces, chain => profiles(chain).All, connections, isSecretSet),
                    problems
                );
                TriggerCheck.CheckCircle(all, trigger, problems);
            }
        }
    }

    /// <summary>The paths of the files that these files name.</summary>
    public static IEnumerable<string> NamedBy(IEnumerable<(string Path, string Text)> files, Func<string, bool> exists)
    {
        foreach (var (path, text) in files)
        {
            var names = path[(path.LastIndexOf('/') + 1)..] switch
            {
                CalendarsName => CalendarsFile.AttachmentsIn(text),
                TriggersName => TriggersFile.AttachmentsIn(text),
                _ => [],
            };
            foreach (var name in names)
            {
                if (Area.OfFile(path).Upward.Select(a => a.File(name)).FirstOrDefault(exists) is { } found)
                    yield return found;
            }
        }
    }

    IEnumerable<string> AddLanes(string file, string text, ProblemList problems)
    {
        var lanes = LanesFile.Read(text, problems);
        foreach (var (name, width) in lanes.Widths)
        {
            // A lane is for all runs of the service: its name says which one it is.
            if (!_lanes.TryAdd(name, (width, file)))
            {
                problems.Add(
                    ProblemKinds.DoubleKey,
                    lanes.SpanOf(name),
                    $"the lane “{name}” is already in {_lanes[name].File}",
                    "give one of them another name, or declare it in a folder around both"
                );
            }
        }
        return lanes.Widths.Keys;
    }

    /// <summary>Whether a file is one of these.</summary>
    public static bool IsOne(string path) =>
        path[(path.LastIndexOf('/') + 1)..]
            is ConnectionsName
                or ProfilesName
                or LanesName
                or CalendarsName
                or TriggersName;

    /// <summary>What the chains of a folder can name.</summary>
    public AreaFiles In(Area area)
    {
        AreaFiles? found;
        // Asked for by every attempt. The workspace itself is always there.
        while (!_areas.TryGetValue(area, out found))
            area = area.Parent!.Value;
        return found;
    }

    /// <summary>The folders that have files of their own, the workspace itself among them.</summary>
    public IEnumerable<Area> Areas => _areas.Keys.OrderBy(a => a.Path, StringComparer.Ordinal);

    /// <summary>How many steps may be in a lane at once, by its name.</summary>
    public IReadOnlyDictionary<string, int> Lanes => _lanes.ToDictionary(l => l.Key, l => l.Value.Width);

    /// <summary>Every connection that is declared, those of the same name in several folders too.</summary>
    public IEnumerable<Connection> Connections => Areas.SelectMany(a => In(a).Connections.All.Where(c => c.Area == a));
}
