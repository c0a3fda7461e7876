using System.Collections.Concurrent;
using System.Globalization;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Engine.Children;
using GateChain.Engine.Live;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// One run and its mailbox. What arrives is handled one after the other: decide, append to the journal, and only when
/// the append is on disk act on it. Uses no thread while nothing arrives.
/// </summary>
sealed partial class RunActor : IThreadPoolWorkItem, IAppendListener, ICallingRun, IDisposable
{
    readonly ConcurrentQueue<object> _inbox = new();
    readonly Queue<Waiting> _waiting = new();
    readonly RunServices _services;
    readonly RunState _state;
    readonly RunWork _work;
    readonly RunTimer _timer;
    long _nextSnapshot,
        _draft;
    ReportedState _reported;
    readonly long _epoch;
    long _seq;
    int _scheduled;
    bool _fenced;

    /// <summary>A decision on its way to the disk.</summary>
    sealed record Waiting(
        Decided DecideResult,
        long Seq,
        IReadOnlyList<RunNotificationKind> Notifications,
        TaskCompletionSource<DecideResult>? Written
    )
    {
        public Decision Decision => DecideResult.Decision;
    }

    sealed record Ask(RunInput Input, TaskCompletionSource<DecideResult> Written, NewFire? Fire = null);

    sealed record Outcome(AppendOutcome Value)
    {
        public static readonly Outcome Written = new(AppendOutcome.Written),
            Fenced = new(AppendOutcome.Fenced),
            Taken = new(AppendOutcome.Taken);
    }

    /// <inheritdoc/>
    public Area Area => _state.Area;

    public RunActor(RunState state, long seq, long epoch, RunServices services)
    {
        (_state, _seq, _epoch, _services) = (state, seq, epoch, services);
        _reported = seq == 0 ? default : ReportedState.Of(state);
        _work = new(this, state, epoch, services);
        _timer = new(services.Time, () => Post(new TimeInput(services.Time.GetUtcNow())));
        _nextSnapshot = Math.Max(services.Options.SnapshotFrom, HalfAsManyMore);
    }

    public long Run => _state.Id;
    public AttemptSet Attempts => _work.Attempts;

    /// <summary>
    /// Says which seats the run holds. Before <see cref="Recover"/>, and before any other run continues.
    /// </summary>
    public ValueTask AnnounceAsync() => _work.AnnounceAsync();

    /// <summary>Continues with what a recovered run waits for. Before anything is handed over.</summary>
    /// <param name="but">The path of a step whose attempt is not lost: its end is handed over next; null for
    /// none.</param>
    /// <param name="quietFor">How long what was in flight is left alone: it may still be ending elsewhere.</param>
    public void Recover(string? but = null, TimeSpan quietFor = default) => _work.Recover(but, quietFor);

    /// <summary>Hands over an input.</summary>
    public void Post(RunInput input) => Enqueue(input);

    /// <summary>Hands over an input; ends when what it led to is on disk, or it was refused.</summary>
    /// <param name="input">The input.</param>
    /// <param name="fire">The fire that the run is started for, written with it; null for none.</param>
    /// <exception cref="RefusedException">Another owner has taken the run over, or the occasion was taken.</exception>
    public Task<DecideResult> PostAsync(RunInput input, NewFire? fire = null)
    {
        var ask = new Ask(input, new(TaskCreationOptions.RunContinuationsAsynchronously), fire);
        Enqueue(ask);
        return ask.Written.Task;
    }

    void IAppendListener.Appended(JournalAppend append, AppendOutcome outcome)
    {
        _inbox.Enqueue(
            outcome switch
            {
                AppendOutcome.Written => Outcome.Written,
                AppendOutcome.Taken => Outcome.Taken,
                _ => Outcome.Fenced,
            }
        );
        WorkHere();
    }

