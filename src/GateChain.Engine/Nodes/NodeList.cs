using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Runs;
using GateChain.Engine.Sharing;
using GateChain.Storage;

namespace GateChain.Engine.Nodes;

/// <summary>An attempt that a node is at.</summary>
/// <param name="Run">The run.</param>
/// <param name="Step">The step's path.</param>
/// <param name="ForOther">Whether the run is another node's.</param>
public sealed record NodeAttempt(long Run, string Step, bool ForOther);

/// <summary>What a node is at.</summary>
/// <param name="Attempts">How many attempts.</param>
/// <param name="Some">At most 50 of them.</param>
public sealed record NodeAttempts(int Attempts, IReadOnlyList<NodeAttempt> Some);

/// <summary>How a node is.</summary>
public enum NodeState
{
    /// <summary>It is there.</summary>
    There,

    /// <summary>It hands over what it has.</summary>
    Draining,

    /// <summary>Nothing is heard of it: it may be gone, hang, or be cut off.</summary>
    Silent,

    /// <summary>It has ended, or the others have agreed that it is gone.</summary>
    Gone,
}

/// <summary>A node as people see it.</summary>
/// <param name="Node">What it has said of itself.</param>
/// <param name="State">How it is.</param>
/// <param name="IsThis">Whether it is the one that was asked.</param>
/// <param name="Leads">Whether it does what one node does for all.</param>
/// <param name="Runs">How many runs it has.</param>
/// <param name="Work">What it is at; null when it does not say.</param>
public sealed record ShownNode(StoredNode Node, NodeState State, bool IsThis, bool Leads, int Runs, NodeAttempts? Work);

/// <summary>The nodes that share a store, for people. Thread-safe.</summary>
public sealed class NodeList
{
    const string Question = "work";
    const int Most = 50;

    readonly Shared? _shared;
    readonly TimeProvider _time;

    internal NodeList(Shared? shared, ActiveRuns runs, AttemptHost? host, TimeProvider time)
    {
        (_shared, _time) = (shared, time);
        shared?.Answers.Add<bool, NodeAttempts>(Question, _ => Task.FromResult(WorkOf(runs, host!)));
    }

    static NodeAttempts WorkOf(ActiveRuns runs, AttemptHost host)
    {
        var all = host
            .Working.Select(w => new NodeAttempt(w.Run, w.Step, true))
            .Concat(
                runs.All.SelectMany(r => r.Attempts.WorkingHere.Select(step => new NodeAttempt(r.Run, step, false)))
            )
            .ToList();
        return new(all.Count, [.. all.Take(Most)]);
    }

    /// <summary>Whether there can be others at all.</summary>
    public bool IsShared => _shared is not null;

    /// <summary>The labels that nodes have which are there; null when this service has its store alone.</summary>
    public async ValueTask<IReadOnlySet<string>?> LabelsAsync() =>
        _shared is null
            ? null
            : (await _shared.Store.Nodes.AllAsync().ConfigureAwait(false))
                .Where(n => n.Left is null && n.Silent < NodeWork.TooLong)
                .SelectMany(n => n.Labels)
                .ToHashSet();

    /// <summary>All that are there, and those that went within a day, by name.</summary>
    public async Task<IReadOnlyList<ShownNode>> ListAsync()
    {
        if (_shared is null)
            return [];
        var nodes = await _shared.Store.Nodes.AllAsync().ConfigureAwait(false);
        var owned = await _shared.Store.Nodes.OwnedAsync().ConfigureAwait(false);
        var living = _shared.Link.Living;
        var leader = NodeWork.LeaderOf(nodes, living)?.Id;
        var work = await Task.WhenAll(nodes.Select(n => WorkOfAsync(n, living))).ConfigureAwait(false);
        return
        [
            .. nodes.Zip(work, (node, at) =>
                new ShownNode(
                    node,
                    StateOf(node, living),
                    node.Id == _shared.Link.Id,
                    node.Id == leader,
                    owned.GetValueOrDefault(node.Id),
                    at
                )
            ),
        ];
    }

    static NodeState StateOf(StoredNode node, IReadOnlyCollection<string> living) =>
        node.Left is not null || !living.Contains(node.Id) ? NodeState.Gone
        : node.Silent > TimeSpan.FromSeconds(3) ? NodeState.Silent
        : node.Draining ? NodeState.Draining
        : NodeState.There;

    async Task<NodeAttempts?> WorkOfAsync(StoredNode node, IReadOnlyCollection<string> living)
    {
        if (StateOf(node, living) is NodeState.Gone or NodeState.Silent)
            return null;
        try
        {
            return await NodeAnswers
                .AskAsync<bool, NodeAttempts>(_shared!.Link, node.Id, Question, true)
                .WaitAsync(TimeSpan.FromSeconds(2), _time)
                .ConfigureAwait(false);
        }
        catch (Exception e) when (e is NodeSilentException or TimeoutException)
        {
            return null;
        }
    }

    /// <summary>Has a node hand over what it has and end, or go on as before.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="on">Whether it is to.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is none of that name.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task DrainAsync(string name, bool on, Actor by)
    {
        var line = new AuditLine(_time.GetUtcNow(), by, on ? "drain" : "drain off", $"node {name}");
        if (_shared is null || !await _shared.Store.Nodes.DrainAsync(name, on, line).ConfigureAwait(false))
        {
            var names = _shared is null
                ? []
                : (await _shared.Store.Nodes.AllAsync().ConfigureAwait(false))
                    .Where(n => n.Left is null)
                    .Select(n => n.Name);
            throw new RefusedException(
                RefusalKind.NotFound,
                _shared is null
                    ? "this service shares its database with no other: there are no nodes (serve --join)"
                    : $"there is no node “{name}”{Core.Expressions.Nearest.Hint(name, names)}"
            );
        }
    }
}
