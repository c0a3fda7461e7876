using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;

namespace GateChain.Core.Designing;

/// <summary>
/// Helps with writing expressions of one chain: what is in scope, what type they give, what is wrong. Not thread-safe.
/// </summary>
public sealed class ExpressionService
{
    readonly Chain _chain;
    readonly PlacedExpressions _places;

    public ExpressionService(Chain chain)
    {
        _chain = chain;
        _places = new(chain, new(chain));
    }

    /// <summary>What an expression sees at a place; null when the chain has no such place.</summary>
    public ExpressionView? At(ExpressionSpot spot)
    {
        if (spot.Step is { } address)
        {
            return _chain.AllSteps.FirstOrDefault(s => s.Address == address) is { } step
                ? new(_places.At(step, spot.Place))
                : null;
        }
        if (spot.Scope is not { } scopeAddress)
            return new(_places.AtOutputs());
        return Scopes.All(_chain).FirstOrDefault(s => s.Address == scopeAddress) is { } scope
            ? new(_places.AtGate(scope, spot.From is null ? null : scope.Find(spot.From)))
            : null;
    }
}

/// <summary>What can be said of expressions at one place.</summary>
public sealed class ExpressionView
{
    readonly PlaceView _view;
    readonly CelType _names;

    internal ExpressionView(PlaceView view) => (_view, _names) = (view, Known(view));

    /// <summary>The type that is asked for, <c>any</c> for none.</summary>
    public string Wanted => _view.Wanted.ToString();

    /// <summary>
    /// The names in scope that hold one value, with their types: <c>params.day</c>, <c>steps.load.rows_written</c>.
    /// </summary>
    public IEnumerable<(string Name, string Type)> Names => Flat("", _names, 0).OrderBy(n => Rank(n.Name));

    // What belongs to the place itself first, what every place has last.
    static int Rank(string name) =>
        name.Split('.')[0] switch
        {
            "vars" or "params" => 1,
            "steps" => 2,
            "event" or "profile" => 3,
            "run" or "now" => 4,
            _ => 0,
        };

    /// <summary>Its type and what is wrong with it.</summary>
    public (string? Type, IReadOnlyList<ExpressionProblem> Problems) Look(string text)
    {
        var (expression, problem) = Expression.Parse(text);
        if (expression is null)
            return (null, [problem!]);
        var (type, mistakes) = expression.Check(_view.Names);
        var all = mistakes.Select(m => m with { Fix = _view.Before.FixOf(m) }).Concat(TooEarly(expression)).ToList();
        if (all.Count == 0 && !_view.Wanted.Takes(type))
        {
            all.Add(
                new($"this gives {Article.Of(type)}, and {Article.Of(_view.Wanted)} is asked for", new(0, text.Length))
            );
        }
        return (type.ToString(), all);
    }

    /// <summary>What can be written at an offset, and where it begins to replace.</summary>
    public (int From, IReadOnlyList<Completion> Items) Complete(string text, int cursor) =>
        new Completer(_names).Complete(text, Math.Clamp(cursor, 0, text.Length));

    IEnumerable<ExpressionProblem> TooEarly(Expression expression) =>
        from read in Walk.All(expression.Tree).OfType<SelectExpr>()
        where read.Operand is IdentExpr { Name: "steps" } && _view.Before.Value.Any(b => b.Id == read.Field)
        select new ExpressionProblem($"“{read.Field}” cannot have run yet when this is computed", read.FieldSpan);

    // Steps that can't have run yet are not offered.
    static CelType Known(PlaceView view)
    {
        var fields = new Dictionary<string, CelType>(view.Names.Fields!);
        var steps = fields["steps"].Fields!.Where(f => !view.Before.Value.Any(b => b.Id == f.Key));
        fields["steps"] = CelType.Object(steps.ToDictionary(f => f.Key, f => f.Value));
        return CelType.Object(fields);
    }

    static IEnumerable<(string Name, string Type)> Flat(string prefix, CelType type, int depth)
    {
        foreach (var (name, field) in type.Fields ?? new Dictionary<string, CelType>())
        {
            var isList = field is { Name: "list", Arguments: [{ Fields: not null }] };
            if (field.Name != "object")
                yield return (prefix + name, field.ToString());
            // The parts of a list are those of its first item.
            var (whole, part) = isList ? (field.Arguments[0], $"{prefix}{name}[0].") : (field, $"{prefix}{name}.");
            if (depth >= 4)
                continue;
            foreach (var inner in Flat(part, whole, depth + 1))
                yield return inner;
        }
    }
}