    /// <summary>
    /// Hands over an input at the end of other work of the pool: when nobody is at it, this thread ensures it at once.
    /// </summary>
    public void PostHere(RunInput input)
    {
        _inbox.Enqueue(input);
        if (Thread.CurrentThread.IsThreadPoolThread)
            WorkHere();
        else
            Schedule();
    }

    void WorkHere()
    {
        if (Interlocked.Exchange(ref _scheduled, 1) == 0)
            ((IThreadPoolWorkItem)this).Execute();
    }

    void Enqueue(object item)
    {
        _inbox.Enqueue(item);
        Schedule();
    }

    void Schedule()
    {
        if (Interlocked.Exchange(ref _scheduled, 1) == 0)
            ThreadPool.UnsafeQueueUserWorkItem(this, preferLocal: false);
    }

    void IThreadPoolWorkItem.Execute()
    {
        do
        {
            while (_inbox.TryDequeue(out var item))
            {
                // A bug must neither end the service nor leave a run standing without a word: it is discarded as it is
                // on disk.
                try
                {
                    Handle(item);
                }
                catch (Exception e)
                {
                    _services.Keeper.Broken(Run, e);
                    Fence(InternalError);
                }
            }
            // An exchange, not a plain write: the look at the inbox below must not come before it, or a message could
            // be left lying.
            Interlocked.Exchange(ref _scheduled, 0);
        } while (!_inbox.IsEmpty && Interlocked.Exchange(ref _scheduled, 1) == 0);
    }

    void Handle(object item)
    {
        switch (item)
        {
            case Outcome { Value: AppendOutcome.Fenced }:
                Fence(_services.IsShared ? null : "another service has taken it over");
                break;
            // It never was a run: nothing of it is anywhere.
            case Outcome { Value: AppendOutcome.Taken }:
                if (_waiting.TryPeek(out var first))
                    first.Written?.TrySetException(OccasionTaken());
                Fence(null);
                break;
            // A run that was given up waits for nothing any more, but its last appends may still be reported.
            case Outcome when _fenced:
                break;
            case Outcome:
                Written(_waiting.Dequeue());
                if (_waiting.Count == 0 && _unstorable is not null)
                    HandOver();
                break;
            // Its place is taken by another mailbox as soon as the disk has what was decided before.
            case Ask ask when _unstorable is not null:
                ask.Written.TrySetException(LostRun());
                break;
            case RunInput when _unstorable is not null:
                break;
            case LetGo letGo:
                LetItGo(letGo);
                break;
            case Ask ask:
                Decide(ask.Input, ask.Written, ask.Fire);
                break;
            default:
                Decide((RunInput)item, null);
                break;
        }
    }

    void Decide(RunInput input, TaskCompletionSource<DecideResult>? written, NewFire? fire = null)
    {
        if (_fenced)
        {
            written?.SetException(LostRun());
            return;
        }
        DecideResult ruling;
        byte[] row;
        KeptSet? kept = null;
        if (input is TimeInput)
            _timer.Struck();
        try
        {
            ruling = DecisionClock.Run(_services.Options.Bounds, limit =>
                RunMachine.Decide(_state, input, _services.Options.Bounds, limit)
            );
            if (ruling is Decided { Decision.Events: var events } some && KeepsAt(events))
            {
                kept = _services.Kept.Take(_state, input.At);
                if (kept is null)
                    ruling = RunMachine.Warn(_state, some, KeptValueService.Changed);
            }
            row = (ruling as Decided)?.Decision.ToBytes() ?? [];
        }
        catch (Exception e)
        {
            // A bug of the machine must not take the service down: the run is discarded as it is on disk.
            _services.Keeper.Broken(Run, e);
            written?.TrySetException(
                new RefusedException(
                    RefusalKind.Unavailable,
                    $"run {Run} can't continue because of an internal error; the service's log has it"
                )
            );
            Fence(InternalError);
            return;
        }
        if (row.Length > _services.Options.Bounds.DecisionSize)
        {
            Condemn(input, row.Length, written);
            return;
        }
        if (input is LaneInput turn)
            _work.TurnDecided(turn.Step);
        if (ruling is not Decided decided)
        {
            written?.SetResult(ruling);
            // A timer may strike a little early: then it is set again.
            if (input is TimeInput)
                _timer.Set(_state.NextDue);
            return;
        }
        _seq++;
        var (notification, stored) = Changes();
        _waiting.Enqueue(new(decided, _seq, notification, written));
        var positions = PositionService.Of(_state, input, decided.Decision.Events);
        if (_draft == 0 && IsSnapshotDue)
            DraftSnapshot();
        var audit = RunAudit.Of(input, Run, _state.Chain.Name);
        _services.Journal.Append(
            new(Run, _epoch, _seq, row, stored, this)
            {
                Notifications = notification,
                Extras = (audit, fire, kept, positions.Count) is (null, null, null, 0)
                    ? null
                    : new([], kept, audit) { Fire = fire, Positions = positions },
            }
        );
    }

