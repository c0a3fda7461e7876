using System.Collections.Concurrent;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Threading.Channels;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;
using GateChain.Storage;

namespace GateChain.Service.Endpoints;

/// <summary>What happens, as it happens.</summary>
/// <remarks>Source: server-sent events, HTML Living Standard.</remarks>
static class LiveEndpoints
{
    static readonly TimeSpan Beat = TimeSpan.FromSeconds(5);

    /// <summary>
    /// How many may follow at once: every one of them costs memory, and a little of the pace of runs.
    /// </summary>
    public const int MostFollowers = 500;

    /// <summary>How many streams one account may have open: its pages in some browsers, and some programs.</summary>
    public const int MostOfAccount = 60;

    static int _followers;

    static readonly ConcurrentDictionary<string, int> FollowersOf = new();

    // One decision is put into words once for all who follow its run.
    static readonly ConditionalWeakTable<RunChange, Patch> Patches = [];

    sealed record Patch(RunPatch? Of);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/runs/{id:long}/live", Run)
            .WithName("followRun")
            .Needs(Permission.See, Where.Run)
            .WithSummary("Events: run (the whole run), change (what a decision changed), beat")
            .Produces<RunPatch>(contentType: "text/event-stream")
            .ProducesProblem(404);
        api.MapGet("/live", All)
            .WithName("followRuns")
            .Needs(Permission.See)
            .WithSummary(
                "Events: run (a run that began, ended or was resumed), draft (a draft that was saved or "
                    + "discarded), beat"
            )
            .Produces<RunSummary>(contentType: "text/event-stream");
    }

    // Ends with the request, or with the service.
    static CancellationToken Until(HttpContext http, IHostApplicationLifetime life)
    {
        var either = CancellationTokenSource.CreateLinkedTokenSource(http.RequestAborted, life.ApplicationStopping);
        http.Response.RegisterForDispose(either);
        return either.Token;
    }

    static async Task<IResult> Run(
        long id,
        RunReader runs,
        WorkspaceService workspace,
        AreaLocator areas,
        IHostApplicationLifetime life,
        Visitor visitor,
        HttpContext http
    )
    {
        // Asked first, so that a run that is not there gives a plain 404 and no stream.
        await runs.ReadAsync(id, (_, seq) => seq);
        Admit(http);
        return TypedResults.ServerSentEvents(RunEvents(id, runs, workspace, areas, visitor, Until(http, life)));
    }

    static async IAsyncEnumerable<SseItem<object>> RunEvents(
        long id,
        RunReader runs,
        WorkspaceService workspace,
        AreaLocator areas,
        Visitor visitor,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        // A patch is made while the state stands still; null asks for the whole run again, as does a reader that is too
        // slow.
        var queue = Channel.CreateBounded<RunPatch?>(
            new BoundedChannelOptions(512) { FullMode = BoundedChannelFullMode.DropWrite }
        );
        var behind = false;
        using var listening = await runs.FollowAsync(id, change =>
        {
            if (
                !queue.Writer.TryWrite(Patches.GetValue(change, c => new(RunViews.Patch(c))).Of)
                || queue.Reader.Count >= 512
            )
            {
                Volatile.Write(ref behind, true);
            }
        });
        var whole = await areas.SeenAsync(await RunViews.DetailAsync(id, null, runs, workspace), visitor);
        yield return new(whole, "run") { EventId = whole.Seq.ToString() };
        var seq = whole.Seq;
        await foreach (var patch in Items(queue.Reader, cancel))
        {
            // Who was signed out, or lost a role, follows no longer.
            if (!visitor.Stands())
                yield break;
            if (patch is { Beat: true })
            {
                yield return new(new { }, "beat");
                continue;
            }
            if (patch.Item is { } change && !Volatile.Read(ref behind))
            {
                if (change.Seq <= seq)
                    continue;
                seq = change.Seq;
                yield return new(change, "change") { EventId = seq.ToString() };
                continue;
            }
            Volatile.Write(ref behind, false);
            while (queue.Reader.TryRead(out _)) { }
            whole = await areas.SeenAsync(await RunViews.DetailAsync(id, null, runs, workspace), visitor);
            seq = whole.Seq;
            yield return new(whole, "run") { EventId = seq.ToString() };
        }
    }

    static IResult All(
        RunFeed feed,
        DraftService drafts,
        IRunStore store,
        AreaLocator areas,
        Visitor visitor,
        IHostApplicationLifetime life,
        HttpContext http
    )
    {
        Admit(http);
        return TypedResults.ServerSentEvents(AllEvents(feed, drafts, store, areas, visitor, Until(http, life)));
    }

    // Takes one of the places until the request has ended.
    static void Admit(HttpContext http)
    {
        var account = Visitor.Of(http).Account?.Id;
        if (Interlocked.Increment(ref _followers) > MostFollowers)
        {
            Leave(null);
            throw Full(MostFollowers, "follow already");
        }
        if (account is not null && FollowersOf.AddOrUpdate(account, 1, (_, n) => n + 1) > MostOfAccount)
        {
            Leave(account);
            throw Full(MostOfAccount, "streams of this account are open already");
        }
        http.Response.RegisterForDispose(new Leaving(account));
    }

    static RefusedException Full(int most, string what) =>
        new(
            RefusalKind.Unavailable,
            $"{most} {what}, as many as may at once; try again later, or ask for the run without following it"
        );

    static void Leave(string? account)
    {
        Interlocked.Decrement(ref _followers);
        if (account is not null)
            FollowersOf.AddOrUpdate(account, 0, (_, n) => n - 1);
    }

    sealed class Leaving(string? account) : IDisposable
    {
        public void Dispose() => Leave(account);
    }

    static async IAsyncEnumerable<SseItem<object>> AllEvents(
        RunFeed feed,
        DraftService drafts,
        IRunStore store,
        AreaLocator areas,
        Visitor visitor,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        var queue = Channel.CreateBounded<(long Run, DraftNotification? Draft)>(
            new BoundedChannelOptions(512) { FullMode = BoundedChannelFullMode.DropOldest }
        );
        using var listening = feed.Subscribe(null, change =>
        {
            if (
                change.Decision.Events.Any(e =>
                    e
                        is RunStarted
                            or RunSettled
                            or LegStarted
                            or RunReleased
                            or RunLate
                            or RunEndangered
                            or PauseAsked
                            or StepPaused
                            or PauseAnswered
                            or RecoveryCalledOff
                )
            )
            {
                queue.Writer.TryWrite((change.Run, null));
            }
        });
        // Decisions of runs of other nodes are not told here, but what became of the runs is.
        using var elsewhere = feed.SubscribeToNotifications(news =>
        {
            if (news.IsElsewhere)
                queue.Writer.TryWrite((news.Run, null));
        });
        void Drafted(DraftChange change) => queue.Writer.TryWrite((0, new(change.Chain, change.Version, change.By)));
        drafts.Changed += Drafted;
        using var ending = cancel.Register(() => drafts.Changed -= Drafted);
        yield return new(new { }, "beat");
        await foreach (var item in Items(queue.Reader, cancel))
        {
            if (!visitor.Stands())
                yield break;
            // A run is read when it is told, not on its own way: it is told as it is by then.
            if (item.Beat)
            {
                yield return new(new { }, "beat");
            }
            else if (item.Item.Draft is { } draft)
            {
                if (visitor.Sees(await areas.OfChainAsync(draft.Chain) ?? Core.Identity.Area.Root))
                    yield return new(draft, "draft");
            }
            else if (await store.FindAsync(item.Item.Run) is { } head && visitor.Sees(head.Area))
            {
                yield return new(JsonViews.Summary(head), "run");
            }
        }
    }

    // What the queue brings, and a beat when it brings nothing for a while, so that both ends notice a lost connection.
    static async IAsyncEnumerable<(T? Item, bool Beat)> Items<T>(
        ChannelReader<T> queue,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        while (!cancel.IsCancellationRequested)
        {
            while (queue.TryRead(out var item))
                yield return (item, false);
            using var beat = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            beat.CancelAfter(Beat);
            var quiet = false;
            try
            {
                await queue.WaitToReadAsync(beat.Token);
            }
            catch (OperationCanceledException)
            {
                quiet = !cancel.IsCancellationRequested;
            }
            if (quiet)
                yield return (default, true);
        }
    }
}
