using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Triggers;

/// <summary>Takes the probes of a watch.</summary>
sealed class ProbeLook(TriggerParts parts, Area area)
{
    /// <summary>The longest a look may take; a probe that takes longer has failed.</summary>
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <summary>What the probes see now: a map by name. A probe that fails says so in its own place.</summary>
    public async Task<Value> TakeAsync(
        IReadOnlyList<Probe> probes,
        Value profile,
        DateTimeOffset now,
        CancellationToken cancel
    )
    {
        var names = new DictionaryNames(
            new Dictionary<string, Value> { ["profile"] = profile, ["now"] = Value.Timestamp(now) }
        );
        var context = new ProbeContext(
            parts.Options.WorkFolder,
            parts.Options.Folders,
            parts.Workspace.In(area).Connections,
            parts.Secrets,
            parts.Time
        );
        var seen = await Task.WhenAll(
                probes.Select(async p => KeyValuePair.Create(p.Name, await OneAsync(p).ConfigureAwait(false)))
            )
            .ConfigureAwait(false);
        return Value.Map(DictionaryMap.Of(seen));

        async Task<Value> OneAsync(Probe probe)
        {
            var settings = probe.Settings.Evaluate(names);
            if (settings.IsError)
                return ProbeResult.Failed(settings.AsError.Message);
            using var limit = new CancellationTokenSource(Patience, parts.Time);
            using var either = CancellationTokenSource.CreateLinkedTokenSource(limit.Token, cancel);
            try
            {
                // One that does not listen is left behind.
                var look = Task.Run(
                    () => parts.Probes[probe.Kind.Name].LookAsync(settings, context, either.Token).AsTask(),
                    CancellationToken.None
                );
                return parts.Secrets.Mask.Of(await look.WaitAsync(either.Token).ConfigureAwait(false));
            }
            catch (OperationCanceledException) when (limit.IsCancellationRequested)
            {
                return ProbeResult.Failed($"the look took longer than {TimeText.Setting(Patience)}");
            }
            catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
            {
                return ProbeResult.Failed(parts.Secrets.Mask.Text(e.Message));
            }
        }
    }
}
