using GateChain.Core.Chains;
using GateChain.Core.Chains.Source;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using Names = GateChain.Core.Chains.Reading.Names;

namespace GateChain.Core.Designing;

/// <summary>What is renamed.</summary>
public enum Renamed
{
    Step,
    Variable,
    Parameter,
    Branch,
}

/// <summary>One place that a rename changes.</summary>
/// <param name="Edit">The change.</param>
/// <param name="What">What stands there: <c>the step</c>, <c>a gate</c>, <c>an expression</c> …</param>
/// <param name="Line">Its line, one-based.</param>
public sealed record RenamePlace(TextEdit Edit, string What, int Line);

/// <summary>
/// Finds everything a rename has to change, in the order of the file. Expressions are changed through their syntax
/// trees; texts are not touched.
/// </summary>
public sealed class ChainRename
{
    readonly Chain _chain;
    readonly string _text;
    readonly Node _file;
    readonly ProblemList _lines;
    readonly List<RenamePlace> _places = [];
    string? _refusal;

    ChainRename(Chain chain, string text)
    {
        (_chain, _text) = (chain, text);
        _lines = new("", text);
        _file = NodeReader.Read(text, new("", text))!;
    }

    /// <summary>The places, or why it can't be renamed.</summary>
    /// <param name="chain">The chain, read from <paramref name="text"/>.</param>
    /// <param name="text">The chain file.</param>
    /// <param name="what">What is renamed.</param>
    /// <param name="scope">The address of the scope it is declared in, empty for the chain's own; for a branch that of
    /// its step.</param>
    /// <param name="from">Its name.</param>
    /// <param name="to">The name it gets.</param>
    public static (IReadOnlyList<RenamePlace> Places, string? Refusal) Plan(
        Chain chain,
        string text,
        Renamed what,
        string scope,
        string from,
        string to
    )
    {
        if (!Names.IsName(to))
            return ([], $"a name begins with a letter and holds letters, digits and _; this is “{to}”");
        var rename = new ChainRename(chain, text);
        rename.Find(what, scope, from, to);
        return rename._refusal is { } refusal ? ([], refusal) : ([.. rename._places.OrderBy(p => p.Edit.Start)], null);
    }

    void Find(Renamed what, string address, string from, string to)
    {
        var stepAddress = what == Renamed.Branch ? new StepPath(address).Scope.Text : address;
        if (
            Scopes.All(_chain).FirstOrDefault(s => s.Address == stepAddress) is not { } scope
            || ScopeNode(stepAddress) is not { } node
        )
        {
            _refusal = $"there is no scope “{stepAddress}”";
            return;
        }
        switch (what)
        {
            case Renamed.Step:
                Step(scope, node, from, to);
                break;
            case Renamed.Variable:
                Variable(scope, node, from, to);
                break;
            case Renamed.Parameter:
                Parameter(from, to);
                break;
            default:
                Branch(scope, node, new StepPath(address).Last, from, to);
                break;
        }
    }

    void Step(StepScope scope, MappingNode node, string from, string to)
    {
        if (scope.Find(from) is not { } step)
        {
            _refusal = $"there is no step “{from}”";
            return;
        }
        if (
            _chain.AllSteps.FirstOrDefault(s =>
                s.Id == to
                && s != step
                && (Scopes.Outward(scope).Contains(s.Scope) || Scopes.Outward(s.Scope).Contains(scope))
            ) is
            { } other
        )
        {
            _refusal = $"there is already a step “{to}”{(other.Scope == scope ? "" : $" at {other.Address}")}";
            return;
        }
        Key(Child(node, "steps") as MappingNode, from, to, "the step");
        foreach (var gate in (Child(node, "gates") as SequenceNode)?.Items.OfType<MappingNode>() ?? [])
        {
            foreach (var end in (string[])["from", "to"])
                Scalar(Child(gate, end), from, to, "a gate");
        }
        Expressions("steps", scope, from, to);
        foreach (var (key, _) in (Child(_file, "layout") as MappingNode)?.Entries ?? [])
        {
            if (key.Text == step.Address || new StepPath(key.Text).IsWithin(new(step.Address)))
            {
                Change(
                    key.Within(new(step.Address.Length - from.Length, step.Address.Length)),
                    from,
                    to,
                    "its place on the canvas"
                );
            }
        }
    }

