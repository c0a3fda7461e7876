using System.Globalization;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Reading;

/// <summary>Reads what is checked before a step starts and after it worked: <c>guard</c> and <c>expect</c>.</summary>
sealed class GuardReader(KindCatalogue kinds, ProblemList problems)
{
    public GuardRule? ReadGuard(MapReader step)
    {
        if (step.Inner("guard") is not { } map)
            return null;
        var probes = ReadProbes(map);
        var rules = new List<GuardCase>();
        foreach (var node in map.List("rules")?.Items ?? [])
        {
            if (MapReader.Of(node, problems, "a rule of the guard") is not { } rule)
                continue;
            var when = rule.Expression("when");
            if (rule.Take("when") is null)
            {
                problems.Add(
                    ProblemKinds.MissingKey,
                    Start(rule),
                    $"a rule of the guard needs “when”",
                    "a rule that always holds stands under “otherwise”"
                );
            }
            if (ReadCase(rule, when) is { } read && when is not null)
                rules.Add(read);
        }
        if (map.Take("otherwise") is null)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                Start(map),
                $"the guard needs “otherwise”: what to do when no rule holds",
                "for example otherwise: { verdict: proceed }"
            );
        }
        else if (map.Inner("otherwise") is { } otherwise && ReadCase(otherwise, null) is { } last)
        {
            rules.Add(last);
        }
        map.End();
        return rules is [.., { When: null }] ? new(probes, rules) : null;
    }

    /// <summary>What is looked at: the <c>probes</c> of a guard or a watch.</summary>
    public List<Probe> ReadProbes(MapReader map)
    {
        var probes = new List<Probe>();
        foreach (var (name, node) in map.Inner("probes")?.Map.Entries ?? [])
        {
            Names.Check(name, problems, "a probe");
            if (ReadProbe(name, node) is { } probe)
                probes.Add(probe);
        }
        return probes;
    }

    static Span Start(MapReader map) => new(map.Map.Span.Start, map.Map.Span.Start);

    Probe? ReadProbe(ScalarNode name, Node node)
    {
        if (
            MapReader.Of(node, problems, $"probe “{name.Text}”") is not { } map
            || map.RequiredScalar("kind") is not { } kindName
        )
        {
            return null;
        }
        var names = kinds.Probes.Select(p => p.Name).ToList();
        if (kinds.FindProbe(kindName.Text) is not { } kind)
        {
            problems.Add(
                ProblemKinds.UnknownKind,
                kindName.Span,
                $"there is no probe “{kindName.Text}”",
                Nearest.Fix(kindName.Text, names) ?? "probes: " + string.Join(", ", names)
            );
            return null;
        }
        var settings = new MappingNode(map.Map.Span, [.. map.Map.Entries.Where(e => e.Key.Text != "kind")]);
        return new(
            name.Text,
            kind,
            SettingReader.Record(settings, kind.Settings, problems, $"{Article.Of(kind.Name)} probe"),
            name.Span
        );
    }

    GuardCase? ReadCase(MapReader map, SourceExpression? when)
    {
        if (map.Take("verdict") is null)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                Start(map),
                $"{map.What} needs “verdict”: proceed, skip, fail, stop or hold"
            );
        }
        var verdict = map.Choice(
            "verdict",
            (Verdict?)null,
            ("proceed", Verdict.Proceed),
            ("skip", Verdict.Skip),
            ("fail", Verdict.Fail),
            ("stop", Verdict.Stop),
            ("hold", Verdict.Hold)
        );
        var message = ReadMessage(map);
        var hold = verdict == Verdict.Hold ? ReadHold(map) : null;
        map.End();
        return verdict is null || (verdict == Verdict.Hold && hold is null)
            ? null
            : new(when, verdict.Value, message, hold);
    }

    Setting? ReadMessage(MapReader map) =>
        map.Take("message") is { } node ? SettingReader.Read(node, SettingShape.Text, problems, "“message”") : null;

    HoldRule? ReadHold(MapReader map)
    {
        var recheck = map.Duration("recheck");
        var at = ReadClock(map);
        var (times, longest) = ReadLimit(map);
        var then = map.Choice(
            "then",
            Verdict.Fail,
            ("fail", Verdict.Fail),
            ("skip", Verdict.Skip),
            ("proceed", Verdict.Proceed),
            ("stop", Verdict.Stop)
        );
        if ((map.Take("recheck") is null) == (map.Take("at") is null))
        {
            problems.Add(
                ProblemKinds.MissingKey,
                Start(map),
                $"a hold has either “recheck: 5m” or “at: \"06:00\"”: when to look again"
            );
            return null;
        }
        if (recheck is { } span && span < TimeSpan.FromMilliseconds(10))
        {
            problems.Add(ProblemKinds.WrongShape, map.KeySpan("recheck"), $"“recheck” is 10 ms or longer");
            return null;
        }
        return (recheck is null && at is null) || (times is null && longest is null)
            ? null
            : new(recheck, at, times, longest, then);
    }

    (int? Times, TimeSpan? Longest) ReadLimit(MapReader map)
    {
        if (map.Scalar("limit") is not { } scalar)
        {
            if (map.Take("limit") is null)
            {
                problems.Add(
                    ProblemKinds.MissingKey,
                    Start(map),
                    $"a hold has a “limit”: how many further looks (12), or how long (2h)",
                    "a guard always ends"
                );
            }
            return default;
        }
        if (
            int.TryParse(scalar.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var times)
            && times <= 1_000_000
        )
        {
            return (times, null);
        }
        if (TimeText.ParseSetting(scalar.Text) is { } longest)
            return (null, longest);
        problems.Add(
            ProblemKinds.WrongShape,
            scalar.Span,
            $"“limit” is a number of looks such as 12, or a duration such as 2h"
        );
        return default;
    }

    ClockTime? ReadClock(MapReader map)
    {
        var zone = map.Zone("zone");
        if (map.Scalar("at") is not { } scalar)
            return null;
        if (
            TimeOnly.TryParseExact(
                scalar.Text,
                ["HH:mm", "HH:mm:ss"],
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var time
            )
        )
        {
            return new(time, zone);
        }
        problems.Add(ProblemKinds.WrongShape, scalar.Span, $"“at” is a time of the day such as \"06:00\"");
        return null;
    }

    public List<ExpectCase> ReadExpect(MapReader step)
    {
        var cases = new List<ExpectCase>();
        foreach (var node in step.List("expect")?.Items ?? [])
        {
            if (MapReader.Of(node, problems, "an expect rule") is not { } map)
                continue;
            if (map.Take("when") is null)
                problems.Add(ProblemKinds.MissingKey, Start(map), $"an expect rule needs “when”");
            if (map.Take("verdict") is null)
            {
                problems.Add(
                    ProblemKinds.MissingKey,
                    Start(map),
                    $"an expect rule needs “verdict”: accept, redo, fail or warn"
                );
            }
            var when = map.Expression("when");
            var verdict = map.Choice(
                "verdict",
                (ExpectVerdict?)null,
                ("accept", ExpectVerdict.Accept),
                ("redo", ExpectVerdict.Redo),
                ("fail", ExpectVerdict.Fail),
                ("warn", ExpectVerdict.Warn)
            );
            var message = ReadMessage(map);
            map.End();
            if (when is not null && verdict is { } known)
                cases.Add(new(when, known, message));
        }
        return cases;
    }
}
