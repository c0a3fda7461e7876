using GateChain.Core.Running.Events;

namespace GateChain.Core.Running.State;

/// <summary>One try of a step, for the timeline and for why.</summary>
public sealed class AttemptRecord(int number, string step, int leg, int attempt, DateTimeOffset started)
{
    Moment _ended,
        _retryAt;

    /// <summary>Its place among all attempts of the run, from 1; names its log.</summary>
    public int Number { get; } = number;

    public string Step { get; } = step;
    public int Leg { get; } = leg;
    public int Attempt { get; } = attempt;
    public DateTimeOffset Started { get; } = started;
    public DateTimeOffset? Ended
    {
        get => _ended;
        internal set => _ended = value;
    }

    /// <summary><c>running</c>, an outcome's word, or <c>lost</c>.</summary>
    public string Result { get; internal set; } = "running";

    public StepError? Error { get; internal set; }

    /// <summary>When the next attempt was due, if one followed.</summary>
    public DateTimeOffset? RetryAt
    {
        get => _retryAt;
        internal set => _retryAt = value;
    }

    internal void Save(SnapshotWriter to)
    {
        to.Text(Step);
        to.Int(Leg);
        to.Int(Attempt);
        to.Time(Started);
        to.Time(Ended);
        to.Text(Result);
        to.Error(Error);
        to.Time(RetryAt);
    }

    internal static AttemptRecord Restore(int number, SnapshotReader from) =>
        new(number, from.Text(), from.Int(), from.Int(), from.Time()!.Value)
        {
            Ended = from.Time(),
            Result = from.Text(),
            Error = from.Error(),
            RetryAt = from.Time(),
        };
}
