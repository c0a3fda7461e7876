using GateChain.Client;
using GateChain.Core.History;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>History, outlook and comparison as the API shows them.</summary>
static class HistoryViews
{
    public static HistoryInfo Of(IReadOnlyList<LegHistory> legs) =>
        new(
            [.. legs.SelectMany(l => l.Steps).Select(s => s.Address).Distinct()],
            [
                .. legs.Select(l => new LegInfo(
                    l.Run,
                    l.Leg,
                    l.Number,
                    l.State,
                    l.Started,
                    l.Ended,
                    l.IsLate,
                    l.Source.Word(),
                    l.Steps.ToDictionary(s => s.Address, Step)
                )),
            ]
        );

    static StepHistoryInfo? StepOrNull(StepHistory? step) => step is null ? null : Step(step);

    static StepHistoryInfo Step(StepHistory step) =>
        new(
            step.State,
            step.Count,
            step.Failed,
            step.Attempts,
            step.Begin,
            step.Span,
            step.Work,
            step.Held,
            step.Queued,
            step.Rested,
            step.Read,
            step.Written,
            step.Rejected
        );

    public static ExpectedInfo? Of(Expectation? expected) =>
        expected is null ? null : new(expected.Likely, expected.Early, expected.Late, expected.Runs);

    public static DifferenceInfo Of(StoredRun a, StoredRun b, RunComparison found, int? numberA, int? numberB) =>
        new(
            JsonViews.Summary(a),
            JsonViews.Summary(b),
            numberA,
            numberB,
            found.SameContent,
            Values(found.Params),
            Values(found.Profile),
            Values(found.Outputs),
            [
                .. found.Steps.Select(s => new StepDifferenceInfo(
                    s.Address,
                    StepOrNull(s.A),
                    StepOrNull(s.B),
                    s.Differs,
                    [.. s.Items.Select(i => new ItemDifferenceInfo(i.Items, StepOrNull(i.A), StepOrNull(i.B)))]
                )),
            ],
            found.PartsAt
        );

    static IReadOnlyList<ValueDifferenceInfo> Values(IReadOnlyList<ValueDifference> values) =>
        [
            .. values.Select(v => new ValueDifferenceInfo(
                v.Name,
                v.A is { } a ? JsonViews.Json(a) : null,
                v.B is { } b ? JsonViews.Json(b) : null
            )),
        ];
}
