using System.Globalization;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Reading;

/// <summary>Reads one step.</summary>
sealed class StepReader(KindCatalogue kinds, ProblemList problems, ScopeReader scopes)
{
    readonly GuardReader _guards = new(kinds, problems);

    public Step? Read(ScalarNode id, Node node)
    {
        Names.Check(id, problems, "a step");
        if (MapReader.Of(node, problems, $"step “{id.Text}”") is not { } map)
            return null;
        if (Kind(map) is not { } kind)
            return null;
        // Containers, calls, waits and the like do no work that could be tried again or queue.
        var defaults = kind.IsControl ? StepDefaults.None : scopes.Defaults;

        var step = new Step
        {
            Id = id.Text,
            Kind = kind,
            Title = map.Text("title"),
            Notes = map.Text("notes"),
            Quiet = QuietHintReader.Read(map, map.Problems),
            Join = ReadJoin(map),
            Retry = IsTakenAway(map, "retry")
                ? null
                : ReadRetry(map) ?? (map.Take("retry") is null ? defaults.Retry : null),
            Timeout = IsTakenAway(map, "timeout")
                ? null
                : map.Duration("timeout") ?? (map.Take("timeout") is null ? defaults.Timeout : null),
            IfFails = map.Choice(
                "ifFails",
                FailureRule.Fail,
                ("fail", FailureRule.Fail),
                ("absorb", FailureRule.Absorb),
                ("pause", FailureRule.Pause)
            ),
            OnCrash = map.Choice(
                "onCrash",
                defaults.OnCrash ?? CrashRule.Redo,
                ("redo", CrashRule.Redo),
                ("pause", CrashRule.Pause),
                ("fail", CrashRule.Fail)
            ),
            CrashLimit = (int)map.Number("crashLimit", 3, 0, 1000, whole: true),
            Guard = _guards.ReadGuard(map),
            Expect = _guards.ReadExpect(map),
            Lane = ReadLane(map, kind, defaults.Lane),
            LaneSpan = (map.Take("lane") as ScalarNode)?.Span,
            Place = ReadPlace(map, kind, defaults.Place),
            RedoOnResume = map.Choice("onResume", defaults.RedoOnResume ?? false, ("keep", false), ("redo", true)),
            Disabled = map.Flag("disabled"),
            Assignments = [.. scopes.NamedExpressions(map, "assign")],
            Branches = kind.Name == ControlKinds.Decide ? ReadBranches(map) : [],
            Each = kind.Name == ControlKinds.Each ? ReadEach(map) : null,
            Repeat = kind.Name == ControlKinds.Repeat ? ReadRepeat(map) : null,
            Call = kind.Name == ControlKinds.Call ? ReadCall(map) : null,
            Inner = kind.StepKeys.Contains("steps") ? scopes.Read(map) : null,
            ResumeWhole =
                kind.StepKeys.Contains("resumeAs") && map.Choice("resumeAs", false, ("part", false), ("whole", true)),
            // Last: the map has been asked for all that stands beside “set” then.
            Settings = Settings(map, kind),
            Span = id.Span,
        };
        map.End(key =>
            kind.Settings.Members.Any(m => m.Name == key)
                ? $"it is a setting of {kind.Name}, and settings stand under “set”"
                : null
        );
        return step;
    }

    KindDescription? Kind(MapReader map)
    {
        if (map.RequiredScalar("kind") is not { } name)
            return null;
        var kind = kinds.Find(name.Text);
        if (kind is null)
        {
            problems.Add(
                ProblemKinds.UnknownKind,
                name.Span,
                $"there is no kind “{name.Text}”",
                Nearest.Fix(name.Text, kinds.Names) ?? "kinds: " + string.Join(", ", kinds.Names)
            );
        }
        return kind;
    }

    MapSetting Settings(MapReader map, KindDescription kind)
    {
        var node = map.Take("set");
        if (node is MappingNode or null)
        {
            return SettingReader.Record(
                node as MappingNode ?? new(map.Map.Span, []),
                kind.Settings,
                problems,
                $"{Article.Of(kind.Name)} step",
                key => map.Knows(key) ? "it stands at the step itself, beside “set”" : null
            );
        }
        problems.Add(ProblemKinds.WrongShape, node.Span, $"“set” is a mapping, and this is {node.Word}");
        return MapSetting.Empty;
    }

