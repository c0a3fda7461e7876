using System.Reflection;
using System.Runtime.Loader;
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
        ["GateChain.Access"] = ["GateChain.Core", "GateChain.Storage"],
        ["GateChain.Core"] = [],
        ["GateChain.Client"] = [],
        ["GateChain.Kinds"] = ["GateChain.Core"],
        ["GateChain.Storage"] = ["GateChain.Core"],
        ["GateChain.Storage.Sql"] = ["GateChain.Storage"],
        ["GateChain.Storage.Sqlite"] = ["GateChain.Storage.Sql"],
        ["GateChain.Storage.Postgres"] = ["GateChain.Storage.Sql"],
        ["GateChain.Engine"] = ["GateChain.Core", "GateChain.Kinds", "GateChain.Storage"],
        ["GateChain.Cluster"] = ["GateChain.Engine"],
        ["GateChain.Service"] =
        [
            "GateChain.Access",
            "GateChain.Client",
            "GateChain.Cluster",
            "GateChain.Engine",
            "GateChain.Storage.Postgres",
            "GateChain.Storage.Sqlite",
        ],
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

    /// <summary>
    /// Folders, the root among them, by the types they use: what the compiler has written down, not what a using line
    /// promises.
    /// </summary>
    [Fact]
    public void FoldersOfAProjectFormNoCircle()
    {
        var circles = new List<string>();
        foreach (var project in Allowed.Keys)
        {
            var uses = UsedTypes
                .Of(BuiltOf(project))
                .Select(use => (From: Folder(project, use.By), To: Folder(project, use.Used), use))
                .Where(u => u.From != u.To && u.From is not null && u.To is not null)
                .ToLookup(u => u.From!, u => (To: u.To!, u.use));
            foreach (var start in uses.Select(u => u.Key))
            {
                // The shortest way back names the types that make the circle.
                var queue = new Queue<(string At, string Way)>([(start, "")]);
                var seen = new HashSet<string>();
                while (queue.TryDequeue(out var next))
                {
                    foreach (var (to, use) in uses[next.At].DistinctBy(u => u.To))
                    {
                        var way = $"{next.Way}\n  {use.By.Name} ({next.At}) uses {use.Used.Name} ({to})";
                        if (to == start)
                            circles.Add($"{project}:{way}");
                        else if (seen.Add(to))
                            queue.Enqueue((to, way));
                    }
                }
            }
        }
        Assert.True(circles.Count == 0, string.Join("\n", circles));
    }

    static readonly BuiltProgram Built = new();

    /// <summary>The program's assemblies with what they are built against, which may be newer than what tests have.
    /// </summary>
    sealed class BuiltProgram() : AssemblyLoadContext("the program")
    {
        readonly AssemblyDependencyResolver _files = new(Place.Program + ".dll");

        protected override Assembly? Load(AssemblyName assemblyName) =>
            _files.ResolveAssemblyToPath(assemblyName) is { } path ? LoadFromAssemblyPath(path) : null;
    }

    // The command line's assembly has the name of its program.
    static Assembly BuiltOf(string project) =>
        Built.LoadFromAssemblyPath(
            Path.Combine(
                Path.GetDirectoryName(Place.Program)!,
                (project == "GateChain.Cli" ? "gatechain" : project) + ".dll"
            )
        );

    // The folder is the first part of the namespace behind the project's; null for what the compiler makes.
    static string? Folder(string project, Type type) =>
        type.Namespace is null || !type.Namespace.StartsWith(project, StringComparison.Ordinal) ? null
        : type.Namespace.Length == project.Length ? "root"
        : type.Namespace[(project.Length + 1)..].Split('.')[0];

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
            Assert.All(Delay().Matches(text), m => Assert.Matches(@"\b_?[tT]ime\b", m.Value));
        }
    }

    [GeneratedRegex(@"Task\.Delay\([^;]*?(?=\)\.ConfigureAwait|\);)\)")]
    private static partial Regex Delay();

    [Fact]
    public void LinesEndAt120()
    {
        // The formatters ensure code; comments and texts they leave as they are. What stands between """ is as it has
        // to be.
        var tooLong = new List<string>();
        foreach (var (path, file) in Written())
        {
            var own = file.EndsWith(".cs", StringComparison.Ordinal) ? CodeLine() : CommentLine();
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

    [Fact]
    public void FilesAreShort() =>
        // A grammar is read as a whole.
        Assert.Empty(
            Written()
                .Where(f =>
                    f.Path != "src/GateChain.Core/Expressions/Parser.cs" && File.ReadLines(f.File).Count() > 400
                )
                .Select(f => f.Path)
        );

    // Code that people write: what is generated is left out.
    static IEnumerable<(string Path, string File)> Written()
    {
        string[] folders = ["src", "tests", "bench", "standins", "console/src"];
        return folders
            .SelectMany(f => Directory.EnumerateFiles(Path.Combine(Place.Root, f), "*.*", SearchOption.AllDirectories))
            .Select(f => (Path.GetRelativePath(Place.Root, f), f))
            .Where(f =>
                Path.GetExtension(f.f) is ".cs" or ".ts" or ".tsx"
                && !f.Item1.Contains("node_modules", StringComparison.Ordinal)
                && !f.Item1.EndsWith("schema.d.ts", StringComparison.Ordinal)
            );
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
        Assert.Equal(["Ical.Net", "YamlDotNet"], packages);
    }

    [Fact]
    public void TheCatalogueOfProblemsIsInTheDocs()
    {
        var docs = File.ReadAllText(Path.Combine(Place.Root, "docs/problems.md"));
        var source = File.ReadAllText(Path.Combine(Source("GateChain.Core"), "Problems/ProblemKinds.cs"));
        foreach (Match code in Regex.Matches(source, "GC[0-9]{4}"))
            Assert.Contains($"| {code.Value} |", docs);
    }

    [GeneratedRegex(@"^\s*//.*$", RegexOptions.Multiline)]
    private static partial Regex Comment();
}
