using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Contract;

/// <summary>
/// A kind of step that does work outside of the run machine. One instance serves all attempts; it keeps no state
/// between them.
/// </summary>
public interface IStepKind
{
    /// <summary>Its name, its settings and its outputs.</summary>
    KindDescription Description { get; }

    /// <summary>
    /// Does the work of one attempt. Failures are returned, not thrown; an exception is a bug of the kind and is
    /// reported as such. When <paramref name="cancel"/> is asked for, the work ends as soon as it can; what is returned
    /// then counts for nothing but its log.
    /// </summary>
    /// <param name="settings">The step's <c>set</c>, computed: a map.</param>
    /// <param name="context">What the attempt is and what it may use.</param>
    /// <param name="cancel">Asked for on stop and on timeout.</param>
    ValueTask<AttemptResult> RunAsync(Value settings, AttemptContext context, CancellationToken cancel);

    /// <summary>
    /// Clears away what an attempt left behind when the service ended in the middle of it, before a new one starts.
    /// </summary>
    ValueTask SweepAsync(AttemptContext lost) => ValueTask.CompletedTask;
}

/// <summary>Base of kinds whose settings are a record: schema, check, form and docs are made from it.</summary>
/// <typeparam name="T">The settings; properties bear <see cref="SettingAttribute"/>.</typeparam>
public abstract class StepKind<T> : IStepKind
    where T : class, new()
{
    /// <inheritdoc/>
    public abstract KindDescription Description { get; }

    /// <inheritdoc/>
    public ValueTask<AttemptResult> RunAsync(Value settings, AttemptContext context, CancellationToken cancel)
    {
        var (bound, problem) = SettingsBinder.Bind<T>(settings);
        return bound is null ? new(AttemptResult.Fail("setting", problem!)) : RunAsync(bound, context, cancel);
    }

    /// <summary>Does the work of one attempt.</summary>
    /// <param name="settings">The settings with their expressions computed.</param>
    /// <param name="context">What it may use.</param>
    /// <param name="cancel">Is cancelled when the attempt has to end early.</param>
    protected abstract ValueTask<AttemptResult> RunAsync(T settings, AttemptContext context, CancellationToken cancel);

    /// <inheritdoc/>
    public virtual ValueTask SweepAsync(AttemptContext lost) => ValueTask.CompletedTask;

    /// <summary>
    /// Runs work that blocks on a thread of its own, away from the thread pool; exceptions that are known become
    /// failures.
    /// </summary>
    protected static async ValueTask<AttemptResult> OnThread(
        Func<AttemptResult> work,
        Func<Exception, StepError?> known
    ) =>
        await Task
            .Factory.StartNew(
                () =>
                {
                    try
                    {
                        return work();
                    }
                    catch (StepFailedException e)
                    {
                        return e.Result;
                    }
                    catch (Exception e) when (known(e) is { } error)
                    {
                        return new AttemptResult(Value.EmptyMap, error);
                    }
                },
                CancellationToken.None,
                TaskCreationOptions.LongRunning,
                TaskScheduler.Default
            )
            .ConfigureAwait(false);
}
