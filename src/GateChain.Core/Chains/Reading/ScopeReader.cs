using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Reading;

/// <summary>Reads the steps, gates and variables of one scope, and links them.</summary>
sealed class ScopeReader
{
    readonly ProblemList _problems;
    readonly StepReader _steps;

    public ScopeReader(KindCatalogue kinds, ProblemList problems)
    {
        _problems = problems;
        _steps = new(kinds, problems, this);
    }

    /// <summary>
    /// The lane that all steps of the chain share; null for none. Set before the first scope is read.
    /// </summary>
    public string? ChainLane { get; set; }

    /// <summary>
    /// The place of all working steps of the chain; null for none. Set before the first scope is read.
    /// </summary>
    public Setting? ChainPlace { get; set; }

    /// <summary>What working steps have that do not say it themselves.</summary>
    public StepDefaults Defaults { get; set; } = StepDefaults.None;

    /// <summary>Steps in the order of the file, found by id.</summary>
    sealed class StepList : List<Step>
    {
        readonly Dictionary<string, Step> _byId = [];

        public new void Add(Step step)
        {
            base.Add(step);
            _byId.TryAdd(step.Id, step);
        }

        public Step? Find(string id) => _byId.GetValueOrDefault(id);
    }

    /// <param name="map">The mapping that holds it.</param>
    /// <param name="keepDefaults">Whether its defaults hold for what is read afterwards too.</param>
    public StepScope Read(MapReader map, bool keepDefaults = false)
    {
        var variables = Variables(map, mayKeep: keepDefaults);
        var outside = Defaults;
        Defaults = StepReader.ReadDefaults(map, outside);
        var steps = new StepList();
        var broken = new HashSet<string>();
        var inner = map.Inner("steps");
        foreach (var (id, node) in inner?.Map.Entries ?? [])
        {
            if (_steps.Read(id, node) is { } step)
                steps.Add(step);
            else
                broken.Add(id.Text);
        }
        if (!keepDefaults)
            Defaults = outside;
        // Steps of another form have been told already.
        if (map.Take("steps") is null || inner is { Map.Entries.Count: 0 })
            _problems.Add(ProblemKinds.NoSteps, map.KeySpan("steps"), $"{map.What} has no steps");

        var gates = new List<Gate>();
        foreach (var node in map.List("gates")?.Items ?? [])
        {
            if (ReadGate(node, steps, broken, gates.Count) is { } gate)
                gates.Add(gate);
        }
        var scope = new StepScope
        {
            Steps = steps,
            Gates = gates,
            Variables = variables,
        };
        Link(scope);
        return scope;
    }

    static void Link(StepScope scope)
    {
        var incoming = scope.Gates.ToLookup(g => g.To);
        var outgoing = scope.Gates.ToLookup(g => g.From);
        for (var i = 0; i < scope.Steps.Count; i++)
        {
            var step = scope.Steps[i];
            step.Index = i;
            step.Scope = scope;
            step.Incoming = [.. incoming[step]];
            // Else gates are decided after all others.
            step.Outgoing = [.. outgoing[step].OrderBy(g => g.IsElse)];
            if (step.Inner is not null)
                step.Inner.Owner = step;
        }
    }

    Gate? ReadGate(Node node, StepList steps, HashSet<string> broken, int index)
    {
        if (MapReader.Of(node, _problems, "a gate") is not { } map)
            return null;
        var from = End(map, "from", steps, broken);
        var to = End(map, "to", steps, broken);
        var when = map.Expression("when");
        var branch = map.Scalar("branch");
        var isElse = map.Flag("else");
        if (isElse)
            RefuseConditions(map);
        var gate =
            from is null || to is null
                ? null
                : new Gate
                {
                    Index = index,
                    From = from,
                    To = to,
                    On = ReadOutcomes(map),
                    When = when ?? BranchTest(branch, from),
                    Match = map.Choice("match", GateMatch.Both, ("both", GateMatch.Both), ("either", GateMatch.Either)),
                    Branch = branch?.Text,
                    IsElse = isElse && when is null && branch is null,
                    Span = map.Map.Span,
                };
        if (gate is null)
        {
            _ = ReadOutcomes(map);
            map.Take("match");
        }
        map.End();
        if (when is not null && branch is not null)
            _problems.Add(ProblemKinds.BadBranch, branch.Span, $"a gate has either “when” or “branch”, not both");
        if (gate is not null && branch is not null && !from!.Branches.Any(b => b.Name == branch.Text))
        {
            Sentence message =
                from.Kind.Name == ControlKinds.Decide
                    ? (Sentence)$"“{from.Id}” has no branch “{branch.Text}”"
                    : $"“{from.Id}” is not a decide step and has no branches";
            _problems.Add(
                ProblemKinds.BadBranch,
                branch.Span,
                message,
                Nearest.Fix(branch.Text, from.Branches.Select(b => b.Name))
            );
        }
        return gate;
    }

