using System.Text.Json;
using System.Text.Json.Serialization;
using GateChain.Core.Problems;

namespace GateChain.Cli.Terminal;

/// <summary>Problems as a report that code hosts read.</summary>
/// <remarks>Source: OASIS Static Analysis Results Interchange Format (SARIF) 2.1.0.</remarks>
static class SarifReport
{
    static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    sealed record Text([property: JsonPropertyName("text")] string Value);

    sealed record Log([property: JsonPropertyName("$schema")] string Schema, string Version, IReadOnlyList<Run> Runs);

    sealed record Run(Tool Tool, string ColumnKind, IReadOnlyList<Result> Results);

    sealed record Tool(Driver Driver);

    sealed record Driver(string Name, string Version, IReadOnlyList<Rule> Rules);

    sealed record Rule(string Id, Text ShortDescription, Text Help, Configuration DefaultConfiguration);

    sealed record Configuration(string Level);

    sealed record Result(string RuleId, int RuleIndex, string Level, Text Message, IReadOnlyList<Location> Locations);

    sealed record Location(PhysicalLocation PhysicalLocation);

    sealed record PhysicalLocation(Artifact ArtifactLocation, Region Region);

    sealed record Artifact(string Uri);

    sealed record Region(int StartLine, int StartColumn, int EndLine, int EndColumn);

    public static string Of(IReadOnlyList<Problem> problems)
    {
        var kinds = ProblemKinds.All.ToList();
        var version = typeof(SarifReport).Assembly.GetName().Version!.ToString(3);
        var rules = kinds
            .Select(k => new Rule(k.Code, new(k.Title), new($"{k.Help} See {k.Docs}."), new(Level(k.Severity))))
            .ToList();
        var results = problems
            .Select(p => new Result(
                p.Code,
                kinds.IndexOf(p.Kind),
                Level(p.Kind.Severity),
                new(p.Fix is null ? p.Message : $"{p.Message} ({p.Fix})"),
                [new(new(new(Uri(p.File)), new(p.Line, p.Column, p.End.Line, p.End.Column)))]
            ))
            .ToList();
        return JsonSerializer.Serialize(
            new Log(
                "https://json.schemastore.org/sarif-2.1.0.json",
                "2.1.0",
                [new(new(new("Gate Chain", version, rules)), "unicodeCodePoints", results)]
            ),
            Options
        );
    }

    static string Level(Severity severity) =>
        severity switch
        {
            Severity.Error => "error",
            Severity.Warning => "warning",
            _ => "note",
        };

    // Relative paths stay relative, so that a code host finds the file in its checkout.
    static string Uri(string file) =>
        string.Join('/', file.Split(Path.DirectorySeparatorChar).Select(System.Uri.EscapeDataString));
}
