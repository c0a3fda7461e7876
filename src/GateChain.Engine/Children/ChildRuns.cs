using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Children;

/// <summary>
/// Starts, resumes and stops the child runs of calls, and tells the calls how they end. Thread-safe. A child names its
/// call, so that one that was started before a crash is found again and not started twice.
/// </summary>
sealed class ChildRuns
{
    readonly IChildWork _work;
    readonly IRunStore _store;
    readonly RunReader _reader;
    readonly TimeProvider _time;

    /// <param name="work">Does to child runs what a call asks.</param>
    /// <param name="store">Knows which child belongs to which call.</param>
    /// <param name="reader">Shows children as they are on disk.</param>
    /// <param name="feed">Tells when one has ended.</param>
    /// <param name="time">The clock.</param>
    public ChildRuns(IChildWork work, IRunStore store, RunReader reader, RunFeed feed, TimeProvider time)
    {
        (_work, _store, _reader, _time) = (work, store, reader, time);
        feed.SubscribeToNotifications(notification =>
        {
            // One that will be resumed by itself has not ended for its caller.
            if (notification.End is { Parent: { } link, ResumeAt: null } end && work.CallerOf(link.Run) is { } parent)
                parent.Post(EndOf(parent.Area, notification.Run, notification.Chain, end, link.Step));
        });
    }

    /// <summary>What a call wants, read off its run's state.</summary>
    /// <param name="Record">The number of the call's attempt among all of its run: a resume of the child that names it
    /// is not made twice.</param>
    sealed record Call(
        long Run,
        int Leg,
        Actor By,
        string Step,
        int Attempt,
        int Record,
        int Depth,
        bool Tried,
        string Trace,
        bool Waits,
        CalledChain Chain,
        Value Inputs,
        RunProfile Profile,
        ChildState? Child,
        IReadOnlyList<string> From,
        IReadOnlyList<string> Skip,
        IReadOnlyDictionary<string, Value> Settle
    )
    {
        /// <summary>Who resumes the child: whoever resumed the caller, in which leg of it.</summary>
        public Actor Resumer => Actor.OfRun(Run, $"{By} (run {Run}, leg {Leg}, attempt {Record})");
    }

    /// <summary>
    /// Ensures a call that is running: its child is found, started or resumed. Called by the mailbox of the calling
    /// run.
    /// </summary>
    public void Ensure(ICallingRun parent, RunState state, StepState step, bool recovering)
    {
        var leg = state.Resumes.Count > 0 ? state.Resumes[^1] : null;
        string? Inner(string path) => new StepPath(path).Behind(new(step.Path))?.Text;
        var call = new Call(
            state.Id,
            state.Leg,
            leg?.By ?? state.By,
            step.Path,
            step.Attempt,
            step.Record!.Number,
            (state.Parent?.Depth ?? 0) + 1,
            state.IsTry,
            TraceContext.Shown(state, step.Record.Number),
            step.Step.Call!.Wait,
            step.Step.Call.Child,
            step.Inputs.AsMap.Find("inputs") ?? Value.EmptyMap,
            RunProfile.Of(state),
            step.Child,
            [.. (leg?.From ?? []).Select(Inner).OfType<string>()],
            [.. (leg?.Skip ?? []).Select(Inner).OfType<string>()],
            (leg?.Settle ?? new Dictionary<string, Value>())
                .Where(s => Inner(s.Key) is not null)
                .ToDictionary(s => Inner(s.Key)!, s => s.Value)
        );
        _ = EnsureAsync(parent, call, recovering);
    }

    async Task EnsureAsync(ICallingRun parent, Call call, bool recovering)
    {
        try
        {
            var (child, leg) = call.Child switch
            {
                null => await FindOrStartAsync(call, recovering).ConfigureAwait(false),
                { ToResume: true } known => await ResumeAsync(call, known).ConfigureAwait(false),
                var known => (known.Run, known.Leg),
            };
            parent.Post(new ChildStartedInput(_time.GetUtcNow(), call.Step, call.Attempt, child, leg));
            // It may have ended before the call knew its number.
            if (call.Waits && !_work.IsGoing(child))
                await NotifyEndAsync(parent, call.Step, child).ConfigureAwait(false);
        }
        catch (RefusedException e)
        {
            parent.Post(NotStarted(call, new("child", e.Message)));
        }
        catch (StorageException) when (_work.CallerOf(call.Run) == parent)
        {
            // Nothing can be written for now: the call holds still like everything else.
            await Task.Delay(TimeSpan.FromMilliseconds(200), _time).ConfigureAwait(false);
            _ = EnsureAsync(parent, call, recovering: true);
        }
    }

