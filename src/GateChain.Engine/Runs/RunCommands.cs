using System.Collections.Concurrent;
using System.Globalization;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Reading;
using GateChain.Engine.Releases;
using GateChain.Engine.Sharing;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// What people decide about runs. Of two who decide at once, the second is told who was first. Thread-safe.
/// </summary>
public sealed class RunCommands
{
    readonly RunServices _services;
    readonly ActiveRuns _runs;
    readonly Admission _admission;
    readonly ReleaseIndex _releases;
    readonly ReleasedChains _chains;
    readonly DraftService _drafts;
    readonly ICatalogue _catalogue;
    readonly IRunStore _store;
    readonly IRunOwnership _ownership;
    readonly RunFolder _folder;
    readonly RunReader _reader;
    readonly RunRouter _router;
    readonly ConcurrentDictionary<long, ResumeTicket> _resuming = new();

    internal RunCommands(
        RunServices services,
        ActiveRuns runs,
        Admission admission,
        ReleaseIndex releases,
        ReleasedChains chains,
        DraftService drafts,
        IStore store,
        RunFolder folder,
        RunReader reader,
        RunRouter router
    )
    {
        (_services, _runs, _admission, _releases, _chains) = (services, runs, admission, releases, chains);
        (_drafts, _catalogue, _store, _ownership) = (drafts, store.Catalogue, store.Runs, store.Ownership);
        (_folder, _reader, _router) = (folder, reader, router);
    }

    /// <summary>Does here what was ordered of a run.</summary>
    /// <exception cref="RefusedException">It is refused.</exception>
    internal async Task<int> DoAsync(RunOrder order)
    {
        var by = order.By.ToActor();
        switch (order)
        {
            case RunOrder.Stop stop:
                await StopHereAsync(stop.Run, by, stop.Message).ConfigureAwait(false);
                return 0;
            case RunOrder.Resume resume:
                return await ResumeHereAsync(resume.Run, by, resume.Options with { Automatic = resume.Automatic })
                    .ConfigureAwait(false);
            default:
                await CommandAsync(order.Run, InputOf(order, by)).ConfigureAwait(false);
                return 0;
        }
    }

    RunInput InputOf(RunOrder order, Actor by) =>
        order switch
        {
            RunOrder.Pause pause => new PauseInput(Now, by, pause.Message),
            RunOrder.Answer answer => new AnswerInput(
                Now,
                answer.Path,
                answer.Given,
                by,
                answer.Outputs,
                answer.Message
            ),
            RunOrder.Cancel cancel => new CancelInput(
                Now,
                cancel.Path,
                cancel.Outcome,
                by,
                cancel.Outputs,
                cancel.Message
            ),
            RunOrder.Hold hold => new HoldInput(Now, hold.Path, hold.Given, by, hold.Message),
            RunOrder.Gone gone => new ConfirmGoneInput(Now, gone.Path, by),
            _ => throw new InvalidOperationException($"{order.GetType().Name} is no input"),
        };

    Task<int> SendAsync(RunOrder order) => _router.SendAsync(order, DoAsync);

    DateTimeOffset Now => _services.Time.GetUtcNow();

    /// <summary>
    /// Asks a run to stop; what runs is ended. For one that will be resumed by itself, that is called off.
    /// </summary>
    /// <exception cref="RefusedException">There is no such run, or it has ended.</exception>
    public Task StopAsync(long run, Actor by, string? message) =>
        SendAsync(new RunOrder.Stop(run, FarActor.Of(by), message));

    async Task StopHereAsync(long run, Actor by, string? message)
    {
        if (!_runs.Has(run) && await FindRunAsync(run).ConfigureAwait(false) is { ResumeAt: not null } stored)
        {
            if (await CallOffAsync(stored, by).ConfigureAwait(false))
                return;
        }
        await CommandAsync(run, new StopInput(Now, by, message)).ConfigureAwait(false);
    }

    async Task<bool> CallOffAsync(StoredRun stored, Actor by)
    {
        var ticket = new ResumeTicket(by);
        if (_resuming.GetOrAdd(stored.Id, ticket) != ticket)
            return false;
        try
        {
            var claim = await _ownership.ClaimAsync(stored.Id).ConfigureAwait(false);
            var (state, seq) = await _folder.FoldAsync(stored.Id).ConfigureAwait(false);
            var ruling = await new RunActor(state, seq, claim!.Epoch, _services)
                .PostAsync(new StopInput(Now, by, null))
                .ConfigureAwait(false);
            return ruling is Decided;
        }
        finally
        {
            _resuming.TryRemove(stored.Id, out _);
        }
    }

    /// <summary>Pauses a run: what runs, runs to its end; nothing new starts until it is resumed.</summary>
    /// <exception cref="RefusedException">There is no such run, it has ended or is ending, is queued, or somebody
    /// else has paused it.</exception>
    public Task PauseAsync(long run, Actor by, string? message) =>
        SendAsync(new RunOrder.Pause(run, FarActor.Of(by), message));

