using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Releases;
using GateChain.Engine.Replays;
using GateChain.Service.Access;

namespace GateChain.Service.Endpoints;

/// <summary>Past runs, played again under another content.</summary>
static class ReplayEndpoints
{
    const int MostDifferences = 200;

    public static void Map(RouteGroupBuilder api) =>
        api.MapPost("/chains/{name}/replay", Play)
            .WithName("replayChain")
            .Needs(Permission.Design, Where.Chain)
            .WithSummary("Plays past runs again under a draft, a release or a given content; nothing of it is done")
            .ProducesProblem(404)
            .ProducesProblem(422);

    static async Task<ReplayInfo> Play(
        string name,
        ReplayRequest request,
        Replayer replayer,
        DraftService drafts,
        ReleasedChains chains,
        EngineOptions options,
        Visitor visitor,
        CancellationToken cancel
    )
    {
        if (request.Last is < 1 or > Replayer.Most)
            throw new RefusedException(RefusalKind.Invalid, $"last is 1 to {Replayer.Most}");
        var (chain, under) = await ContentAsync(name, request, drafts, chains);
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(options.Bounds.CheckTime);
        try
        {
            var played = await replayer.PlayAsync(name, chain, request.Last, request.Since, visitor.Seen, limit.Token);
            return new(under, [.. played.Select(Of)]);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"that took longer than {options.Bounds.CheckTime.TotalSeconds:0} s: ask for fewer runs"
            );
        }
    }

    static async Task<(Chain, string)> ContentAsync(
        string name,
        ReplayRequest request,
        DraftService drafts,
        ReleasedChains chains
    )
    {
        if (request.Release is { } number)
        {
            var (_, release) = await drafts.NumberedAsync(name, number);
            return (await chains.OfAsync(release.Hash), $"release {number}");
        }
        var source = request.Source ?? (await drafts.GetAsync(name)).Source;
        var draft = await drafts.CheckAsync(name, source);
        return draft.HasErrors
            ? throw new InvalidDraftException(draft.Problems)
            : (draft.Chain!, request.Source is null ? "the draft" : "the given content");
    }

    static ReplayedRunInfo Of(ReplayedRun played) =>
        new(
            played.Run.Id,
            played.Run.Started,
            played.Number,
            played.Replay?.Was ?? played.Run.State,
            played.Replay?.WouldBe ?? "",
            played.Replay?.SameWay ?? false,
            [
                .. played
                    .Replay?.Differences.Take(MostDifferences)
                    .Select(d => new ReplayDifferenceInfo(d.What, d.Path, d.Name, d.Was, d.WouldBe))
                    ?? [],
            ],
            played.Replay?.Unknown ?? [],
            played.Replay?.Unlike,
            played.Problem
        );
}
