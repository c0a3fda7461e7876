using GateChain.Core.Identity;

namespace GateChain.Storage.Sql;

/// <summary>A run's line as its table has it.</summary>
sealed class RunRow
{
    public const string Columns =
        "id, chain, release, state, leg, by_whom AS byWhom, by_kind AS byKind, by_id AS byId, started, ended, "
        + "params, error, epoch, late, resume_at AS resumeAt, parent, parent_step AS parentStep, "
        + "parent_attempt AS parentAttempt, origin, origin_key AS originKey, area, fired_by AS firedBy";

    public long Id { get; set; }
    public string Chain { get; set; } = "";
    public string Release { get; set; } = "";
    public string State { get; set; } = "";
    public long Leg { get; set; }
    public string ByWhom { get; set; } = "";
    public string? ByKind { get; set; }
    public string? ById { get; set; }
    public string Started { get; set; } = "";
    public string? Ended { get; set; }
    public string Params { get; set; } = "";
    public string? Error { get; set; }
    public long Epoch { get; set; }
    public long Late { get; set; }
    public string? ResumeAt { get; set; }
    public long? Parent { get; set; }
    public string? ParentStep { get; set; }
    public long? ParentAttempt { get; set; }
    public string? Origin { get; set; }
    public string? OriginKey { get; set; }
    public string Area { get; set; } = "";
    public string? FiredBy { get; set; }

    // Runs of the first versions have a name only.
    Actor By =>
        Enum.TryParse<ActorKind>(ByKind, ignoreCase: true, out var kind)
            ? new(kind, ById!, ByWhom)
            : ActorJsonConverter.OfName(ByWhom);

    public StoredRun ToStoredRun() =>
        new(
            Id,
            Chain,
            Release,
            State,
            (int)Leg,
            By,
            Times.Of(Started),
            Ended is null ? null : Times.Of(Ended),
            Params,
            Error,
            Late != 0,
            ResumeAt is null ? null : Times.Of(ResumeAt),
            Parent is { } parent ? new(parent, ParentStep!, (int)ParentAttempt!.Value) : null,
            Origin,
            OriginKey,
            new(Area),
            FiredBy
        );
}
