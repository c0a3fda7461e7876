using GateChain.Core.Chains;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Testing.Reading;

/// <summary>Reads <c>NAME.test.yaml</c>: the tests of a chain. Never throws for bad input.</summary>
public static class TestsFile
{
    /// <summary>How their files end.</summary>
    public const string Ending = ".test.yaml";

    // A case plays then when it does not say otherwise: a day like any other.
    static readonly DateTimeOffset Usual = new(2026, 1, 15, 6, 0, 0, TimeSpan.Zero);

    /// <summary>The tests of a file, as far as they can be read; null when it names no chain that is there.</summary>
    /// <param name="text">Its content.</param>
    /// <param name="problems">Gets what is wrong.</param>
    /// <param name="chains">The chains there are; null for one that is not there.</param>
    /// <param name="names">Their names, for whom one is mistaken.</param>
    /// <param name="profiles">The names of the profiles of a chain.</param>
    public static ChainTests? Read(
        string text,
        ProblemList problems,
        Func<CalledChain, Chain?> chains,
        IReadOnlyCollection<string> names,
        Func<string, IReadOnlyCollection<string>> profiles
    )
    {
        if (MapReader.Of(NodeReader.Read(text, problems), problems, "a file of tests") is not { } file)
            return null;
        var name = file.RequiredScalar("tests");
        double? floor = file.Take("floor") is null ? null : file.Number("floor", 0, 0, 100, whole: false);
        var at = Moment(file, Usual);
        var cases = file.Inner("cases");
        file.End();
        if (name is null)
            return null;
        if (chains(new(name.Text, null)) is not { } chain)
        {
            problems.Add(
                ProblemKinds.UnknownInTest,
                name.Span,
                $"there is no chain “{name.Text}”",
                Nearest.Fix(name.Text, names)
            );
            return null;
        }
        var reader = new CaseReader(chain, chains, profiles(chain.Name), problems);
        var read = new List<TestCase>();
        foreach (var (title, node) in cases is null ? [] : WorkspaceYaml.EntriesOf(cases.Map, problems))
        {
            if (MapReader.Of(node, problems, $"the case “{title.Text}”") is { } map)
                read.Add(reader.Read(title, map, at));
        }
        return new(problems.File, chain, floor, read);
    }

    internal static DateTimeOffset Moment(MapReader map, DateTimeOffset usual)
    {
        if (map.Scalar("at") is not { } text)
            return usual;
        var (value, problem) = Conversion.To(CelType.Timestamp, Value.String(text.Text));
        if (value is { } moment)
            return moment.AsDateTimeOffset;
        map.Problems.Add(
            ProblemKinds.WrongShape,
            text.Span,
            $"“at” is a moment such as 2026-11-22T02:30:00Z: {problem}"
        );
        return usual;
    }
}
