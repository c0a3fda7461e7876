using GateChain.Core.Expressions;
using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Guards;
using GateChain.Kinds.Contract;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Looks every so often, and fires when what it sees says so. What was seen last is on disk with the fire that it led
/// to. Thread-safe.
/// </summary>
/// <param name="trigger">The trigger.</param>
/// <param name="parts">What it works with.</param>
sealed class WatchProbes(Trigger trigger, TriggerParts parts) : ITriggerSource
{
    readonly WatchSource _source = (WatchSource)trigger.Definition.Source;
    readonly CancellationTokenSource _ending = new();
    Task? _loop;
    string? _memory = trigger.State.Memory;
    int _looks;

    /// <summary>How many looks it has taken.</summary>
    internal int Looks => Volatile.Read(ref _looks);

    /// <inheritdoc/>
    public IReadOnlyList<string> Troubles { get; private set; } = [];

    /// <inheritdoc/>
    public Task Armed => Task.CompletedTask;

    /// <inheritdoc/>
    public void Arm() => _loop = Task.Run(LoopAsync);

    async Task LoopAsync()
    {
        while (!_ending.IsCancellationRequested)
        {
            // Time that passes, whatever becomes of the clock.
            var began = parts.Time.GetTimestamp();
            try
            {
                await LookAsync(parts.Time.GetUtcNow()).ConfigureAwait(false);
            }
            catch (OperationCanceledException) when (_ending.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // The next look sees the same.
                Troubles = [parts.Secrets.Mask.Text(e.Message)];
                parts.Logger.LogWarning("Trigger {Trigger} could not look: {Reason}", trigger.Name, e.Message);
            }
            var left = _source.Every - parts.Time.GetElapsedTime(began);
            var wait = left > TimeSpan.Zero ? Task.Delay(left, parts.Time, _ending.Token) : Task.CompletedTask;
            // Whoever has seen that it looked may turn the clock.
            Interlocked.Increment(ref _looks);
            await wait.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    async Task LookAsync(DateTimeOffset now)
    {
        var profile = await parts
            .Starter.ChooseAsync(trigger.Definition.Chain, trigger.Definition.Profile)
            .ConfigureAwait(false);
        var seen = await SeeAsync(profile.Values, now).ConfigureAwait(false);
        _ending.Token.ThrowIfCancellationRequested();
        var (step, trouble) = WatchRules.Look(_source, seen, profile.Values, _memory);
        Troubles = trouble is null ? [] : [trouble];
        if (step is null)
            return;
        if (step.Fires)
        {
            var key = $"look:{now.UtcTicks}";
            await parts
                .Desk.FireAsync(
                    trigger.Definition,
                    new(
                        key,
                        Value.Map(
                            ("trigger", Value.String(trigger.Name)),
                            ("at", Value.Timestamp(now)),
                            ("probes", seen)
                        )
                    )
                    {
                        Takes = [key],
                        Memory = step.Memory,
                    }
                )
                .ConfigureAwait(false);
        }
        else if (step.Memory != _memory)
        {
            await parts.Store.RememberAsync(trigger.Name, step.Memory).ConfigureAwait(false);
        }
        _memory = step.Memory;
        parts.Triggers.Note(trigger.Name, s => s with { Memory = step.Memory });
    }

    // A map by name. A probe that fails says so in its own place.
    async Task<Value> SeeAsync(Value profile, DateTimeOffset now)
    {
        var names = new DictionaryBindings(
            new Dictionary<string, Value> { ["profile"] = profile, ["now"] = Value.Timestamp(now) }
        );
        var context = new ProbeContext(
            parts.Options.WorkFolder,
            parts.Options.Folders,
            parts.Workspace.In(trigger.Definition.Area).Connections,
            parts.Secrets.In(trigger.Definition.Area),
            parts.Time
        );
        var seen = await Task.WhenAll(
                _source.Probes.Select(async p =>
                {
                    var settings = p.Settings.Evaluate(names);
                    return KeyValuePair.Create(
                        p.Name,
                        settings.IsError
                            ? ProbeResult.Failed(settings.AsError.Message)
                            : await Look.AtAsync(
                                    parts.Probes[p.Kind.Name],
                                    settings,
                                    context,
                                    parts.Secrets.Mask,
                                    parts.Options.Bounds,
                                    _ending.Token
                                )
                                .ConfigureAwait(false)
                    );
                })
            )
            .ConfigureAwait(false);
        return Value.Map(DictionaryMap.Of(seen));
    }

    /// <summary>Ends.</summary>
    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        if (_loop is not null)
            await _loop.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
    }
}