    void Variable(StepScope scope, MappingNode node, string from, string to)
    {
        if (!scope.Variables.Any(v => v.Name == from))
        {
            _refusal = $"there is no variable “{from}”";
            return;
        }
        if (
            Scopes
                .All(_chain)
                .Any(s =>
                    s.Variables.Any(v => v.Name == to)
                    && (Scopes.Outward(scope).Contains(s) || Scopes.Outward(s).Contains(scope))
                )
        )
        {
            _refusal = $"there is already a variable “{to}”";
            return;
        }
        Key(Child(node, "vars") as MappingNode, from, to, "the variable");
        Expressions("vars", scope, from, to);
        foreach (
            var assignment in _chain
                .AllSteps.Where(s => Scopes.Outward(s.Scope).Contains(scope))
                .SelectMany(s => s.Assignments)
                .Where(a => a.Name == "vars." + from)
        )
        {
            var start = _text.IndexOf(from, assignment.Span.Start + "vars.".Length, StringComparison.Ordinal);
            Change(new(start, start + from.Length), from, to, "an assignment");
        }
    }

    void Parameter(string from, string to)
    {
        if (!_chain.Parameters.Any(p => p.Name == from))
        {
            _refusal = $"there is no parameter “{from}”";
            return;
        }
        if (_chain.Parameters.Any(p => p.Name == to))
        {
            _refusal = $"there is already a parameter “{to}”";
            return;
        }
        Key(Child(_file, "params") as MappingNode, from, to, "the parameter");
        Expressions("params", _chain.Root, from, to);
    }

    void Branch(StepScope scope, MappingNode node, string stepId, string from, string to)
    {
        var branches = (Child(Child(Child(node, "steps"), stepId), "branches") as SequenceNode)?.Items ?? [];
        if (!branches.Any(b => (Child(b, "name") as ScalarNode)?.Text == from))
        {
            _refusal = $"there is no branch “{from}”";
            return;
        }
        if (branches.Any(b => (Child(b, "name") as ScalarNode)?.Text == to))
        {
            _refusal = $"there is already a branch “{to}”";
            return;
        }
        foreach (var branch in branches)
            Scalar(Child(branch, "name"), from, to, "the branch");
        foreach (var gate in scope.Find(stepId)?.Outgoing ?? [])
        {
            var written = (Child(node, "gates") as SequenceNode)?.Items.ElementAtOrDefault(gate.Index);
            Scalar(Child(written, "branch"), from, to, "a gate");
        }
    }

    void Expressions(string root, StepScope scope, string from, string to)
    {
        var seen = new HashSet<int>();
        foreach (
            var placed in new PlacedExpressions(_chain, new(_chain))
                .All()
                .Where(p => Scopes.Outward(p.In).Contains(scope))
        )
        {
            foreach (var place in Renaming.Places(placed.At.Expression, root, from))
            {
                var span = placed.At.Place(place);
                if (seen.Add(span.Start))
                    Change(span, from, to, "an expression");
            }
        }
    }

    void Key(MappingNode? map, string from, string to, string what)
    {
        if (map?.Entries.FirstOrDefault(e => e.Key.Text == from).Key is { } key)
            Change(key.Within(new(0, from.Length)), from, to, what);
    }

    void Scalar(Node? node, string from, string to, string what)
    {
        if (node is ScalarNode scalar && scalar.Text == from)
            Change(scalar.Within(new(0, from.Length)), from, to, what);
    }

    // Escapes in a quoted text hide where its characters stand; then nothing is changed at all, rather than all but one
    // place.
    void Change(Span span, string from, string to, string what)
    {
        var line = _lines.Position(span.Start).Line;
        if (string.CompareOrdinal(_text, span.Start, from, 0, from.Length) != 0 || span.Length != from.Length)
        {
            _refusal ??=
                $"{what} in line {line} is written with escapes and can't be changed by itself; write it plainly first";
            return;
        }
        _places.Add(new(new(span.Start, span.Length, to), what, line));
    }

    MappingNode? ScopeNode(string address)
    {
        Node? node = _file;
        foreach (var part in new StepPath(address).Parts)
            node = Child(Child(node, part.IsHandler ? "handlers" : "steps"), part.Name);
        return node as MappingNode;
    }

    static Node? Child(Node? node, string key) =>
        (node as MappingNode)?.Entries.FirstOrDefault(e => e.Key.Text == key).Value;
}
