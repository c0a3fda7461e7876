using GateChain.Client;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Service.Views;

/// <summary>Problems of files as the API and the command line tell them.</summary>
public static class ProblemViews
{
    /// <summary>The API's shape of a problem.</summary>
    public static ProblemInfo Of(Problem problem) =>
        new(
            problem.Code,
            problem.Kind.Severity.Word(),
            problem.File,
            problem.Line,
            problem.Column,
            problem.Message,
            problem.Fix,
            problem.Kind.Docs,
            problem.End.Line,
            problem.End.Column,
            problem.Span.Start,
            problem.Span.End,
            problem.Place?.Step,
            Gate(problem.Place?.Gate),
            problem.Kind.Means switch
            {
                ProblemMeaning.NeverRuns => "neverRuns",
                _ => null,
            },
            problem.Said.Format,
            problem.Said.Arguments,
            problem.Edit is { } e ? new(e.Start, e.Length, e.Text) : null
        );

    /// <summary>The API's shape of a gate's place.</summary>
    public static GatePlaceInfo? Gate(GatePlace? gate) =>
        gate is null ? null : new(gate.Scope, gate.Index, gate.From, gate.To);
}