    // A container or a call that holds a lane while what is inside it queues for the same one would wait for ever.
    string? ReadLane(MapReader map, KindDescription kind, string? absent)
    {
        if (IsTakenAway(map, "lane"))
            return null;
        if (map.Scalar("lane") is not { } lane)
            return kind.IsControl ? null : absent ?? scopes.ChainLane;
        if (!kind.IsControl)
            return lane.Text;
        problems.Add(
            ProblemKinds.WrongShape,
            lane.Span,
            $"{Article.Of(kind.Name)} step queues for no lane: lanes are for steps that do work",
            "name the lane at the steps inside, or at the chain"
        );
        return null;
    }

    // What is inside a container or a call says it itself: they do nothing anywhere.
    Setting? ReadPlace(MapReader map, KindDescription kind, Setting? absent)
    {
        if (IsTakenAway(map, "place"))
            return null;
        if (map.Take("place") is not { } place)
            return kind.IsControl ? null : absent ?? scopes.ChainPlace;
        if (!kind.IsControl)
            return PlaceOf(place, problems);
        problems.Add(
            ProblemKinds.WrongShape,
            place.Span,
            $"{Article.Of(kind.Name)} step has no place: places are for steps that do work",
            "name the place at the steps inside, or at the chain"
        );
        return null;
    }

    /// <summary>The label of nodes, as text that may hold expressions.</summary>
    public static Setting? PlaceOf(Node? node, ProblemList problems) =>
        node is null ? null : SettingReader.Read(node, SettingShape.Text, problems, "“place”");

    // “none” takes a default away.
    static bool IsTakenAway(MapReader map, string key) => map.Take(key) is ScalarNode { Text: "none" };

    /// <summary>The defaults of a scope, over those around it.</summary>
    public static StepDefaults ReadDefaults(MapReader scope, StepDefaults outside)
    {
        if (scope.Inner("defaults") is not { } map)
            return outside;
        var retry = IsTakenAway(map, "retry") ? null : ReadRetry(map) ?? outside.Retry;
        TimeSpan? timeout = IsTakenAway(map, "timeout") ? null : map.Duration("timeout") ?? outside.Timeout;
        CrashRule? crash = map.Choice<CrashRule?>(
            "onCrash",
            outside.OnCrash,
            ("redo", CrashRule.Redo),
            ("pause", CrashRule.Pause),
            ("fail", CrashRule.Fail),
            ("none", null)
        );
        bool? redo = map.Choice<bool?>(
            "onResume",
            outside.RedoOnResume,
            ("keep", false),
            ("redo", true),
            ("none", null)
        );
        var lane = IsTakenAway(map, "lane") ? null : map.Text("lane") ?? outside.Lane;
        var place = IsTakenAway(map, "place") ? null : PlaceOf(map.Take("place"), map.Problems) ?? outside.Place;
        foreach (var key in (string[])["lane", "place"])
        {
            if (scope.Take("chain") is not null && scope.Take(key) is not null && map.Take(key) is { } both)
            {
                map.Problems.Add(
                    ProblemKinds.DoubleKey,
                    both.Span,
                    $"the chain has a “{key}” beside this default: keep one of the two"
                );
            }
        }

        map.End();
        return new(retry, timeout, crash, redo, lane, place);
    }

