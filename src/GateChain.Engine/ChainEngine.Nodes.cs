using GateChain.Engine.Nodes;
using GateChain.Engine.Runs;
using GateChain.Engine.Sharing;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

/// <summary>The engine as a node among others.</summary>
public sealed partial class ChainEngine
{
    readonly AttemptHost? _host;

    NodeWork NodeOf(Shared shared, ILogger logger)
    {
        shared.Answers.Add<RunOrder, int>(RunRouter.Question, OrderedAsync);
        shared.Answers.Add<StartOrder, long>(StartRouter.Question, StartedAsync);
        Starter.Router = new(shared, () => shared.OwnsRuns && !Node!.IsDraining);
        shared.Answers.Add<FarQuestion, FarState>(AttemptHost.Ask, _host!.AskAsync);
        shared.Answers.Add<FarQuestion, bool>(AttemptHost.End, _host.EndAsync);
        var reload = new Reloading(Workspace, Drafts, Secrets, Triggers, Backfills);
        return new(
            shared,
            Recovery,
            new()
            {
                Lead = () => _starts.StartAsync(),
                Follow = () => _starts.StopAsync(_options.ShutdownPatience),
                EndHosted = _host.EndAll,
                IsBusy = () => Recovery.HasAny || _host.HasAny,
                Reload = reload.ReadAsync,
                LookUp = async () =>
                {
                    _newsOfOthers!.Ring();
                    await Reader.CatchUpAsync().ConfigureAwait(false);
                },
            },
            _time,
            logger
        );
    }

    // Who asks may have pushed the chain a moment ago.
    async Task<long> StartedAsync(StartOrder order)
    {
        await Node!.CaughtUpAsync().ConfigureAwait(false);
        return await Starter.DoAsync(order).ConfigureAwait(false);
    }

    // A run that has gone on elsewhere meanwhile is looked for again by who asks.
    async Task<int> OrderedAsync(RunOrder order)
    {
        if (!Recovery.Has(order.Run))
            throw new NodeSilentException($"run {order.Run} is not here");
        if (order is not RunOrder.Recover)
            return await Commands.DoAsync(order).ConfigureAwait(false);
        await Recovery.RecoverHereAsync(order.Run).ConfigureAwait(false);
        return 0;
    }

    /// <summary>The nodes that share its store.</summary>
    public NodeList Nodes { get; }

    /// <summary>What it does as a node among others; null when it has its store alone.</summary>
    public NodeWork? Node { get; }
}
