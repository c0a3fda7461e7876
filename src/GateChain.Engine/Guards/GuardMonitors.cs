using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Guards;

/// <summary>
/// Takes the probes of one run's guards, and wakes held steps when what they look at changes. Used by the run's mailbox
/// only, but for the watches' reports.
/// </summary>
sealed class GuardMonitors(
    IGuardServices workspace,
    Func<(IConnections Connections, ISecrets Secrets)> here,
    Action<RunInput> post
)
{
    /// <summary>The shortest time between two looks that nobody planned.</summary>
    static readonly TimeSpan Shortest = TimeSpan.FromMilliseconds(50);

    readonly Dictionary<string, GuardMonitor> _lookouts = [];

    /// <summary>One guarded step.</summary>
    sealed class GuardMonitor
    {
        public Dictionary<string, FileWatch?> Watches { get; } = [];
        public CancellationTokenSource Cancel { get; } = new();

        /// <summary>Strikes when something that was looked at can be seen better.</summary>
        public ITimer? Again;
        public TimeSpan? AgainIn;
        public int Changes;
        public int Seen;
        public int Woken;
    }

    /// <summary>Takes a look that is on disk.</summary>
    public void Take(StepState step)
    {
        if (!_lookouts.TryGetValue(step.Path, out var lookout))
            _lookouts[step.Path] = lookout = new();
        var (path, look, probes) = (step.Path, step.Hold!.Looks, step.Hold.Asked);
        var (connections, secrets) = here();
        var context = new ProbeContext(
            workspace.Options.WorkFolder,
            workspace.Options.Folders,
            connections,
            secrets,
            workspace.Time
        );
        // Watched first, then looked at: no change falls between the two.
        foreach (var probe in step.Step.Guard!.Probes)
            Watch(lookout, path, probe, SettingsOf(probes, probe), context);
        lookout.Seen = Volatile.Read(ref lookout.Changes);
        Volatile.Write(ref lookout.Woken, 0);
        _ = Task.Run(async () =>
        {
            var seen = await Task.WhenAll(
                    step.Step.Guard.Probes.Select(async p =>
                        KeyValuePair.Create(
                            p.Name,
                            await LookAsync(p, SettingsOf(probes, p), context, lookout.Cancel.Token)
                                .ConfigureAwait(false)
                        )
                    )
                )
                .ConfigureAwait(false);
            lookout.AgainIn = seen.Zip(step.Step.Guard.Probes, (s, p) =>
                    workspace.ProbeOf(p.Kind.Name).LookAgainIn(SettingsOf(probes, p), s.Value)
                )
                .Min();
            if (!lookout.Cancel.IsCancellationRequested)
            {
                post(new ProbesTakenInput(workspace.Time.GetUtcNow(), path, look, Value.Map(DictionaryMap.Of(seen))));
            }
        });
    }

    static Value SettingsOf(Value probes, Probe probe) => probes.AsMap.Find(probe.Name) ?? Value.EmptyMap;

    Task<Value> LookAsync(Probe probe, Value settings, ProbeContext context, CancellationToken cancel) =>
        Look.AtAsync(
            workspace.ProbeOf(probe.Kind.Name),
            settings,
            context,
            workspace.Secrets.Mask,
            workspace.Options.Bounds,
            cancel
        );

    void Watch(GuardMonitor lookout, string path, Probe probe, Value settings, ProbeContext context)
    {
        if (workspace.ProbeOf(probe.Kind.Name).Watches(settings, context) is not { } pattern)
            return;
        if (lookout.Watches.TryGetValue(probe.Name, out var before))
        {
            // A folder that did not exist may be there by now, or another one in its place.
            if (before is { IsAlive: true } && before.Place == FileWatches.Place(pattern))
                return;
            before?.Dispose();
        }
        lookout.Watches[probe.Name] = workspace.Watches.Watch(pattern, changed =>
        {
            if (!FileWatches.Concerns(pattern, changed))
                return;
            Interlocked.Increment(ref lookout.Changes);
            if (Interlocked.Exchange(ref lookout.Woken, 1) == 0)
                post(new WakeInput(workspace.Time.GetUtcNow(), path));
        });
    }

    /// <summary>A look has led to a hold: what changed while it was taken makes another one worth while.</summary>
    public void Held(string path)
    {
        if (!_lookouts.TryGetValue(path, out var lookout))
            return;
        lookout.Again?.Dispose();
        lookout.Again = null;
        // What changes all the time is not looked at all the time.
        var wait =
            Volatile.Read(ref lookout.Changes) != lookout.Seen ? Shortest
            : lookout.AgainIn is { } again
                ? again < Shortest ? Shortest
                    : again
            : (TimeSpan?)null;
        if (wait is { } time)
        {
            lookout.Again = workspace.Time.CreateTimer(
                _ => post(new WakeInput(workspace.Time.GetUtcNow(), path)),
                null,
                time,
                Timeout.InfiniteTimeSpan
            );
        }
    }

    /// <summary>The step is not on its threshold any more.</summary>
    public void Leave(string path)
    {
        if (!_lookouts.Remove(path, out var lookout))
            return;
        lookout.Cancel.Cancel();
        lookout.Again?.Dispose();
        foreach (var watch in lookout.Watches.Values)
            watch?.Dispose();
    }

    public void LeaveAll()
    {
        foreach (var path in _lookouts.Keys.ToList())
            Leave(path);
    }
}