    /// <summary>Decides about a step that has paused its run.</summary>
    /// <param name="run">The run.</param>
    /// <param name="path">The step.</param>
    /// <param name="answer">What is to be done.</param>
    /// <param name="outputs">For <see cref="PauseAnswer.Settle"/>: the outputs it settles with, a map.</param>
    /// <param name="message">Why; shown with the step.</param>
    /// <param name="by">Who decides.</param>
    /// <exception cref="RefusedException">There is no such run or step, it is not paused, or somebody else was
    /// first.</exception>
    public Task AnswerAsync(long run, string path, PauseAnswer answer, Value outputs, string? message, Actor by) =>
        SendAsync(new RunOrder.Answer(run, FarActor.Of(by), path, answer, outputs, message));

    /// <summary>Ends one step, or one iteration of a loop; the rest of the run goes on.</summary>
    /// <param name="run">The run.</param>
    /// <param name="path">The step or the iteration.</param>
    /// <param name="outcome">What it settles as: failed, skipped or succeeded.</param>
    /// <param name="outputs">For succeeded: the outputs it settles with, a map.</param>
    /// <param name="message">Why; shown with the step.</param>
    /// <param name="by">Who decides.</param>
    /// <exception cref="RefusedException">There is no such run or step, it is not at work, or it is ending
    /// already.</exception>
    public Task CancelAsync(long run, string path, Outcome outcome, Value outputs, string? message, Actor by) =>
        SendAsync(new RunOrder.Cancel(run, FarActor.Of(by), path, outcome, outputs, message));

    /// <summary>Lets a step through that its guard holds, or asks the guard to look now.</summary>
    /// <param name="run">The run.</param>
    /// <param name="path">The step.</param>
    /// <param name="answer">Which of the two.</param>
    /// <param name="message">Why; shown with the step that is let through.</param>
    /// <param name="by">Who decides.</param>
    /// <exception cref="RefusedException">There is no such run or step, its guard does not hold it, or somebody else
    /// was first.</exception>
    public Task AnswerHoldAsync(long run, string path, HoldAnswer answer, string? message, Actor by) =>
        SendAsync(new RunOrder.Hold(run, FarActor.Of(by), path, answer, message));

    /// <summary>A person says that what a lost attempt had started is gone, which the service could not end.</summary>
    /// <exception cref="RefusedException">There is no such run or step, or it does not wait for that.</exception>
    public Task ConfirmGoneAsync(long run, string path, Actor by) =>
        SendAsync(new RunOrder.Gone(run, FarActor.Of(by), path));

    // What a command meets is the machine's to say, whether the run is continuing or not.
    async Task<DecideResult> CommandAsync(long run, RunInput command)
    {
        if (_runs.Find(run) is { } actor)
            return RefusedException.Accepted(await actor.PostAsync(command).ConfigureAwait(false));
        var refused = await _reader.ReadAsync(run, (s, _) => RunMachine.RefusalOf(s, command)).ConfigureAwait(false);
        throw new RefusedException(
            refused
                ?? new(
                    RefusalKind.Conflict,
                    $"run {run} has been given up by the service; to continue it: gatechain recover {run}",
                    []
                )
        );
    }

    async ValueTask<StoredRun> FindRunAsync(long run) =>
        await _store.FindAsync(run).ConfigureAwait(false) ?? throw RefusedException.NoRun(run);

    /// <summary>
    /// Continues with a failed, stopped or paused run from its checkpoint, in a new leg. Gives the leg's number.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="by">Who asks.</param>
    /// <param name="order">What is to be done otherwise than before.</param>
    /// <exception cref="RefusedException">The run is going, succeeded, does not fit the wanted release, or was resumed
    /// by somebody else at the same time.</exception>
    public Task<int> ResumeAsync(long run, Actor by, ResumeOptions order) =>
        SendAsync(new RunOrder.Resume(run, FarActor.Of(by), order, order.Automatic));

