using System.Globalization;
using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Runs;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

// What people decide about runs. Of two who decide at once, the second is told who was first.
public sealed partial class ChainEngine
{
    /// <summary>
    /// Asks a run to stop; what runs is ended. For one that will be resumed by itself, that is called off.
    /// </summary>
    /// <exception cref="RefusedException">There is no such run, or it has ended.</exception>
    public async Task StopAsync(long run, string by, string? message)
    {
        if (
            _actors.TryGetValue(run, out var actor)
            && await actor.PostAsync(new StopInput(Time.GetUtcNow(), by, message)).ConfigureAwait(false)
        )
        {
            return;
        }
        var head = HeadOf(run);
        if (head.ResumeAt is not null && await CallOffAsync(head, by).ConfigureAwait(false))
            return;
        var (state, at, stopping) = await ReadAsync(run, (s, _) => (s.Word, s.Ended, s.IsStopping))
            .ConfigureAwait(false);
        if (at is null && stopping)
            return;
        throw new RefusedException(
            RefusalKind.Conflict,
            $"run {run} has already ended: it {(state == "stopped" ? "was stopped" : state)} at {at:u}"
        );
    }

    async Task<bool> CallOffAsync(RunHead head, string by)
    {
        var ticket = new ResumeTicket(by);
        if (_resuming.GetOrAdd(head.Id, ticket) != ticket)
            return false;
        try
        {
            var epoch = await _store.TakeOverAsync(head.Id).ConfigureAwait(false);
            var (state, seq) = Fold(HeadOf(head.Id));
            var calledOff = await new RunActor(state, seq, epoch, this)
                .PostAsync(new StopInput(Time.GetUtcNow(), by, null))
                .ConfigureAwait(false);
            _ended.Forget(head.Id);
            return calledOff;
        }
        finally
        {
            _resuming.TryRemove(head.Id, out _);
        }
    }

    /// <summary>Pauses a run: what runs, runs to its end; nothing new starts until it is resumed.</summary>
    /// <exception cref="RefusedException">There is no such run, it has ended or is ending, is queued, or somebody else
    /// has paused it.</exception>
    public async Task PauseAsync(long run, string by, string? message)
    {
        if (!_actors.TryGetValue(run, out var actor))
        {
            var head = HeadOf(run);
            throw new RefusedException(
                RefusalKind.Conflict,
                $"run {run} has already ended: it {(head.State == "stopped" ? "was stopped" : head.State)}"
                    + $" at {head.Ended:u}"
            );
        }
        await actor
            .PostAsync(state =>
                state switch
                {
                    { Pause: { } pause } => throw Conflict($"run {run} was already paused by {pause.By}"),
                    { IsQueued: true } => throw Conflict($"run {run} is queued and has not begun"),
                    { IsStopping: true } => throw Conflict($"run {run} is being stopped by {state.Stop!.By}"),
                    { RootEnd: not null } => throw Conflict($"run {run} is ending: only its handlers still run"),
                    { HasEnded: true } => throw Conflict($"run {run} has just ended"),
                    _ => new PauseInput(Time.GetUtcNow(), by, message),
                }
            )
            .ConfigureAwait(false);
    }

    /// <summary>Decides about a step that has paused its run.</summary>
    /// <param name="run">The run.</param>
    /// <param name="path">The step.</param>
    /// <param name="answer">What is to be done.</param>
    /// <param name="outputs">For <see cref="PauseAnswer.Settle"/>: the outputs it settles with, a map.</param>
    /// <param name="message">Why; shown with the step.</param>
    /// <param name="by">Who decides.</param>
    /// <exception cref="RefusedException">There is no such run or step, it is not paused, or somebody else was
    /// first.</exception>
    public async Task AnswerAsync(long run, string path, PauseAnswer answer, Value outputs, string? message, string by)
    {
        if (outputs.Kind != ValueKind.Map)
            throw new RefusedException(RefusalKind.Invalid, "outputs are a mapping of names to values");
        if (!_actors.TryGetValue(run, out var actor))
        {
            throw await ReadAsync(run, (s, _) =>
                    s.Find(path) is { } found
                        ? Conflict(
                            $"run {run} has ended ({s.Word}); {SayWhyNot(found)}. To do it again: "
                                + $"gatechain resume {run}"
                                + $"{(s.HasEnded && s.Outcome == Outcome.Succeeded ? $" --from '{path}'" : "")}"
                        )
                        : RefusedException.NoStep(s, path)
                )
                .ConfigureAwait(false);
        }
        await actor
            .PostAsync(state =>
            {
                if (state.Find(path) is not { } step)
                    throw RefusedException.NoStep(state, path);
                if (answer == PauseAnswer.Settle)
                    CheckOutputs(state, path, outputs);
                return step.Phase == StepPhase.Paused
                    ? new AnswerInput(Time.GetUtcNow(), path, answer, by, outputs, message)
                    : throw Conflict(SayWhyNot(step));
            })
            .ConfigureAwait(false);
    }

