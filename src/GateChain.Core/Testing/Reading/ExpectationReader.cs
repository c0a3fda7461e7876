using GateChain.Core.Chains;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Rehearsing;
using GateChain.Core.Values;

namespace GateChain.Core.Testing.Reading;

/// <summary>Reads what is expected of a case.</summary>
sealed class ExpectationReader(Chain chain, StepsKnown steps, ProblemList problems)
{
    static readonly string[] RunWords = ["succeeded", "failed", "stopped", "paused"];

    static readonly string[] StepWords =
    [
        "succeeded",
        "failed",
        "skipped",
        "stopped",
        "held",
        "paused",
        CaseRun.NotReached,
    ];

    public Expectations Read(MapReader map)
    {
        var expect = new Expectations
        {
            Outcome = Word(map.Scalar("outcome"), RunWords),
            Error = map.Scalar("error") is { } error ? (error.Text, error.Span) : null,
            Steps = [.. Steps(map.Inner("steps"))],
            Attempts = [.. Attempts(map.Inner("attempts"))],
            Gates = [.. Gates(map.List("gates"))],
            Order =
            [
                .. map.OneOrMore("order")
                    .Where(p => steps.Find(p, problems) is not null)
                    .Select(p => (new StepPattern(p.Text), p.Span)),
            ],
            Outputs = [.. Values(map.Inner("outputs"), "output", n => chain.Outputs.Any(o => o.Name == n), _ => null)],
            Vars =
            [
                .. Values(
                    map.Inner("vars"),
                    "variable",
                    n => chain.Root.Variables.Any(v => v.Name == n),
                    n => chain.Root.Variables.FirstOrDefault(v => v.Name == n)?.Type
                ),
            ],
            Settings = [.. Settings(map.Inner("settings"), false), .. Settings(map.Inner("says"), true)],
            Holds =
            [
                .. map.OneOrMore("holds").Select(n => MapReader.ExpressionOf(n, problems)).OfType<SourceExpression>(),
            ],
        };
        map.End();
        return expect;
    }

    (string, Span)? Word(ScalarNode? word, string[] words)
    {
        if (word is null)
            return null;
        if (words.Contains(word.Text))
            return (word.Text, word.Span);
        problems.Add(
            ProblemKinds.UnknownChoice,
            word.Span,
            $"expected one of {string.Join(", ", words)}, and this is “{word.Text}”",
            Nearest.Fix(word.Text, words)
        );
        return null;
    }

    IEnumerable<(StepPattern, string, Span)> Steps(MapReader? map)
    {
        foreach (var (path, node) in map?.Map.Entries ?? [])
        {
            if (steps.Find(path, problems) is null)
                continue;
            if (node is not ScalarNode word)
                problems.Add(ProblemKinds.WrongShape, node.Span, $"a word is written here, and this is {node.Word}");
            else if (Word(word, StepWords) is var (text, span))
                yield return (new(path.Text), text, span);
        }
    }

    IEnumerable<(StepPattern, long, Span)> Attempts(MapReader? map)
    {
        foreach (var (path, node) in map?.Map.Entries ?? [])
        {
            if (steps.Find(path, problems) is null)
                continue;
            if (PlainValues.Of(node) is { Kind: ValueKind.Int, AsInt: >= 0 and var count })
                yield return (new(path.Text), count, node.Span);
            else
                problems.Add(ProblemKinds.WrongShape, node.Span, $"a number of attempts is written here");
        }
    }

    IEnumerable<ExpectedGate> Gates(SequenceNode? list)
    {
        foreach (var item in list?.Items ?? [])
        {
            if (MapReader.Of(item, problems, "a gate") is not { } map)
                continue;
            var (from, to, within, branch) = (
                map.RequiredScalar("from"),
                map.RequiredScalar("to"),
                map.Scalar("in"),
                map.Text("branch")
            );
            var open = map.Choice("is", true, ("open", true), ("shut", false));
            map.End();
            if (from is null || to is null)
                continue;
            var gate = new ExpectedGate(within?.Text ?? "", from.Text, to.Text, branch, open, from.Span);
            var address = within is null ? "" : new StepPath(within.Text).Address.Text;
            var scope = Scopes.All(chain).FirstOrDefault(s => s.Address == address);
            if (scope is null)
            {
                problems.Add(ProblemKinds.UnknownInTest, within!.Span, $"nothing holds steps at “{within.Text}”");
            }
            else if (!scope.Gates.Any(gate.IsOf))
            {
                problems.Add(
                    ProblemKinds.UnknownInTest,
                    from.Span,
                    $"no gate leads from “{from.Text}” to “{to.Text}”"
                        + $"{(branch is null ? "" : $" by the branch “{branch}”")}",
                    Nearest.Fix(from.Text, scope.Steps.Select(s => s.Id))
                );
            }
            else
            {
                yield return gate;
            }
        }
    }

    IEnumerable<(string, Value, Span)> Values(
        MapReader? map,
        string what,
        Func<string, bool> isThere,
        Func<string, CelType?> typeOf
    )
    {
        foreach (var (name, node) in map?.Map.Entries ?? [])
        {
            if (!isThere(name.Text))
            {
                problems.Add(ProblemKinds.UnknownInTest, name.Span, $"“{chain.Name}” has no {what} “{name.Text}”");
                continue;
            }
            var (value, problem) = Conversion.To(typeOf(name.Text) ?? CelType.Dyn, PlainValues.Of(node));
            if (value is { } typed)
                yield return (name.Text, typed, node.Span);
            else
                problems.Add(ProblemKinds.WrongShape, node.Span, $"“{name.Text}”: {problem}");
        }
    }

    IEnumerable<ExpectedSetting> Settings(MapReader? map, bool contains)
    {
        foreach (var (path, node) in map?.Map.Entries ?? [])
        {
            if (steps.Find(path, problems) is null || MapReader.Of(node, problems, $"“{path.Text}”") is not { } said)
                continue;
            foreach (var (setting, value) in said.Map.Entries)
            {
                var expected = PlainValues.Of(value);
                yield return new(
                    new(path.Text),
                    setting.Text,
                    contains ? Value.String(ValueText.ToPlainString(expected)) : expected,
                    contains,
                    setting.Span
                );
            }
        }
    }
}