    async Task<int> ResumeHereAsync(long run, Actor by, ResumeOptions order)
    {
        var input = await ResumeInputAsync(run, by, order).ConfigureAwait(false);
        // Two at once: one of them gets its name in, and the other is told who was first.
        var ticket = new ResumeTicket(by);
        var first = _resuming.GetOrAdd(run, ticket);
        if (first != ticket)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"run {run} is being resumed by {first.By} at this moment"
            );
        }
        try
        {
            if (_runs.Find(run) is { } going)
                return LegOf(RefusedException.Accepted(await going.PostAsync(input).ConfigureAwait(false)));
            var claim = await _ownership.ClaimAsync(run).ConfigureAwait(false);
            var (ended, seq) = await _folder.FoldAsync(run).ConfigureAwait(false);
            // Before it takes a place among the chain's other runs.
            if (RunMachine.RefusalOf(ended, input) is { } refused)
                throw new RefusedException(refused);
            return LegOf(
                await _admission
                    .BeginAsync(
                        new(ended, seq, claim!.Epoch, _services),
                        new(ended.Chain, ended.BusyKey),
                        ended.Parent,
                        entry => input with { Queued = entry.Queued }
                    )
                    .ConfigureAwait(false)
            );
        }
        finally
        {
            _resuming.TryRemove(run, out _);
        }
    }

    static int LegOf(DecideResult ruling) => ruling.Events.OfType<LegStarted>().Single().Leg;

    async Task<ResumeInput> ResumeInputAsync(long run, Actor by, ResumeOptions order)
    {
        var stored = await FindRunAsync(run).ConfigureAwait(false);
        var release = order.Release is null
            ? null
            : await ReleaseOfAsync(stored.Chain, order.Release).ConfigureAwait(false);
        if (release == stored.Release)
            release = null;
        // One that it moves to has to be one that can be run here.
        var chain = release is null
            ? await _chains.OfAsync(stored.Release).ConfigureAwait(false)
            : await _chains.RunnableOfAsync(release).ConfigureAwait(false);
        var (parameters, variables) = Parameters.ReadOverrides(chain, order.Set, _services.Options.Bounds);
        Parameters.RefuseUnset([.. chain.Parameters.Where(p => parameters.ContainsKey(p.Name))], parameters, name =>
            _services.Secrets.IsSet(name, stored.Area)
        );
        await ExamineChildrenAsync(run, [.. order.From, .. order.Skip, .. order.Settle.Keys]).ConfigureAwait(false);
        var number = release is null
            ? null
            : await _releases.NumberOfAsync(stored.Chain, release).ConfigureAwait(false);
        return new(Now, by, parameters, variables, order.From, order.Skip)
        {
            Settle = order.Settle,
            Release = release,
            Number = number ?? 0,
            Automatic = order.Automatic,
        };
    }

    /// <summary>
    /// What a resume would do, the leg it would begin, and how many steps it would keep; nothing is begun.
    /// </summary>
    /// <exception cref="RefusedException">It would be refused; the message says why.</exception>
    public async Task<(ResumePlan Plan, int Leg, int Kept)> PlanAsync(long run, ResumeOptions order)
    {
        var input = await ResumeInputAsync(run, default, order).ConfigureAwait(false);
        var chain = input.Release is null ? null : await _chains.OfAsync(input.Release).ConfigureAwait(false);
        return await _reader
            .ReadAsync(run, (state, _) =>
            {
                if (RunMachine.RefusalOf(state, input) is { } refused)
                    throw new RefusedException(refused);
                var plan = RunMachine.PlanResume(state, input.Selection(chain));
                var again = plan.Reset.Concat(plan.Reopened).ToHashSet();
                return (
                    plan,
                    state.Leg + 1,
                    state.AllSteps.Count(s => s.IsSettled && !s.Scope.IsHandler && !again.Contains(s.Path))
                );
            })
            .ConfigureAwait(false);
    }

    // Paths that lead into child runs must lead to a step there, before anything begins.
    async Task ExamineChildrenAsync(long run, IReadOnlyList<string> paths)
    {
        var inner = await _reader
            .ReadAsync(run, (s, _) =>
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

    /// <summary>
    /// The content that a person names: <c>latest</c>, <c>draft</c>, the number of a release, a content hash or at
    /// least four characters of its beginning.
    /// </summary>
    async Task<string> ReleaseOfAsync(string chain, string name)
    {
        if (name == "latest")
            return await _releases.GetAsync(new(chain, null)).ConfigureAwait(false);
        if (name == "draft")
        {
            if (await _drafts.GetAsync(chain).ConfigureAwait(false) is not { Version: > 0 } draft)
                throw new RefusedException(RefusalKind.NotFound, $"“{chain}” has no draft");
            var content = await _drafts.ContentAsync(chain, draft.Source).ConfigureAwait(false);
            await _catalogue.KeepAsync(content).ConfigureAwait(false);
            return content.Hash;
        }
        var isNumber = int.TryParse(name, NumberStyles.None, CultureInfo.InvariantCulture, out var number);
        if (isNumber && await _releases.FindAsync(new(chain, number)).ConfigureAwait(false) is { } numbered)
            return numbered;
        if (name.Length >= 4 && await _catalogue.FindReleasesAsync(chain, name).ConfigureAwait(false) is [var only])
        {
            return only;
        }
        return isNumber
            ? await _releases.GetAsync(new(chain, number)).ConfigureAwait(false)
            : throw new RefusedException(
                RefusalKind.NotFound,
                $"“{chain}” has no release “{name}”, or more than one that begins so"
            );
    }

    /// <summary>Somebody who is just beginning a leg.</summary>
    sealed class ResumeTicket(Actor by)
    {
        public Actor By { get; } = by;
    }
}
