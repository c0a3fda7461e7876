using System.Text.RegularExpressions;
using System.Xml.Linq;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd;

/// <summary>
/// The rules of docs/architecture.md: which projects may know which, no circles between folders, and a core without
/// I/O.
/// </summary>
public partial class HouseRulesTests
{
    static readonly Dictionary<string, string[]> Allowed = new()
    {
        ["GateChain.Core"] = [],
        ["GateChain.Client"] = [],
        ["GateChain.Kinds"] = ["GateChain.Core"],
        ["GateChain.Storage"] = ["GateChain.Core"],
        ["GateChain.Engine"] = ["GateChain.Core", "GateChain.Kinds", "GateChain.Storage"],
        ["GateChain.Service"] = ["GateChain.Engine", "GateChain.Client"],
        ["GateChain.Cli"] = ["GateChain.Client", "GateChain.Service"],
    };

    static string Source(string project) => Path.Combine(Place.Root, "src", project);

    [Fact]
    public void ProjectsKnowOnlyWhomTheyMay()
    {
        Assert.Equal(
            Allowed.Keys.Order(),
            Directory.GetDirectories(Path.Combine(Place.Root, "src")).Select(Path.GetFileName).Order()
        );
        foreach (var (project, allowed) in Allowed)
        {
            var references = XDocument
                .Load(Path.Combine(Source(project), project + ".csproj"))
                .Descendants("ProjectReference")
                .Select(r => Path.GetFileNameWithoutExtension(r.Attribute("Include")!.Value));
            Assert.Empty(references.Except(allowed));
        }
    }

    [Fact]
    public void FoldersOfAProjectFormNoCircle()
    {
        foreach (var project in Allowed.Keys)
        {
            var uses = new Dictionary<string, HashSet<string>>();
            foreach (var file in Files(project))
            {
                var folder = Folder(
                    project,
                    Path.GetDirectoryName(Path.GetRelativePath(Source(project), file))!.Replace('/', '.')
                );
                foreach (Match match in Using().Matches(File.ReadAllText(file)))
                {
                    var name = match.Groups[1].Value;
                    if (!name.StartsWith(project + ".", StringComparison.Ordinal))
                        continue;
                    var used = Folder(project, name[(project.Length + 1)..]);
                    if (used != folder && folder.Length > 0)
                    {
                        (uses.TryGetValue(folder, out var set) ? set : uses[folder] = []).Add(used);
                    }
                }
            }
            foreach (var start in uses.Keys)
            {
                var seen = new HashSet<string>();
                var queue = new Queue<string>(uses[start]);
                while (queue.TryDequeue(out var folder))
                {
                    Assert.True(
                        folder != start,
                        $"{project}: {start} uses {string.Join(", ", uses[start])}, which leads back to it"
                    );
                    if (seen.Add(folder))
                    {
                        foreach (var next in uses.GetValueOrDefault(folder) ?? [])
                            queue.Enqueue(next);
                    }
                }
            }
        }
    }

    static string Folder(string project, string path) => path.Split('.')[0];

    static IEnumerable<string> Files(string project) =>
        Directory.EnumerateFiles(Source(project), "*.cs", SearchOption.AllDirectories);

    [Fact]
    public void TheEngineHasOneClock()
    {
        foreach (var file in Files("GateChain.Engine"))
        {
            var text = Comment().Replace(File.ReadAllText(file), "");
            Assert.DoesNotMatch(
                @"\.UtcNow\b|TimeProvider\.System|Stopwatch|Thread\.Sleep|\bnew Timer\(|Environment\.Tick",
                text
            );
            Assert.All(Delay().Matches(text), m =>
                Assert.EndsWith("Time)", m.Value.TrimEnd(')') + ")", StringComparison.Ordinal)
            );
        }
    }

    [GeneratedRegex(@"Task\.Delay\([^;]*?(?=\)\.ConfigureAwait|\);)\)")]
    private static partial Regex Delay();

    [Fact]
    public void LinesEndAt120()
    {
        // The formatters see to code; comments and texts they leave as they are. What stands between """ is as it has
        // to be.
        var tooLong = new List<string>();
        string[] folders = ["src", "tests", "bench", "standins", "console/src"];
        foreach (
            var file in folders.SelectMany(f =>
                Directory.EnumerateFiles(Path.Combine(Place.Root, f), "*.*", SearchOption.AllDirectories)
            )
        )
        {
            var path = Path.GetRelativePath(Place.Root, file);
            var own = Path.GetExtension(file) switch
            {
                ".cs" => CodeLine(),
                ".ts" or ".tsx" => CommentLine(),
                _ => null,
            };
            if (
                own is null
                || path.Contains("node_modules", StringComparison.Ordinal)
                || path.EndsWith("schema.d.ts", StringComparison.Ordinal)
            )
            {
                continue;
            }
            var isRaw = false;
            foreach (var (index, line) in File.ReadLines(file).Index())
            {
                var quotes = RawQuotes().Count(line);
                if (line.Length > 120 && !isRaw && quotes == 0 && own.IsMatch(line))
                {
                    tooLong.Add($"{path}:{index + 1}");
                }
                isRaw ^= quotes % 2 == 1;
            }
        }
        Assert.Empty(tooLong);
    }

    [GeneratedRegex(".")]
    private static partial Regex CodeLine();

    [GeneratedRegex(@"^\s*(//|/\*\*|\*)")]
    private static partial Regex CommentLine();

    [GeneratedRegex("\"\"\"")]
    private static partial Regex RawQuotes();

    [Fact]
    public void TheCoreTouchesNothingOutside()
    {
        // No clock, no chance, no ids, no files, no network, no tasks.
        foreach (var file in Files("GateChain.Core"))
        {
            var text = Comment().Replace(File.ReadAllText(file), "");
            Assert.DoesNotMatch(
                @"\bTask\b|\basync\b|Thread\.|DateTime(Offset)?\.(Utc)?Now|TimeProvider|new Random|Guid\.NewGuid|"
                    + @"Environment\.|\bFile\.(Read|Write|Open|Exists)|Directory\.|HttpClient|System\.Net\b|Console\.|Process\.",
                text
            );
        }
        var packages = XDocument
            .Load(Path.Combine(Source("GateChain.Core"), "GateChain.Core.csproj"))
            .Descendants("PackageReference")
            .Select(p => p.Attribute("Include")!.Value);
        Assert.Equal(["YamlDotNet"], packages);
    }

    [Fact]
    public void TheCatalogueOfProblemsIsInTheDocs()
    {
        var docs = File.ReadAllText(Path.Combine(Place.Root, "docs/problems.md"));
        var source = File.ReadAllText(Path.Combine(Source("GateChain.Core"), "Problems/ProblemKinds.cs"));
        foreach (Match code in Regex.Matches(source, "GC[0-9]{4}"))
            Assert.Contains($"| {code.Value} |", docs);
    }

    [GeneratedRegex(@"^using (GateChain\.[\w.]+);", RegexOptions.Multiline)]
    private static partial Regex Using();

    [GeneratedRegex(@"^\s*//.*$", RegexOptions.Multiline)]
    private static partial Regex Comment();
}