    static string SayWhyNot(StepState step) =>
        step.Answered is { } first
            ? $"“{step.Path}” is not paused any more: {first.By} answered “{first.Answer.Word()}” at {first.At:u}"
            : $"“{step.Path}” is not paused; it is {step.Word}";

    static RefusedException Conflict(string why) => new(RefusalKind.Conflict, why);

    /// <summary>
    /// Goes on with a failed, stopped or paused run from its checkpoint, in a new leg. Gives the leg's number.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="by">Who asks.</param>
    /// <param name="order">What is to be done otherwise than before.</param>
    /// <exception cref="RefusedException">The run is going, succeeded, does not fit the wanted release, or was resumed
    /// by somebody else at the same time.</exception>
    public async Task<int> ResumeAsync(long run, string by, ResumeOrder order)
    {
        var head = HeadOf(run);
        var release = order.Release is null
            ? null
            : await ReleaseOfAsync(head.Chain, order.Release).ConfigureAwait(false);
        if (release == head.Release)
            release = null;
        var (parameters, variables) = Parameters.ReadOverrides(ChainOf(release ?? head.Release), order.Set, Bounds);
        foreach (var (path, outputs) in order.Settle)
        {
            if (outputs.Kind != ValueKind.Map)
            {
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"the outputs for “{path}” are a mapping of names to values"
                );
            }
        }
        await ExamineChildrenAsync(run, [.. order.From, .. order.Skip, .. order.Settle.Keys]).ConfigureAwait(false);
        ResumeInput Input(bool queued) =>
            new(Time.GetUtcNow(), by, parameters, variables, order.From, order.Skip)
            {
                Settle = order.Settle,
                Release = release,
                Number = release is null ? 0 : NumberOf(head.Chain, release) ?? 0,
                Automatic = order.Automatic,
                Queued = queued,
            };
        // Two at once: one of them gets its name in, and the other is told who was first.
        var ticket = new ResumeTicket(by);
        var first = _resuming.GetOrAdd(run, ticket);
        if (first != ticket)
            throw Conflict($"run {run} is being resumed by {first.By} at this moment");
        try
        {
            var leg = 0;
            if (_actors.TryGetValue(run, out var going))
            {
                await going
                    .PostAsync(state =>
                    {
                        if (!state.IsPaused)
                            throw AlreadyGoing(state);
                        Examine(state, order, release);
                        leg = state.Leg + 1;
                        return Input(queued: false);
                    })
                    .ConfigureAwait(false);
                return leg;
            }
            var epoch = await _store.TakeOverAsync(run).ConfigureAwait(false);
            var (ended, seq) = Fold(HeadOf(run));
            Examine(ended, order, release);
            leg = ended.Leg + 1;
            await BeginAsync(new(ended, seq, epoch, this), ended.Chain, ended.Parent, queued =>
                {
                    _automatic.CallOff(run);
                    return Input(queued);
                })
                .ConfigureAwait(false);
            return leg;
        }
        finally
        {
            _resuming.TryRemove(run, out _);
        }
    }

    /// <summary>
    /// What a resume would do, the leg it would begin, and how many steps it would keep; nothing is begun.
    /// </summary>
    /// <exception cref="RefusedException">It would be refused; the message says why.</exception>
    public async Task<(ResumePlan Plan, int Leg, int Kept)> PlanAsync(long run, ResumeOrder order)
    {
        var head = HeadOf(run);
        var release = order.Release is null
            ? null
            : await ReleaseOfAsync(head.Chain, order.Release).ConfigureAwait(false);
        if (release == head.Release)
            release = null;
        Parameters.ReadOverrides(ChainOf(release ?? head.Release), order.Set, Bounds);
        await ExamineChildrenAsync(run, [.. order.From, .. order.Skip, .. order.Settle.Keys]).ConfigureAwait(false);
        return await ReadAsync(run, (state, _) =>
            {
                if (!state.HasEnded && !state.IsPaused)
                    throw AlreadyGoing(state);
                var plan = Examine(state, order, release);
                var again = plan.Reset.Concat(plan.Reopened).ToHashSet();
                return (
                    plan,
                    state.Leg + 1,
                    state.AllSteps.Count(s => s.IsSettled && !s.Scope.IsHandler && !again.Contains(s.Path))
                );
            })
            .ConfigureAwait(false);
    }

    /// <summary>A person says that what a lost attempt had started is gone, which the service could not end.</summary>
    /// <exception cref="RefusedException">There is no such run or step, or it does not wait for that.</exception>
    public async Task ConfirmGoneAsync(long run, string path, string by)
    {
        HeadOf(run);
        if (!_actors.TryGetValue(run, out var actor))
            throw Conflict($"run {run} is not going on");
        await actor
            .PostAsync(state =>
            {
                if (state.Find(path) is not { } step)
                    throw RefusedException.NoStep(state, path);
                return step.Leftover is not null
                    ? new LostInput(Time.GetUtcNow(), path, step.Attempt, by)
                    : throw Conflict($"“{path}” does not wait for anything of a lost attempt");
            })
            .ConfigureAwait(false);
    }

    // Paths that lead into child runs must lead to a step there, before anything begins.
    async Task ExamineChildrenAsync(long run, IReadOnlyList<string> paths)
    {
        var inner = await ReadAsync(run, (s, _) =>
                paths
                    .Where(p => s.Find(p) is null && s.FindScopeOrNull(p) is null)
                    .Select(p =>
                        ResumePlan.CallAbove(s, p) is var (call, rest)
                            ? (call.Child!.Run, Path: rest)
                            : throw RefusedException.NoStep(s, p)
                    )
                    .ToList()
            )
            .ConfigureAwait(false);
        foreach (var child in inner.GroupBy(i => i.Run))
            await ExamineChildrenAsync(child.Key, [.. child.Select(c => c.Path)]).ConfigureAwait(false);
    }

    // What a person gives in the place of a kind's outputs is what that kind would give.
    static void CheckOutputs(RunState state, string path, Value outputs)
    {
        if (state.Find(path)?.Step is { } step && HandOutputs.Wrong(step, outputs) is { Count: > 0 } wrong)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{path}” can't be settled so: {string.Join("; ", wrong)}",
                wrong
            );
        }
    }

    ResumePlan Examine(RunState state, ResumeOrder order, string? release)
    {
        var plan = RunMachine.PlanResume(
            state,
            new(order.From, [.. order.Skip, .. order.Settle.Keys], release is null ? null : ChainOf(release))
        );
        if (order.From.FirstOrDefault(order.Skip.Contains) is { } both)
            throw new RefusedException(RefusalKind.Invalid, $"“{both}” can't be done again and passed over at once");
        foreach (var (path, outputs) in order.Settle)
            CheckOutputs(state, path, outputs);
        if (plan.Refusal is not { } refusal)
            return plan;
        throw new RefusedException(RefusalKind.Conflict, $"run {state.Id} can't be resumed: {refusal}", plan.Misfits);
    }

    /// <summary>
    /// The content that a person names: <c>latest</c>, <c>draft</c>, the number of a release, a content hash or at
    /// least four characters of its beginning.
    /// </summary>
    async Task<string> ReleaseOfAsync(string chain, string name)
    {
        if (name == "latest")
            return _releases.Get(new(chain, null));
        if (name == "draft")
        {
            if (Drafts.Get(chain) is not { Version: > 0 } draft)
                throw new RefusedException(RefusalKind.NotFound, $"“{chain}” has no draft");
            var content = Drafts.Content(chain, draft.Source);
            await _store.KeepAsync(content).ConfigureAwait(false);
            return content.Hash;
        }
        var isNumber = int.TryParse(name, NumberStyles.None, CultureInfo.InvariantCulture, out var number);
        return (isNumber ? _releases.Find(new(chain, number)) : null)
            ?? (
                name.Length >= 4 && _store.FindReleases(chain, name) is [var only] ? only
                : isNumber ? _releases.Get(new(chain, number))
                : throw new RefusedException(
                    RefusalKind.NotFound,
                    $"“{chain}” has no release “{name}”, or more than one that begins so"
                )
            );
    }

    static RefusedException AlreadyGoing(RunState state) =>
        Conflict(
            state.Leg > 1
                ? $"run {state.Id} is already going on: leg {state.Leg} was begun by {state.Resumes[^1].By}"
                : $"run {state.Id} is still going since {state.Started:u}"
        );

    async Task ResumeByItselfAsync(long run)
    {
        if (_suspending)
            return;
        try
        {
            await ResumeAsync(run, "recover", new() { Automatic = true }).ConfigureAwait(false);
        }
        catch (Exception e) when (e is RefusedException or StorageException)
        {
            if (
                _store.Find(run) is { ResumeAt: not null, Ended: not null }
                && e is not RefusedException { Kind: RefusalKind.Invalid }
            )
            {
                // Somebody is in the way for now.
                _automatic.Plan(run, Time.GetUtcNow() + TimeSpan.FromSeconds(30));
            }
            _logger.LogWarning("Run {Run} was not resumed by itself: {Reason}", run, e.Message);
        }
    }

    /// <summary>Somebody who is just beginning a leg.</summary>
    sealed class ResumeTicket(string by)
    {
        public string By { get; } = by;
    }
}
