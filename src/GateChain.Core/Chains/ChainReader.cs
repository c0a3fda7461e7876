using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Chains.Source;
using GateChain.Core.Identity;
using GateChain.Core.Problems;

namespace GateChain.Core.Chains;

/// <summary>Reads a chain file. Never throws for bad input; all problems of the file are told at once.</summary>
public static class ChainReader
{
    /// <summary>The most characters a file may have.</summary>
    public static int MaxLength => NodeReader.MaxLength;

    /// <summary>
    /// Whether a chain can be called so: it begins with a letter and holds letters, digits and -, at most 100.
    /// </summary>
    public static bool IsName(string name) => Names.IsChainName(name);

    /// <summary>The chain as far as it could be read; null when there is no chain in it at all.</summary>
    /// <param name="text">The file's content.</param>
    /// <param name="kinds">The kinds that steps may have.</param>
    /// <param name="problems">Gets what is wrong.</param>
    public static Chain? Read(string text, KindCatalogue kinds, ProblemList problems)
    {
        var file = NodeReader.Read(text, problems, out var brokenAt);
        if (brokenAt is > 0 and var at)
            BrokenFile.Look(text, at, kinds, problems);
        return file is null ? null : Read(file, kinds, problems);
    }

    /// <summary>The chain of a file whose YAML has been read.</summary>
    internal static Chain? Read(Node file, KindCatalogue kinds, ProblemList problems)
    {
        if (MapReader.Of(file, problems, "a chain file") is not { } map)
            return null;
        FileParts? parts = null;
        problems.Parts = offset => (parts ??= FileParts.Of(file)).At(offset);
        var scopes = new ScopeReader(kinds, problems);
        var name = map.RequiredScalar("chain");
        if (name is not null && !Names.IsChainName(name.Text))
        {
            problems.Add(
                ProblemKinds.BadName,
                name.Span,
                $"the name of a chain begins with a letter and holds letters, digits and -; this is “{name.Text}”"
            );
        }

        scopes.ChainLane = map.Text("lane");
        scopes.ChainPlace = StepReader.PlaceOf(map.Take("place"), problems);
        var root = scopes.Read(map, keepDefaults: true);
        // They hold for handlers too, which just can't pause the run.
        if (scopes.Defaults.OnCrash == CrashRule.Pause)
            scopes.Defaults = scopes.Defaults with { OnCrash = null };
        var chain = new Chain
        {
            Name = name?.Text ?? "",
            Title = map.Text("title"),
            Notes = map.Text("notes"),
            Quiet = QuietHintReader.Read(map, problems),
            Parameters = Parameters(map, scopes, problems),
            Root = root,
            Outputs = [.. scopes.NamedExpressions(map, "outputs")],
            Callable = Callable(map, problems),
            OnFailure = map.Choice(
                "onFailure",
                FailureReach.Finish,
                ("finish", FailureReach.Finish),
                ("halt", FailureReach.Halt)
            ),
            WhenBusy = map.Choice(
                "whenBusy",
                BusyRule.Allow,
                ("allow", BusyRule.Allow),
                ("queue", BusyRule.Queue),
                ("skip", BusyRule.Skip),
                ("replace", BusyRule.Replace)
            ),
            BusyKey = map.Expression("busyKey"),
            QueueLimit = map.Take("queueLimit") is null
                ? null
                : (int)map.Number("queueLimit", 0, 1, 1_000_000, whole: true),
            DueIn = map.Duration("dueIn"),
            Recover = Recover(map),
            Handlers = Handlers(map, scopes, root, problems),
            Layout = Layout(map, problems),
        };
        map.End();
        return chain;
    }

    // “/” is the whole workspace.
    static List<Area> Callable(MapReader chain, ProblemList problems)
    {
        var areas = new List<Area>();
        foreach (var folder in chain.OneOrMore("callable"))
        {
            var path = folder.Text.Trim('/');
            if (!Area.IsPath(path))
            {
                problems.Add(
                    ProblemKinds.WrongValue,
                    folder.Span,
                    $"“{folder.Text}” is no folder of the workspace",
                    "write for example sales/daily, or / for the whole workspace"
                );
                continue;
            }
            areas.Add(new(path));
        }
        return areas;
    }

    static RecoverRule? Recover(MapReader chain)
    {
        if (chain.Inner("recover") is not { } map)
            return null;
        var rule = new RecoverRule(
            (int)map.Number("attempts", 1, 1, 1000, whole: true),
            map.Duration("wait") ?? TimeSpan.Zero
        );
        map.End();
        return rule;
    }

    static Dictionary<Occasion, StepScope> Handlers(
        MapReader chain,
        ScopeReader scopes,
        StepScope root,
        ProblemList problems
    )
    {
        var handlers = new Dictionary<Occasion, StepScope>();
        var words = Enum.GetNames<Occasion>().Select(n => n.ToLowerInvariant()).ToList();
        foreach (var (word, node) in chain.Inner("handlers")?.Map.Entries ?? [])
        {
            if (words.IndexOf(word.Text) is >= 0 and var index)
            {
                if (MapReader.Of(node, problems, $"the {word.Text} handler") is not { } map)
                    continue;
                var scope = scopes.Read(map);
                map.End();
                (scope.HandlerOf, scope.Occasion) = (root, (Occasion)index);
                handlers[(Occasion)index] = scope;
            }
            else
            {
                problems.Add(
                    ProblemKinds.UnknownKey,
                    word.Span,
                    $"there is no handler for “{word.Text}”",
                    Expressions.Nearest.Fix(word.Text, words) ?? "handlers: " + string.Join(", ", words)
                );
            }
        }
        return handlers;
    }

    static List<Parameter> Parameters(MapReader map, ScopeReader scopes, ProblemList problems)
    {
        var parameters = new List<Parameter>();
        foreach (var (name, node) in map.Inner("params")?.Map.Entries ?? [])
        {
            Names.Check(name, problems, "a parameter");
            if (scopes.Declaration(name, node, "default") is not var (type, initial, declared))
                continue;
            var parameter = new Parameter(name.Text, type, declared.Text("label"), initial, name.Span)
            {
                IsSecret = declared.Flag("secret"),
            };
            declared.End();
            parameters.Add(parameter);
            if (parameter.IsSecret && SecretParameters.Problem(parameter) is { } problem)
                problems.Add(ProblemKinds.WrongValue, name.Span, $"{problem}");
        }
        return parameters;
    }

    static Dictionary<string, (double, double)> Layout(MapReader map, ProblemList problems)
    {
        var layout = new Dictionary<string, (double, double)>();
        foreach (var (path, node) in map.Inner("layout")?.Map.Entries ?? [])
        {
            if (
                node is SequenceNode { Items: [ScalarNode x, ScalarNode y] }
                && PlainValues.Scalar(x) is { IsNumber: true } left
                && PlainValues.Scalar(y) is { IsNumber: true } top
            )
            {
                layout[path.Text] = (left.ToDouble(), top.ToDouble());
            }
            else
            {
                problems.Add(ProblemKinds.WrongShape, node.Span, $"a place on the canvas is written [x, y]");
            }
        }
        return layout;
    }
}