    RepeatRule? ReadRepeat(MapReader step)
    {
        var until = step.Expression("until");
        var goOn = step.Expression("while");
        if (step.Take("until") is not null && step.Take("while") is not null)
        {
            problems.Add(
                ProblemKinds.DoubleKey,
                step.KeySpan("while"),
                $"{step.What} has both “until” and “while”: keep one"
            );
        }
        else if (step.Take("until") is null && step.Take("while") is null)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(step.Map.Span.Start, step.Map.Span.Start),
                $"{step.What} needs “until” or “while”: when its rounds end"
            );
        }

        if (step.Take("limit") is null)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(step.Map.Span.Start, step.Map.Span.Start),
                $"{step.What} needs “limit”: the most rounds",
                "a repeat always ends"
            );
        }

        var limit = (int)step.Number("limit", 1, 1, 1_000_000, whole: true);
        var pause = step.Duration("pause") ?? TimeSpan.Zero;
        var accept = step.Choice("atLimit", false, ("fail", false), ("accept", true));
        var name = Names.Loop(step);
        return (until is null) == (goOn is null) ? null : new(until, goOn, limit, pause, accept, name);
    }

    CallRule? ReadCall(MapReader step)
    {
        var chain = step.RequiredScalar("chain");
        var inputs = scopes.NamedExpressions(step, "inputs").ToList();
        var wait = step.Take("wait") is null || step.Flag("wait");
        var release = step.Scalar("release");
        int? number =
            int.TryParse(release?.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var named) && named > 0
                ? named
                : null;
        if (release is not null && number is null && release.Text != "latest")
        {
            problems.Add(
                ProblemKinds.UnknownChoice,
                release.Span,
                $"“release” is latest or the number of a release, from 1, and this is “{release.Text}”"
            );
        }

        return chain is null
            ? null
            : new(new(chain.Text, number), inputs, wait, chain.Span, release?.Span ?? chain.Span);
    }

    static Join ReadJoin(MapReader map)
    {
        if (map.Scalar("join") is not { } scalar)
            return Join.All;
        if (int.TryParse(scalar.Text, out var needed) && needed > 0)
            return new(JoinMode.Count, needed);
        return map.Choice(
            "join",
            Join.All,
            ("all", Join.All),
            ("any", new(JoinMode.Any)),
            ("some", new(JoinMode.Some)),
            ("a number from 1", Join.All)
        );
    }

    static RetryRule? ReadRetry(MapReader step)
    {
        if (step.Inner("retry") is not { } map)
            return null;
        var rule = new RetryRule(
            (int)map.Number("limit", 1, 0, 1000, whole: true),
            map.Duration("wait") ?? TimeSpan.Zero,
            map.Number("factor", 1, 1, 100, whole: false),
            map.Duration("max"),
            map.Number("jitter", 0, 0, 1, whole: false),
            map.Expression("when")
        );
        map.End();
        return rule;
    }

    List<Branch> ReadBranches(MapReader step)
    {
        var branches = new List<Branch>();
        foreach (var node in step.List("branches")?.Items ?? [])
        {
            if (MapReader.Of(node, problems, "a branch") is not { } map)
                continue;
            var name = map.RequiredScalar("name");
            var when = map.Expression("when");
            var otherwise = map.Flag("otherwise");
            map.End();
            if (name is null)
                continue;
            if (branches.Exists(b => b.Name == name.Text))
            {
                problems.Add(
                    ProblemKinds.BadBranches,
                    name.Span,
                    $"the branch “{name.Text}” stands here a second time"
                );
            }
            if (branches is [.., { When: null }])
            {
                problems.Add(
                    ProblemKinds.BadBranches,
                    name.Span,
                    $"the branch “{name.Text}” is never looked at: the one before it is taken otherwise"
                );
            }
            if (otherwise == (map.Take("when") is not null))
            {
                problems.Add(
                    ProblemKinds.BadBranches,
                    name.Span,
                    $"the branch “{name.Text}” needs either “when” or “otherwise: true”"
                );
            }

            branches.Add(new(name.Text, when, name.Span));
        }
        if (branches.Count == 0)
            problems.Add(ProblemKinds.BadBranches, step.Map.Span, $"{step.What} has no branches");
        return branches;
    }

    EachRule? ReadEach(MapReader step)
    {
        if (step.Take("over") is null)
            problems.Add(ProblemKinds.MissingKey, step.Map.Span, $"{step.What} needs “over”: the list to go through");

        var over = step.Expression("over");
        var parallel = (int)step.Number("parallel", 1, 1, 1000, whole: true);
        var collect = step.Expression("collect");
        var tolerate = default(Tolerance);
        if (step.Scalar("tolerate") is { } scalar)
        {
            var percent =
                scalar.Text.EndsWith('%') && double.TryParse(scalar.Text[..^1], out var p) && p is >= 0 and <= 100
                    ? p
                    : (double?)null;
            if (
                percent is null
                && PlainValues.Scalar(scalar) is not { Kind: ValueKind.Int, AsInt: >= 0 and <= int.MaxValue }
            )
            {
                problems.Add(
                    ProblemKinds.WrongShape,
                    scalar.Span,
                    $"“tolerate” is a count such as 3, or a share such as 5%"
                );
            }
            else
            {
                tolerate = percent is null ? new((int)PlainValues.Scalar(scalar).AsInt) : new(0, percent);
            }
        }
        var name = Names.Loop(step);
        return over is null ? null : new(over, parallel, tolerate, collect, name);
    }
}
