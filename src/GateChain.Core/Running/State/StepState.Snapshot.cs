using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

// Written and read in the same order.
public sealed partial class StepState
{
    internal void Save(SnapshotWriter to)
    {
        // Most steps of a long run have either not begun or are through without anything to tell.
        var plain =
            Phase is StepPhase.Pending or StepPhase.Settled
            && Error is null
            && Note is null
            && Leftover is null
            && QueuedAt is null
            && Warnings.Count == 0
            && Looks.Count == 0
            && Hold is null
            && Answered is null
            && Cancelled is null
            && Child is null
            && Due is null
            && !SkipInLeg
            && SettleInLeg is null
            && Inner is null
            && Each is null
            && Repeat is null
            && !GoesOn
            && Retries == 0
            && Lost == 0
            && Cancel == CancelReason.None
            && !IsSuspended;
        to.Int((int)Phase * 2 + (plain ? 1 : 0));
        to.Int((int)Outcome);
        to.Value(Outputs);
        to.Value(Inputs);
        to.Int(Attempt);
        to.Int(Leg);
        to.Time(Started);
        to.Time(Ended);
        to.Int(Record?.Number ?? 0);
        to.Int(OpenGates);
        to.Int(ShutGates);
        if (plain)
            return;
        to.Error(Error);
        to.TextOrNull(Note);
        to.TextOrNull(Leftover);
        to.Time(QueuedAt);
        to.Int(Warnings.Count);
        foreach (var warning in Warnings)
            to.Text(warning);
        to.Int(Looks.Count);
        foreach (var look in Looks)
        {
            to.Text(look.Branch);
            to.Bool(look.Taken);
            to.Parts(look.Parts);
        }
        to.Time(Due);
        to.Int(Retries);
        to.Int(Lost);
        to.Int((int)Cancel);
        to.Bool(SkipInLeg);
        to.Bool(GoesOn);
        to.Bool(IsSuspended);
        to.Value(SettleInLeg);
        to.Bool(Hold is not null);
        Hold?.Save(to);
        to.Int(Answered is { } answered ? (int)answered.Answer : -1);
        if (Answered is { } decided)
        {
            to.Actor(decided.By);
            to.Time(decided.At);
        }
        to.Cancelled(Cancelled);
        to.Bool(Child is not null);
        if (Child is { } child)
        {
            to.Long(child.Run);
            to.Int(child.Leg);
            to.Bool(child.ToResume);
        }
        to.Int(
            Inner is not null ? 1
            : Each is not null ? 2
            : Repeat is not null ? 3
            : 0
        );
        Inner?.Save(to);
        Each?.Save(to);
        Repeat?.Save(to);
    }

    internal void Restore(SnapshotReader from, IReadOnlyList<AttemptRecord> records)
    {
        var phase = from.Int();
        (Phase, Outcome, Outputs, Inputs) = (
            (StepPhase)(phase / 2),
            (Outcome)from.Int(),
            from.Value()!.Value,
            from.Value()!.Value
        );
        (Attempt, Leg, Started, Ended) = (from.Int(), from.Int(), from.Time(), from.Time());
        Record = from.Int() is > 0 and var number ? records[number - 1] : null;
        (OpenGates, ShutGates) = (from.Int(), from.Int());
        if (phase % 2 == 1)
            return;
        (Error, Note, Leftover, QueuedAt) = (from.Error(), from.TextOrNull(), from.TextOrNull(), from.Time());
        var warnings = new List<string>();
        for (var left = from.Int(); left > 0; left--)
            warnings.Add(from.Text());
        var looks = new List<BranchLook>();
        for (var left = from.Int(); left > 0; left--)
            looks.Add(new(from.Text(), from.Bool(), from.Parts()));
        (Warnings, Looks) = (warnings, looks);
        (Due, Retries, Lost, Cancel) = (from.Time(), from.Int(), from.Int(), (CancelReason)from.Int());
        (SkipInLeg, GoesOn, IsSuspended, SettleInLeg) = (from.Bool(), from.Bool(), from.Bool(), from.Value());
        if (from.Bool())
            Hold = HoldState.Restore(from, Path);
        if (from.Int() is >= 0 and var answer)
            Answered = ((PauseAnswer)answer, from.Actor(), from.Time()!.Value);
        Cancelled = from.Cancelled();
        if (from.Bool())
            Child = new(from.Long(), from.Int(), from.Bool());
        switch (from.Int())
        {
            case 1:
                Inner = new(Step.Inner!, this, -1, Value.Null);
                Inner.Restore(from, records);
                break;
            case 2:
                Each = EachState.Restore(from, this, records);
                break;
            case 3:
                Repeat = RepeatState.Restore(from, this, records);
                break;
            default:
                break;
        }
    }
}
