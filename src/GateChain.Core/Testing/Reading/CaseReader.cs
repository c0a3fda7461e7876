using GateChain.Core.Chains;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Testing.Reading;

/// <summary>Reads one case of a file of tests: what a run meets.</summary>
sealed class CaseReader(
    Chain chain,
    Func<CalledChain, Chain?> chains,
    IReadOnlyCollection<string> profiles,
    ProblemList problems
)
{
    readonly StepsKnown _steps = new(chain, chains);

    public TestCase Read(ScalarNode title, MapReader map, DateTimeOffset at)
    {
        at = TestsFile.Moment(map, at);
        var test = new TestCase
        {
            Name = title.Text,
            Span = title.Span,
            At = at,
            Params = Typed(
                map.Inner("params"),
                "parameter",
                chain.Parameters.ToDictionary(p => p.Name, p => p.Type),
                [.. chain.Parameters.Where(p => p.Default is null).Select(p => p.Name)],
                title
            ),
            Vars = Typed(
                map.Inner("vars"),
                "variable",
                chain.Root.Variables.ToDictionary(v => v.Name, v => v.Type),
                [],
                title
            ),
            Profile = ProfileOf(map),
            Steps = [.. Planned(map.Inner("steps"))],
            Expect = map.Inner("expect") is { } expect
                ? new ExpectationReader(chain, _steps, problems).Read(expect)
                : new(),
        };
        if (map.Take("expect") is null)
            problems.Add(ProblemKinds.MissingKey, title.Span, $"the case “{title.Text}” needs “expect”");
        map.End();
        return test;
    }

    string? ProfileOf(MapReader map)
    {
        if (map.Scalar("profile") is not { } profile)
            return null;
        if (profiles.Contains(profile.Text))
            return profile.Text;
        problems.Add(
            ProblemKinds.UnknownInTest,
            profile.Span,
            $"there is no profile “{profile.Text}”",
            Nearest.Fix(profile.Text, profiles)
        );
        return null;
    }

    Dictionary<string, Value> Typed(
        MapReader? map,
        string what,
        Dictionary<string, CelType> types,
        IReadOnlyList<string> required,
        ScalarNode title
    )
    {
        var found = new Dictionary<string, Value>();
        foreach (var (name, node) in map?.Map.Entries ?? [])
        {
            if (!types.TryGetValue(name.Text, out var type))
            {
                problems.Add(
                    ProblemKinds.UnknownInTest,
                    name.Span,
                    $"“{chain.Name}” has no {what} “{name.Text}”",
                    Nearest.Fix(name.Text, types.Keys)
                );
            }
            else if (Of(node, type, name.Text) is { } value)
            {
                found[name.Text] = value;
            }
        }
        foreach (var name in required.Where(r => map?.Map.Entries.Any(e => e.Key.Text == r) != true))
        {
            problems.Add(
                ProblemKinds.MissingKey,
                title.Span,
                $"the case “{title.Text}” gives no {what} “{name}”, which has no default"
            );
        }
        return found;
    }

    Value? Of(Node node, CelType type, string name)
    {
        var (value, problem) = Conversion.To(type, PlainValues.Of(node));
        if (value is null)
            problems.Add(ProblemKinds.WrongShape, node.Span, $"“{name}”: {problem}");
        return value;
    }

    IEnumerable<PlannedStep> Planned(MapReader? map)
    {
        foreach (var (path, node) in map?.Map.Entries ?? [])
        {
            if (
                _steps.Find(path, problems) is not { } step
                || MapReader.Of(node, problems, $"step “{path.Text}”") is not { } said
            )
            {
                continue;
            }
            var attempts = said.List("attempts") is { } list
                ? [.. list.Items.Select(i => MapReader.Of(i, problems, "an attempt")).OfType<MapReader>()]
                : (IReadOnlyList<MapReader>)[];
            var whole = Attempt(said, step);
            var each = attempts
                .Select(a =>
                {
                    var one = Attempt(a, step);
                    a.End();
                    return one ?? new PlannedAttempt(new Dictionary<string, Value>(), null);
                })
                .ToList();
            if (whole is not null)
                each.Add(whole);
            var plays = said.Take("plays") is null || said.Flag("plays");
            var probes = Probes(said.Inner("probes"), step);
            said.End();
            if (!plays && each.Count == 0)
                each.Add(new(new Dictionary<string, Value>(), null));
            if (step.Kind.IsControl && step.Call is null && each.Count > 0)
            {
                problems.Add(
                    ProblemKinds.UnknownInTest,
                    path.Span,
                    $"“{path.Text}” is a step of kind {step.Kind.Name}: what it comes to follows from the run"
                );
                each.Clear();
            }
            yield return new(new(path.Text), each, probes, plays);
        }
    }

    // Null when nothing is said.
    PlannedAttempt? Attempt(MapReader map, Step step)
    {
        var gives = new Dictionary<string, Value>();
        foreach (var (name, node) in map.Inner("gives")?.Map.Entries ?? [])
        {
            var type = step.Kind.Outputs.GetValueOrDefault(name.Text);
            if (type is null && step.Call is null && !step.Kind.Outputs.ContainsKey("*"))
            {
                problems.Add(
                    ProblemKinds.UnknownInTest,
                    name.Span,
                    $"a step of kind {step.Kind.Name} gives no “{name.Text}”",
                    Nearest.Fix(name.Text, step.Kind.Outputs.Keys)
                );
            }
            else if (Of(node, type ?? CelType.Dyn, name.Text) is { } value)
            {
                gives[name.Text] = value;
            }
        }
        var fails = Failure(map);
        return fails is null && map.Take("gives") is null ? null : new(gives, fails);
    }

    // `fails: timeout`, or with what it says: `fails: { code: exit-code, message: … }`.
    StepError? Failure(MapReader map)
    {
        switch (map.Take("fails"))
        {
            case null:
                return null;
            case ScalarNode { IsNull: false } code:
                return new(code.Text, "made to fail by the test");
            case MappingNode node:
                var failure = new MapReader(node, problems, "“fails”");
                var (word, message, detail) = (
                    failure.RequiredScalar("code"),
                    failure.Text("message"),
                    failure.Text("detail")
                );
                failure.End();
                return new(word?.Text ?? "failed", message ?? "made to fail by the test", detail);
            case var other:
                problems.Add(
                    ProblemKinds.WrongShape,
                    other.Span,
                    $"“fails” is the code of a failure, or a mapping of code and message, and this is {other.Word}"
                );
                return null;
        }
    }

    Dictionary<string, IReadOnlyDictionary<string, Value>> Probes(MapReader? map, Step step)
    {
        var found = new Dictionary<string, IReadOnlyDictionary<string, Value>>();
        foreach (var (name, node) in map?.Map.Entries ?? [])
        {
            if (step.Guard?.Probes.FirstOrDefault(p => p.Name == name.Text) is not { } probe)
            {
                problems.Add(
                    ProblemKinds.UnknownInTest,
                    name.Span,
                    $"the guard of “{step.Id}” has no probe “{name.Text}”",
                    Nearest.Fix(name.Text, step.Guard?.Probes.Select(p => p.Name) ?? [])
                );
                continue;
            }
            var values = new Dictionary<string, Value>();
            foreach (var (field, value) in MapReader.Of(node, problems, $"“{name.Text}”")?.Map.Entries ?? [])
            {
                if (!probe.Kind.Outputs.TryGetValue(field.Text, out var type))
                {
                    problems.Add(
                        ProblemKinds.UnknownInTest,
                        field.Span,
                        $"the probe “{name.Text}” sees no “{field.Text}”",
                        Nearest.Fix(field.Text, probe.Kind.Outputs.Keys)
                    );
                }
                else if (Of(value, type, field.Text) is { } typed)
                {
                    values[field.Text] = typed;
                }
            }
            found[name.Text] = values;
        }
        return found;
    }
}
