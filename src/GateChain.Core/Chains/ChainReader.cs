using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>Reads a chain file. Never throws for bad input; all problems of the file are told at once.</summary>
public static class ChainReader
{
    /// <summary>The chain as far as it could be read; null when there is no chain in it at all.</summary>
    /// <param name="text">The file's content.</param>
    /// <param name="kinds">The kinds that steps may have.</param>
    /// <param name="problems">Gets what is wrong.</param>
    public static Chain? Read(string text, KindCatalogue kinds, ProblemList problems)
    {
        if (NodeReader.Read(text, problems) is not { } root || MapReader.Of(root, problems, "a chain file") is not { } map) { return null; }
        var scopes = new ScopeReader(kinds, problems);
        var name = map.RequiredScalar("chain");
        if (name is not null && !Names.IsChainName(name.Text))
        {
            problems.Add(ProblemKinds.BadName, name.Span, $"the name of a chain begins with a letter and holds letters, digits and -; this is “{name.Text}”");
        }
        var chain = new Chain
        {
            Name = name?.Text ?? "",
            Title = map.Text("title"),
            Notes = map.Text("notes"),
            Parameters = Parameters(map, scopes, problems),
            Root = scopes.Read(map),
            Outputs = [.. scopes.NamedExpressions(map, "outputs")],
            Layout = Layout(map, problems),
        };
        map.Choice("onFailure", "finish", ("finish", "finish"));
        map.NotYet("lane", "whenBusy", "dueIn", "recover", "handlers");
        map.End();
        return chain;
    }

    static List<Parameter> Parameters(MapReader map, ScopeReader scopes, ProblemList problems)
    {
        var parameters = new List<Parameter>();
        foreach (var (name, node) in map.Inner("params")?.Map.Entries ?? [])
        {
            Names.Check(name, problems, "a parameter");
            if (scopes.Declaration(name, node, "default") is not var (type, initial, declared)) { continue; }
            var label = declared.Text("label");
            declared.End();
            parameters.Add(new(name.Text, type, label, initial, name.Span));
        }
        return parameters;
    }

    static Dictionary<string, (double, double)> Layout(MapReader map, ProblemList problems)
    {
        var layout = new Dictionary<string, (double, double)>();
        foreach (var (path, node) in map.Inner("layout")?.Map.Entries ?? [])
        {
            if (node is SequenceNode { Items: [ScalarNode x, ScalarNode y] } && PlainValues.Scalar(x) is { IsNumber: true } left && PlainValues.Scalar(y) is { IsNumber: true } top)
            {
                layout[path.Text] = (left.ToDouble(), top.ToDouble());
            }
            else
            {
                problems.Add(ProblemKinds.WrongShape, node.Span, "a place on the canvas is written [x, y]");
            }
        }
        return layout;
    }
}