    void RefuseConditions(MapReader map)
    {
        foreach (var key in new[] { "when", "branch", "match" }.Where(k => map.Take(k) is not null))
        {
            _problems.Add(
                ProblemKinds.BadElse,
                map.KeySpan(key),
                $"an else gate has no “{key}”: it opens when no condition of the gates beside it has",
                $"remove “{key}”, or “else”"
            );
        }
    }

    static SourceExpression? BranchTest(ScalarNode? branch, Step from)
    {
        if (branch is null)
            return null;
        var (expression, _) = Expression.Parse($"steps.{from.Id}.branch == {Value.String(branch.Text)}");
        return expression is null ? null : new(expression, _ => branch.Span);
    }

    Step? End(MapReader map, string key, StepList steps, HashSet<string> broken)
    {
        if (map.RequiredScalar(key) is not { } name)
            return null;
        var step = steps.Find(name.Text);
        if (step is null && !broken.Contains(name.Text))
        {
            _problems.Add(
                ProblemKinds.GateToNowhere,
                name.Span,
                $"a gate leads {key} “{name.Text}”, and there is no such step in this scope",
                Nearest.Fix(name.Text, steps.Select(s => s.Id))
            );
        }

        return step;
    }

    GateOutcomes ReadOutcomes(MapReader map)
    {
        var node = map.Take("on");
        if (node is null)
            return GateOutcomes.Success;
        var on = GateOutcomes.None;
        foreach (var word in node is SequenceNode list ? list.Items : [node])
        {
            var text = (word as ScalarNode)?.Text ?? "";
            GateOutcomes? outcome = text switch
            {
                "success" => GateOutcomes.Success,
                "failure" => GateOutcomes.Failure,
                "completion" => GateOutcomes.Completion,
                "skipped" => GateOutcomes.Skipped,
                "always" => GateOutcomes.Always,
                _ => null,
            };
            if (outcome is null)
            {
                string[] words = ["success", "failure", "completion", "skipped", "always"];
                _problems.Add(
                    ProblemKinds.UnknownChoice,
                    word.Span,
                    $"“on” is one of {string.Join(", ", words)}, or a list of them",
                    Nearest.Fix(text, words)
                );
            }
            on |= outcome ?? GateOutcomes.None;
        }
        return on == GateOutcomes.None ? GateOutcomes.Success : on;
    }

    List<Variable> Variables(MapReader map, bool mayKeep)
    {
        var variables = new List<Variable>();
        foreach (var (name, node) in map.Inner("vars")?.Map.Entries ?? [])
        {
            Names.Check(name, _problems, "a variable");
            if (Declaration(name, node, "initial") is not var (type, initial, declared))
                continue;
            var keep = declared.Flag("keep");
            if (keep && !mayKeep)
            {
                _problems.Add(
                    ProblemKinds.BadAssign,
                    declared.KeySpan("keep"),
                    $"only variables of the chain itself go from run to run, and “{name.Text}” is one of a part of it",
                    "declare it at the chain"
                );
            }
            declared.End();
            variables.Add(new(name.Text, type, initial ?? Zero(type), name.Span, keep && mayKeep));
        }
        return variables;
    }

    static Value Zero(CelType type) =>
        type.Name switch
        {
            "bool" => Value.False,
            "int" => Value.Int(0),
            "double" => Value.Double(0),
            "decimal" => Value.Decimal(Decimal38.Of(0L)),
            "string" => Value.String(""),
            "list" => Value.EmptyList,
            "map" => Value.EmptyMap,
            "duration" => Value.Duration(0, 0),
            _ => Value.Null,
        };

    /// <summary>Reads <c>{type: …, default|initial: …}</c>, shared by parameters and variables.</summary>
    public (CelType Type, Value? Initial, MapReader Map)? Declaration(ScalarNode name, Node node, string initialKey)
    {
        if (
            MapReader.Of(node, _problems, $"“{name.Text}”") is not { } map
            || map.RequiredScalar("type") is not { } typeName
        )
        {
            return null;
        }
        var type = CelType.Parse(typeName.Text);
        if (type is null || type.IsParameter)
        {
            _problems.Add(
                ProblemKinds.UnknownType,
                typeName.Span,
                $"there is no type “{typeName.Text}”",
                Nearest.Fix(typeName.Text, CelType.FileNames)
            );
            return null;
        }
        if (map.Take(initialKey) is not { } given)
            return (type, null, map);
        var (value, problem) = Conversion.To(type, PlainValues.Of(given));
        if (problem is not null)
            _problems.Add(ProblemKinds.WrongValue, given.Span, $"{initialKey} of “{name.Text}”: {problem}");
        return (type, value, map);
    }

    public IEnumerable<NamedExpression> NamedExpressions(MapReader map, string key)
    {
        foreach (var (name, node) in map.Inner(key)?.Map.Entries ?? [])
        {
            if (MapReader.ExpressionOf(node, _problems) is { } at)
                yield return new(name.Text, at.Expression, name.Span, at);
        }
    }
}
