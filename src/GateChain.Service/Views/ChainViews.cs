using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>Chains as the API shows them.</summary>
static class ChainViews
{
    public static ChainDetail Detail(Chain chain, Release release, int number, IReadOnlyList<string> profiles) =>
        new(
            chain.Name,
            chain.Title,
            chain.Notes,
            release.Hash,
            number,
            release.Pushed,
            release.Source,
            Parameters(chain.Parameters),
            [.. chain.Root.Variables.Select(v => v.Name)],
            Whole(chain),
            profiles,
            release.Area.Path
        )
        {
            Retired = Of(release.Retired),
        };

    public static RetirementInfo? Of(Retirement? retired) =>
        retired is null ? null : new(retired.By, retired.At, retired.Why);

    public static IReadOnlyList<ParameterInfo> Parameters(IReadOnlyList<Parameter> parameters) =>
        [
            .. parameters.Select(p => new ParameterInfo(
                p.Name,
                p.Type.ToString(),
                p.Label,
                p.Default is null,
                p.Default is { } value ? JsonViews.Json(value) : null,
                p.IsSecret
            )),
        ];

    /// <summary>The drawing of a chain, its handlers included.</summary>
    public static ChainGraph Whole(Chain chain)
    {
        var (steps, gates) = Graph(chain.Root, chain);
        return new(
            steps,
            gates,
            [.. chain.Handlers.OrderBy(h => h.Key).Select(h => new HandlerGraph(h.Key.Word(), Graph(h.Value, chain)))]
        );
    }

    public static ScopeGraph Graph(StepScope scope, Chain chain) =>
        new(
            [.. scope.Steps.Select(s => Node(s, chain))],
            [
                .. scope.Gates.Select(g => new GateEdge(
                    g.Index,
                    g.From.Id,
                    g.To.Id,
                    g.Label,
                    g.On.Word(),
                    g.Branch is null ? g.When?.Expression.Text : null
                )),
            ]
        );

    static StepNode Node(Step step, Chain chain) =>
        new(
            step.Id,
            step.Address,
            step.Kind.Name,
            step.Title ?? step.Id,
            step.Notes,
            step.Join.ToString(),
            step.IfFails.Word(),
            step.Disabled,
            step.Caption,
            step.Guard is not null,
            step.Lane,
            chain.Layout.TryGetValue(step.Address, out var place) ? [place.X, place.Y] : null,
            step.Inner is null ? null : Graph(step.Inner, chain)
        );
}
