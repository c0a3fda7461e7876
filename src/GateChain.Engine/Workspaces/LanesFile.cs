using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Engine.Workspaces;

/// <summary><c>lanes.yaml</c>: named limits on how many steps run at once across all runs.</summary>
public sealed class LanesFile
{
    readonly Dictionary<string, int> _widths = [];
    readonly Dictionary<string, Span> _spans = [];

    /// <summary>Where a lane stands in the file.</summary>
    public Span SpanOf(string lane) => _spans[lane];

    /// <summary>How many steps a lane lets in at once, by name.</summary>
    public IReadOnlyDictionary<string, int> Widths => _widths;

    /// <summary>Reads the file; what is wrong goes to <paramref name="problems"/>.</summary>
    public static LanesFile Read(string text, ProblemList problems)
    {
        var lanes = new LanesFile();
        foreach (var (name, span, entries) in WorkspaceYaml.Sections(text, problems))
        {
            foreach (var (key, entry) in entries.Where(e => e.Key != "width"))
            {
                problems.Add(
                    ProblemKinds.UnknownKey,
                    entry.Span,
                    $"a lane has no key “{key}”",
                    Nearest.Fix(key, ["width"]) ?? "known here: width"
                );
            }

            if (!entries.TryGetValue("width", out var width))
            {
                problems.Add(
                    ProblemKinds.MissingKey,
                    span,
                    $"lane “{name}” needs “width”: how many steps run in it at once"
                );
            }
            else if (width.Value is { Kind: ValueKind.Int, AsInt: >= 1 and <= 10_000 })
            {
                lanes._widths[name] = (int)width.Value.AsInt;
                lanes._spans[name] = span;
            }
            else
            {
                problems.Add(ProblemKinds.WrongShape, width.Span, $"“width” is a whole number from 1 to 10000");
            }
        }
        return lanes;
    }
}