    // What a chain keeps is what a run of it had when it ended well; tries keep nothing.
    bool KeepsAt(IReadOnlyList<RunEvent> events) =>
        _state is { KeptVersion: >= 0, Try: null }
        && events.Any(e => e is RunSettled { Outcome: Core.Chains.Outcome.Succeeded });

    long HalfAsManyMore => _state.EventCount + _state.EventCount / 2;

    // A decision may have many events, or one: what counts is what there is to fold.
    bool IsSnapshotDue =>
        _state.EventCount >= _nextSnapshot || (_state.HasEnded && _state.EventCount >= _services.Options.SnapshotFrom);

    // Drawn up as it is decided; it counts when that is on disk.
    void DraftSnapshot()
    {
        _nextSnapshot = HalfAsManyMore;
        if (_services.Snapshots.Draft(Run, _seq, file => Snapshot.Write(_state, file)))
            _draft = _seq;
    }

    // What lists and others learn of the decision that was just made; mostly nothing.
    (IReadOnlyList<RunNotificationKind> Notifications, StoredRun? Stored) Changes()
    {
        var (before, now) = (_reported, ReportedState.Of(_state));
        _reported = now;
        return now == before
            ? ([], null)
            : (ReportedState.Notifications(before, now, _state.HasEnded), RunLine.Of(_state));
    }

    void Written(Waiting waiting)
    {
        var ended = false;
        try
        {
            foreach (var e in waiting.Decision.Events)
            {
                _work.Act(e);
                ended = e switch
                {
                    RunSettled or RecoveryCalledOff => true,
                    LegStarted => false,
                    _ => ended,
                };
            }
            if (waiting.Seq == _draft)
            {
                _services.Snapshots.Keep(Run);
                _draft = 0;
            }
            _services.Feed.Tell(new RunChanged(Run, waiting.Seq, waiting.Decision));
        }
        finally
        {
            // Whatever came of it, it is on disk.
            waiting.Written?.SetResult(waiting.DecideResult);
        }
        if (ended && _state.HasEnded && _waiting.Count == 0)
        {
            Dispose();
            _work.End();
            _services.Keeper.Settled(this);
        }
        else
        {
            _timer.Set(_state.NextDue);
            ended = false;
        }
        foreach (var kind in waiting.Notifications)
        {
            if (kind != RunNotificationKind.Ended)
                _services.Feed.Tell(new RunNotification(Run, _state.Chain.Name, kind));
            else if (ended)
                _services.Feed.Tell(new RunNotification(Run, _state.Chain.Name, kind, RunEnd.Of(_state)));
        }
    }

    static RefusedException OccasionTaken() =>
        new(RefusalKind.Conflict, "there is a run for the same occasion already") { IsTaken = true };

    RefusedException LostRun() =>
        new(
            RefusalKind.Conflict,
            string.Create(CultureInfo.InvariantCulture, $"run {Run} has been taken over by another owner")
        );

    public void Dispose() => _timer.Dispose();
}
