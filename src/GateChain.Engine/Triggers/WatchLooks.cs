using GateChain.Core.Triggers;
using GateChain.Core.Values;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Looks every so often, and fires when what it sees says so. What was seen last is on disk with the fire that it led
/// to. Thread-safe.
/// </summary>
/// <param name="trigger">The trigger.</param>
/// <param name="parts">What it works with.</param>
sealed class WatchLooks(Trigger trigger, TriggerParts parts) : ITriggerSource
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
    public void Arm() => _loop = Task.Run(LoopAsync);

    async Task LoopAsync()
    {
        while (!_ending.IsCancellationRequested)
        {
            var began = parts.Time.GetUtcNow();
            try
            {
                await LookAsync(began).ConfigureAwait(false);
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
            Interlocked.Increment(ref _looks);
            var wait = began + _source.Every - parts.Time.GetUtcNow();
            if (wait > TimeSpan.Zero)
            {
                await Task.Delay(wait, parts.Time, _ending.Token)
                    .ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    async Task LookAsync(DateTimeOffset now)
    {
        var profile = await parts
            .Starter.ChooseAsync(trigger.Definition.Chain, trigger.Definition.Profile)
            .ConfigureAwait(false);
        var seen = await new ProbeLook(parts, trigger.Definition.Area)
            .TakeAsync(_source.Probes, profile.Values, now, _ending.Token)
            .ConfigureAwait(false);
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
        parts.Book.Note(trigger.Name, s => s with { Memory = step.Memory });
    }

    /// <summary>Ends.</summary>
    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        if (_loop is not null)
            await _loop.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
    }
}