    ChildEndedInput NotStarted(Call call, StepError error) =>
        new(_time.GetUtcNow(), call.Step, null, Outcome.Failed, Value.EmptyMap, error);

    async Task<(long Run, int Leg)> FindOrStartAsync(Call call, bool recovering)
    {
        var origin = new RunOrigin.Call(call.Run, call.Step, call.Record);
        if (recovering && await _store.FindByOriginAsync(origin.Key).ConfigureAwait(false) is { } head)
            return (head.Id, head.Leg);
        var inputs = call.Inputs.AsMap.Entries.ToDictionary(e => e.Key.AsString, e => e.Value);
        var run = await _work
            .StartChildAsync(
                call.Chain,
                inputs,
                call.Profile,
                call.By,
                new(call.Run, call.Step, call.Record, call.Depth, call.Tried, call.Trace)
            )
            .ConfigureAwait(false);
        return (run, 1);
    }

    async Task<(long Run, int Leg)> ResumeAsync(Call call, ChildState known)
    {
        var (leg, outcome, by, parameters, area) = await _reader
            .ReadAsync(known.Run, (s, _) =>
                (s.Leg, s.Outcome, s.Resumes.Count > 0 ? s.Resumes[^1].By.Name : "", s.Params, s.Area)
            )
            .ConfigureAwait(false);
        // Steps inside are for who sees the child: from elsewhere it is resumed as it is.
        if (!call.Profile.Area.Holds(area))
            call = call with { From = [], Skip = [], Settle = new Dictionary<string, Value>() };
        // It continues already, is through by now, or this very leg has resumed it before a crash.
        if (
            outcome is null
            || by == call.Resumer.Name
            || (outcome == Outcome.Succeeded && call.From.Count + call.Skip.Count + call.Settle.Count == 0)
        )
        {
            return (known.Run, leg);
        }
        // Corrections reach the child through the inputs that depend on them.
        var changed = call
            .Inputs.AsMap.Entries.Select(e => KeyValuePair.Create(e.Key.AsString, e.Value))
            .Where(e => parameters.Find(e.Key) is not { } now || !now.Equals(e.Value))
            .ToDictionary(e => "params." + e.Key, e => e.Value);
        return (
            known.Run,
            await _work
                .ResumeAsync(
                    known.Run,
                    call.Resumer,
                    new()
                    {
                        Set = changed,
                        From = call.From,
                        Skip = call.Skip,
                        Settle = call.Settle,
                    }
                )
                .ConfigureAwait(false)
        );
    }

    async Task NotifyEndAsync(ICallingRun parent, string step, long child)
    {
        var end = await _reader
            .ReadAsync(child, (s, _) =>
                s.HasEnded && s.ResumeAt is null ? EndOf(parent.Area, child, s.Chain.Name, RunEnd.Of(s), step) : null
            )
            .ConfigureAwait(false);
        if (end is not null)
            parent.Post(end);
    }

    // A caller from elsewhere learns the outcome and the outputs: what went wrong inside is not its business.
    ChildEndedInput EndOf(Area caller, long child, string chain, RunEnd end, string step)
    {
        var (error, warnings) = caller.Holds(end.Area) ? (end.Error, end.Warnings) : (null, []);
        return new(
            _time.GetUtcNow(),
            step,
            child,
            end.Outcome,
            end.Outputs,
            end.Outcome == Outcome.Succeeded
                ? null
                : new(
                    "child",
                    $"run {child} ({chain}) "
                        + $"{(end.Outcome == Outcome.Stopped ? "was stopped" : "failed")}"
                        + (error is null ? "" : $": {error.Message}"),
                    Origin: error?.Origin
                ),
            [.. warnings]
        );
    }

    /// <summary>Stops the child of a call that has to end early.</summary>
    public void Stop(long parent, StepState step)
    {
        if (step is { Child: { } child, Step.Call.Wait: true })
            _ = StopAsync(child.Run, parent);
    }

    async Task StopAsync(long child, long parent)
    {
        try
        {
            await _work.StopAsync(child, Actor.OfRun(parent), "the run that called it is ending").ConfigureAwait(false);
        }
        catch (RefusedException)
        {
            // It has ended by itself, and says so.
        }
    }
}
