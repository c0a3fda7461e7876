using System.Text.Json;
using GateChain.Client;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>The small pieces that the API's answers are made of.</summary>
static class JsonViews
{
    public static JsonElement Json(Value value)
    {
        using var document = JsonDocument.Parse(ValueJson.ToText(value), ValueJson.Options);
        return document.RootElement.Clone();
    }

    public static IReadOnlyDictionary<string, Value> Values(IReadOnlyDictionary<string, JsonElement>? json) =>
        json?.ToDictionary(p => p.Key, p => ValueJson.Read(p.Value)) ?? [];

    /// <summary>The line of a run that is there.</summary>
    public static async ValueTask<RunSummary> SummaryAsync(this IRunStore store, long run) =>
        Summary((await store.FindAsync(run))!);

    public static RunSummary Summary(StoredRun stored)
    {
        using var parameters = JsonDocument.Parse(stored.Params, ValueJson.Options);
        return new(
            stored.Id,
            stored.Chain,
            stored.State,
            stored.Leg,
            stored.By.Name,
            stored.Started,
            stored.Ended,
            parameters.RootElement.Clone(),
            stored.Error,
            stored.Late,
            stored.ResumeAt,
            stored.Parent is { } p ? new(p.Run, p.Step) : null,
            Actor(stored.By),
            stored.Origin,
            stored.Trigger
        );
    }

    public static ActorInfo Actor(Actor actor) => new(actor.Kind.ToString().ToLowerInvariant(), actor.Id, actor.Name);

    public static ParentInfo? Parent(RunState state) => state.Parent is { } p ? new(p.Run, p.Step) : null;

    public static ErrorInfo? Error(StepError? error) =>
        error is null ? null : new(error.Code, error.Message, error.Detail);

    public static AttemptInfo Attempt(AttemptRecord record) =>
        new(
            record.Number,
            record.Step,
            record.Leg,
            record.Attempt,
            record.Started,
            record.Ended,
            record.Result,
            Error(record.Error),
            record.RetryAt
        );

    public static IReadOnlyList<PartInfo> Parts(IReadOnlyList<PartValue> parts) =>
        [.. parts.Select(p => new PartInfo(p.Text, p.Start, p.Value))];

    public static WhyInfo Why(Why why) =>
        new(
            why.Step,
            why.State,
            why.Sentence,
            why.Join,
            [
                .. why.Gates.Select(g => new WhyGateInfo(
                    g.From,
                    g.Label,
                    g.State,
                    g.Saw,
                    g.Sentence,
                    Parts(g.Parts),
                    g.Error
                )),
            ],
            [.. why.Branches.Select(b => new BranchInfo(b.Branch, b.Taken, Parts(b.Parts)))],
            why.Warnings,
            why.Guard is { } guard
                ? new(
                    guard.Verdict.Word(),
                    guard.Message,
                    guard.Look,
                    Json(guard.Probes),
                    Parts(guard.Parts),
                    guard.By?.ToString()
                )
                : null
        );
}
