using System.Data.Common;

namespace GateChain.Kinds.Load.Modes;

/// <summary>The table becomes what the source is: rows that are gone there are deleted, or marked.</summary>
sealed class MirrorMode(ModeParts parts) : KeyedMode(parts)
{
    readonly string? _mark = parts.Into.GoneColumn is { } column ? parts.Session.Dialect.Quote(column) : null;

    // One that is marked has come back: it is not as it was.
    protected override string? Living => _mark is null ? null : $"t.{_mark} IS NULL";

    protected override string Ending =>
        _mark is null
            ? $"DELETE FROM {Table} WHERE 1 = 1"
            : $"UPDATE {Table} SET {_mark} = {Session.Dialect.Moment(Now)} WHERE {_mark} IS NULL";

    public override void Move(DbTransaction transaction, (long First, long Last)? lines = null)
    {
        if (_mark is not null)
        {
            Session.Execute(
                transaction,
                $"UPDATE {Table} SET {_mark} = NULL WHERE {_mark} IS NOT NULL AND {IsIn(lines)}"
            );
        }
        base.Move(transaction, lines);
    }
}
