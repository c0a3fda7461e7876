using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Engine.Children;

/// <summary>
/// Starts, resumes and stops the child runs of calls, and tells the calls how they end. Thread-safe. A child names its
/// call, so that one that was started before a crash is found again and not started twice.
/// </summary>
sealed class ChildRuns(IChildHost engine)
{
    /// <summary>What a call wants, read off its run's state.</summary>
    /// <param name="Record">The number of the call's attempt among all of its run: a resume of the child that names it
    /// is not made twice.</param>
    sealed record Call(
        long Run,
        int Leg,
        string By,
        string Step,
        int Attempt,
        int Record,
        int Depth,
        bool Waits,
        CalledChain Chain,
        Value Inputs,
        Value Profile,
        ChildState? Child,
        IReadOnlyList<string> From,
        IReadOnlyList<string> Skip,
        IReadOnlyDictionary<string, Value> Settle
    )
    {
        /// <summary>Who resumes the child: whoever resumed the caller, in which leg of it.</summary>
        public string Resumer => $"{By} (run {Run}, leg {Leg}, attempt {Record})";
    }

    /// <summary>
    /// Sees to a call that is at work: its child is found, started or resumed. Called by the mailbox of the calling
    /// run.
    /// </summary>
    public void SeeTo(ICallingRun parent, RunState state, StepState step, bool recovering)
    {
        var leg = state.Resumes.Count > 0 ? state.Resumes[^1] : null;
        string? Inner(string path) =>
            path.StartsWith(step.Path + "/", StringComparison.Ordinal) ? path[(step.Path.Length + 1)..] : null;
        var call = new Call(
            state.Id,
            state.Leg,
            leg?.By ?? state.By,
            step.Path,
            step.Attempt,
            step.Record!.Number,
            (state.Parent?.Depth ?? 0) + 1,
            step.Step.Call!.Wait,
            step.Step.Call.Child,
            step.Inputs.AsMap.Find("inputs") ?? Value.EmptyMap,
            state.Profile,
            step.Child,
            [.. (leg?.From ?? []).Select(Inner).OfType<string>()],
            [.. (leg?.Skip ?? []).Select(Inner).OfType<string>()],
            (leg?.Settle ?? new Dictionary<string, Value>())
                .Where(s => Inner(s.Key) is not null)
                .ToDictionary(s => Inner(s.Key)!, s => s.Value)
        );
        _ = SeeToAsync(parent, call, recovering);
    }

    async Task SeeToAsync(ICallingRun parent, Call call, bool recovering)
    {
        try
        {
            var (child, leg) = call.Child switch
            {
                null => await FindOrStartAsync(call, recovering).ConfigureAwait(false),
                { ToResume: true } known => await ResumeAsync(call, known).ConfigureAwait(false),
                var known => (known.Run, known.Leg),
            };
            parent.Post(new ChildStartedInput(engine.Time.GetUtcNow(), call.Step, call.Attempt, child, leg));
            // It may have ended before the call knew its number.
            if (call.Waits && !engine.IsGoing(child))
                await TellEndAsync(parent, call.Step, child).ConfigureAwait(false);
        }
        catch (RefusedException e)
        {
            parent.Post(NotStarted(call, new("child", e.Message)));
        }
        catch (StorageException) when (engine.CallerOf(call.Run) == parent)
        {
            // Nothing can be written for now: the call holds still like everything else.
            await Task.Delay(TimeSpan.FromMilliseconds(200), engine.Time).ConfigureAwait(false);
            _ = SeeToAsync(parent, call, recovering: true);
        }
    }

    ChildEndedInput NotStarted(Call call, StepError error) =>
        new(engine.Time.GetUtcNow(), call.Step, null, Outcome.Failed, Value.EmptyMap, error);

    async Task<(long Run, int Leg)> FindOrStartAsync(Call call, bool recovering)
    {
        var link = new ParentCall(call.Run, call.Step, call.Record);
        if (recovering && engine.FindChild(link) is { } head)
            return (head.Id, head.Leg);
        var inputs = call.Inputs.AsMap.Entries.ToDictionary(e => e.Key.AsString, e => e.Value);
        var run = await engine
            .StartChildAsync(
                call.Chain,
                inputs,
                call.Profile,
                call.By,
                new(call.Run, call.Step, call.Record, call.Depth)
            )
            .ConfigureAwait(false);
        return (run, 1);
    }

    async Task<(long Run, int Leg)> ResumeAsync(Call call, ChildState known)
    {
        var (leg, outcome, by, parameters) = await engine
            .ReadAsync(known.Run, (s, _) => (s.Leg, s.Outcome, s.Resumes.Count > 0 ? s.Resumes[^1].By : "", s.Params))
            .ConfigureAwait(false);
        // It goes on already, is through by now, or this very leg has resumed it before a crash.
        if (
            outcome is null
            || by == call.Resumer
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
            await engine
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

    /// <summary>A run that is somebody's child has ended for good.</summary>
    public void Ended(RunState child)
    {
        if (child.Parent is { } link && engine.CallerOf(link.Run) is { } parent)
            parent.Post(EndOf(child, link.Step));
    }

    async Task TellEndAsync(ICallingRun parent, string step, long child)
    {
        if (
            await engine
                .ReadAsync(child, (s, _) => s.HasEnded && s.ResumeAt is null ? EndOf(s, step) : null)
                .ConfigureAwait(false) is
            { } end
        )
        {
            parent.Post(end);
        }
    }

    ChildEndedInput EndOf(RunState child, string step) =>
        new(
            engine.Time.GetUtcNow(),
            step,
            child.Id,
            child.Outcome!.Value,
            child.Outputs,
            child.Outcome == Outcome.Succeeded
                ? null
                : new(
                    "child",
                    $"run {child.Id} ({child.Chain.Name}) "
                        + $"{(child.Outcome == Outcome.Stopped ? "was stopped" : "failed")}"
                        + $"{(child.Error is { } error ? $": {error.Message}" : "")}",
                    Origin: child.Error?.Origin
                ),
            [.. child.Warnings.Where(w => w.Step.Length == 0).Select(w => w.Message)]
        );

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
            await engine.StopAsync(child, $"run {parent}", "the run that called it is ending").ConfigureAwait(false);
        }
        catch (RefusedException)
        {
            // It has ended by itself, and says so.
        }
    }
}

/// <summary>The run of a call, as far as its children need it.</summary>
interface ICallingRun
{
    /// <summary>Hands over what a child has to tell.</summary>
    void Post(RunInput input);
}

/// <summary>What child runs need from the engine.</summary>
interface IChildHost
{
    TimeProvider Time { get; }
    bool IsGoing(long run);
    ICallingRun? CallerOf(long run);
    RunHead? FindChild(ParentCall call);
    Task<long> StartChildAsync(
        CalledChain chain,
        IReadOnlyDictionary<string, Value> inputs,
        Value profile,
        string by,
        ParentLink parent
    );
    Task<int> ResumeAsync(long run, string by, ResumeOrder order);
    Task StopAsync(long run, string by, string? message);
    Task<T> ReadAsync<T>(long run, Func<RunState, long, T> read);
}
