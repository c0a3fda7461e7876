using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

// Everything the fold has gathered, written and read in the same order.
sealed partial class RunState
{
    internal void Save(SnapshotWriter to)
    {
        to.Long(EventCount);
        to.Text(Uid);
        to.Text(Release);
        to.Int(Number + 1 ?? 0);
        to.Text(Area.Path);
        to.TextOrNull(ProfileName);
        to.Actor(By);
        to.Int(Leg);
        to.Value(Value.Map(Params));
        to.Value(Profile);
        to.Time(Started);
        to.Time(Ended);
        to.Int(Outcome is { } outcome ? (int)outcome : -1);
        to.Value(Outputs);
        to.Error(Error);
        to.Bool(Parent is not null);
        if (Parent is { } parent)
        {
            to.Long(parent.Run);
            to.Text(parent.Step);
            to.Int(parent.Attempt);
            to.Int(parent.Depth);
            to.Bool(parent.Tried);
            to.TextOrNull(parent.Trace);
        }
        to.Long(RestartOf ?? 0);
        to.TextOrNull(Home);
        to.Bool(IsQueued);
        to.Bool(IsLate);
        to.Bool(IsStopping);
        to.Time(ResumeAt);
        to.Time(CutAt);
        // What only some runs have travels in the event that began it.
        var began =
            Try is null && Fire is null && BusyKey is null && Replaces.Count == 0 && KeptVersion is null
                ? null
                : new RunStarted(
                    Uid,
                    Chain.Name,
                    Release,
                    Value.Map(Params),
                    Profile,
                    By,
                    Try: Try,
                    Fire: Fire,
                    BusyKey: BusyKey,
                    Replaces: Replaces,
                    Kept: KeptVersion is { } version ? new(version, Value.EmptyMap) : null
                );
        to.Events(
            default,
            [.. new RunEvent?[] { began, Stop, Pause, RootEnd, Danger }.OfType<RunEvent>(), .. Resumes, .. _warnings]
        );
        to.Int(_pausedBefore.Count);
        foreach (var path in _pausedBefore)
            to.Text(path);
        to.Int(_attempts.Count);
        foreach (var record in _attempts)
            record.Save(to);
        to.Int(_handlers.Count);
        foreach (var handler in _handlers)
        {
            to.Int((int)handler.Occasion);
            to.Int(handler.Leg);
            to.Error(handler.Error);
            handler.Scope.Save(to);
        }
        Root.Save(to);
        to.Int(Redo.Count);
        foreach (var step in Redo)
            to.Text(step.Path);
        to.Int(_successes.Count);
        foreach (var (path, count) in _successes)
        {
            to.Text(path);
            to.Int(count);
        }
        to.Int(_assignments.Count);
        foreach (var (by, scope, name, value) in _assignments)
        {
            to.TextOrNull(by?.Path);
            to.Text(scope.Path);
            to.Text(name);
            to.Value(value);
        }
    }

    internal static RunState Restore(long id, SnapshotReader from, Func<string, Chain> chains)
    {
        var events = from.Long();
        var (uid, release, released) = (from.Text(), from.Text(), from.Int());
        var (area, profile, by) = (new Area(from.Text()), from.TextOrNull(), from.Actor());
        var state = new RunState(id, chains(release), chains)
        {
            EventCount = events,
            Uid = uid,
            Release = release,
            Number = released == 0 ? null : released - 1,
            Area = area,
            ProfileName = profile,
            By = by,
            Leg = from.Int(),
        };
        state.Params = from.Value()!.Value.AsMap is DictionaryMap given ? given : DictionaryMap.Empty;
        (state.Profile, state.Started, state.Ended) = (from.Value()!.Value, from.Time(), from.Time());
        state.Outcome = from.Int() is >= 0 and var outcome ? (Outcome)outcome : null;
        (state.Outputs, state.Error) = (from.Value()!.Value, from.Error());
        if (from.Bool())
            state.Parent = new(from.Long(), from.Text(), from.Int(), from.Int(), from.Bool(), from.TextOrNull());
        state.RestartOf = from.Long() is > 0 and var old ? old : null;
        state.Home = from.TextOrNull();
        (state.IsQueued, state.IsLate, state.IsStopping, state.ResumeAt, state.CutAt) = (
            from.Bool(),
            from.Bool(),
            from.Bool(),
            from.Time(),
            from.Time()
        );
        foreach (var e in from.Events())
        {
            switch (e)
            {
                case RunStarted started:
                    (state.Try, state.Fire, state.BusyKey) = (started.Try, started.Fire, started.BusyKey);
                    (state.Replaces, state.KeptVersion) = (started.Replaces ?? [], started.Kept?.Version);
                    break;
                case StopAsked stop:
                    state.Stop = stop;
                    break;
                case PauseAsked pause:
                    state.Pause = pause;
                    break;
                case RootSettled end:
                    state.RootEnd = end;
                    break;
                case RunEndangered danger:
                    state.Danger = danger;
                    break;
                case LegStarted leg:
                    state.Resumes = [.. state.Resumes, leg];
                    break;
                case RunWarned warned:
                    state._warnings.Add(warned);
                    break;
                default:
                    break;
            }
        }
        for (var left = from.Int(); left > 0; left--)
            state._pausedBefore.Add(from.Text());
        for (var left = from.Int(); left > 0; left--)
            state._attempts.Add(AttemptRecord.Restore(state._attempts.Count + 1, from));
        for (var left = from.Int(); left > 0; left--)
        {
            var (occasion, leg, error, number) = (
                (Occasion)from.Int(),
                from.Int(),
                from.Error(),
                state._handlers.Count + 1
            );
            var scope = new ScopeState(state.Chain.Handlers[occasion], state.Root, number);
            scope.Restore(from, state._attempts);
            state._handlers.Add(new(occasion, number, leg, error, scope));
        }
        state.Root.Restore(from, state._attempts);
        var redo = new List<StepState>();
        for (var left = from.Int(); left > 0; left--)
            redo.Add(state.Find(from.Text())!);
        state.Redo = redo;
        for (var left = from.Int(); left > 0; left--)
            state._successes[from.Text()] = from.Int();
        for (var left = from.Int(); left > 0; left--)
        {
            var (setter, scope) = (from.TextOrNull(), state.FindScope(from.Text()));
            state._assignments.Add(
                (setter is null ? null : state.Find(setter), scope, from.Text(), from.Value()!.Value)
            );
        }
        foreach (var step in state.AllSteps)
        {
            if (step.Phase == StepPhase.Paused)
                state._pausedSteps++;
            if (step.Due is { } due && !step.IsSettled)
                state._timers.Enqueue(step, due);
            if (step.Repeat?.Next is { } next)
                state._timers.Enqueue(step, next);
        }
        return state;
    }
}
