using System.Text.Json;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Conformance;

/// <summary>
/// Our expressions against the open CEL conformance suite, which <c>tests/conformance/fetch.sh</c> brings.
/// </summary>
public sealed class ConformanceTests(ITestOutputHelper output)
{
    static readonly Lazy<IReadOnlyList<CelCase>> Cases = new(() =>
    {
        for (var folder = new DirectoryInfo(AppContext.BaseDirectory); folder is not null; folder = folder.Parent)
        {
            var file = Path.Combine(folder.FullName, "artifacts", "conformance", "cases.json");
            if (File.Exists(file))
            {
                return
                [
                    .. JsonDocument
                        .Parse(File.ReadAllBytes(file))
                        .RootElement.EnumerateArray()
                        .Select(c => new CelCase(c)),
                ];
            }
        }
        throw new InvalidOperationException(
            "the conformance cases are not there; tests/conformance/fetch.sh brings them"
        );
    });

    internal static IReadOnlyList<CelCase> All => Cases.Value;

    /// <summary>How many cases of a group fail, where some do; it must not get worse.</summary>
    static readonly Dictionary<string, int> Known = [];

    public static TheoryData<string> Groups => [.. Cases.Value.Select(c => c.Group).Distinct()];

    [Fact]
    public void TheSuiteIsWhole() => Assert.InRange(Cases.Value.Count, 2700, 3200);

    [Theory]
    [MemberData(nameof(Groups))]
    public void EveryCasePasses(string group)
    {
        var cases = Cases.Value.Where(c => c.Group == group).ToList();
        var kept = cases.Where(c => !c.HoldsMessage && HasExpectation(c)).ToList();
        var failures = kept.Select(c => (Case: c, Why: Run(c))).Where(r => r.Why is not null).ToList();
        output.WriteLine(
            $"cel {group}: {kept.Count - failures.Count} passed, {failures.Count} failed, "
                + $"{cases.Count - kept.Count} left out"
        );
        Assert.True(
            failures.Count <= Known.GetValueOrDefault(group),
            string.Join("\n", failures.Select(f => $"{f.Case}\n    {f.Why}"))
        );
    }

    // Of parsing and checking cases that the reference refuses, the suite calls the refusal informative only. Its
    // comprehension cases carry no outcome: those that check are statements that have to be true.
    static bool HasExpectation(CelCase test) =>
        test.Kind switch
        {
            "conformance" => true,
            "comprehension" => !test.LacksEnvironment
                && Expression.Parse(test.Text).Expression?.Check(CelType.Object(new Dictionary<string, CelType>()))
                    is ({ Name: "bool" }, { Count: 0 }),
            "checking" => test.Parses && !test.LacksEnvironment,
            _ => test.Parses,
        };

    static string? Run(CelCase test) =>
        test.Kind switch
        {
            "conformance" => Conforms(test),
            "comprehension" => Gives(test),
            _ => Checks(test),
        };

    static string? Conforms(CelCase test)
    {
        var (expression, problem) = Expression.Parse(test.Text);
        if (expression is null)
            return test.FailsToEvaluate ? null : $"does not parse: {problem!.Message}";
        if (test.IsChecked && TypeProblem(test, expression) is { } wrong)
            return wrong;
        if (!test.IsEvaluated)
            return null;
        var value = expression.Evaluate(test.Names);
        if (test.FailsToEvaluate)
            return value.IsError ? null : $"gives {value} instead of an error";
        return CelValue.Same(test.Expected, value) ? null : $"gives {value}, not {test.Expected}";
    }

    static string? TypeProblem(CelCase test, Expression expression)
    {
        var (scope, functions) = test.Environment;
        var checker = new Checker(scope, functions);
        var type = checker.Check(expression.Tree);
        if (checker.Problems.Count > 0)
            return test.FailsToEvaluate ? null : $"does not check: {checker.Problems[0].Message}";
        if (test.DeducedType is { } deduced && deduced != type.ToString())
            return $"is a {type}, not a {deduced}";
        return null;
    }

    // The cases of the reference parser and checker have no environment and no value: what they took we take, with
    // their type.
    static string? Checks(CelCase test)
    {
        var (expression, problem) = Expression.Parse(test.Text);
        if (expression is null)
            return $"does not parse: {problem!.Message}";
        if (
            test.Ast is { } ast
            && AstText.WithoutBlanks(ast) is var expected
            && AstText.Of(expression.Tree) is var ours
            && ours != expected
        )
        {
            return $"is read as {ours}, not {expected}";
        }
        if (test.Type is null || test.LacksEnvironment)
            return null;
        var checker = new Checker(CelType.Object(new Dictionary<string, CelType>()));
        var type = CelValue.Words(checker.Check(expression.Tree));
        return checker.Problems.Count > 0 ? $"does not check: {checker.Problems[0].Message}"
            : type == test.Type ? null
            : $"is a {type}, not a {test.Type}";
    }

    static string? Gives(CelCase test)
    {
        var (expression, problem) = Expression.Parse(test.Text);
        if (expression is null)
            return $"does not parse: {problem!.Message}";
        var value = expression.Evaluate(new DictionaryBindings(new Dictionary<string, Value>()));
        return value.IsTrue ? null : $"gives {value}, not true";
    }
}
