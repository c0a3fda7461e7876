using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Chains.Reading;

/// <summary>Reads which hints are put to rest, and why: <c>quiet: { GC1301: the night shift looks }</c>.</summary>
static class QuietHintReader
{
    static readonly string[] Codes =
    [
        .. ProblemKinds.All.Where(k => k.Severity == Severity.Hint).Select(k => k.Code).Order(StringComparer.Ordinal),
    ];

    public static IReadOnlyDictionary<string, string> Read(MapReader map, ProblemList problems)
    {
        if (map.Inner("quiet") is not { } quiet)
            return QuietHints.None;
        var found = new Dictionary<string, string>();
        foreach (var (code, node) in quiet.Map.Entries)
        {
            if (!Codes.Contains(code.Text))
            {
                problems.Add(
                    ProblemKinds.UnknownChoice,
                    code.Span,
                    $"only hints can be put to rest ({string.Join(", ", Codes)}), and “{code.Text}” is none",
                    Nearest.Fix(code.Text, Codes)
                );
            }
            else if (node is not ScalarNode { IsNull: false } reason || string.IsNullOrWhiteSpace(reason.Text))
            {
                problems.Add(
                    ProblemKinds.WrongShape,
                    node?.Span ?? code.Span,
                    $"“{code.Text}” needs a reason, as text"
                );
            }
            else
            {
                found[code.Text] = reason.Text;
            }
        }
        return found;
    }
}
