using System.Data.Common;

namespace GateChain.Kinds.Load.Modes;

/// <summary>
/// The table has each version of a row with its span: one that changes closes the version before it. A version that is
/// open has no end.
/// </summary>
sealed class HistoryMode : KeyedMode
{
    readonly string _from,
        _to,
        _columns,
        _values,
        _close;

    public HistoryMode(ModeParts parts)
        : base(parts)
    {
        var (dialect, into) = (parts.Session.Dialect, parts.Into);
        (_from, _to) = (dialect.Quote(into.History.From), dialect.Quote(into.History.To));
        // As a text in quotes: a column may be boolean or a number.
        var (current, isCurrent, isNot) = parts.There.Contains(into.History.Current, StringComparer.OrdinalIgnoreCase)
            ? ($", {dialect.Quote(into.History.Current)}", ", '1'", $", {dialect.Quote(into.History.Current)} = '0'")
            : ("", "", "");
        var now = dialect.Moment(Now);
        (_columns, _values) = ($"{_from}, {_to}{current}", $"{now}, NULL{isCurrent}");
        _close = $"UPDATE {parts.Table} SET {_to} = {now}{isNot} WHERE {_to} IS NULL";
    }

    protected override string Living => $"t.{_to} IS NULL";

    protected override string? Ending => Parts.Into.Gone == LoadGone.Close ? _close : null;

    public override void Move(DbTransaction transaction, (long First, long Last)? lines = null)
    {
        Session.Execute(transaction, $"{_close} AND {IsIn(lines)}");
        Session.Execute(
            transaction,
            $"INSERT INTO {Table} ({Stage.Columns}, {_columns}) SELECT {Stage.Columns}, {_values} "
                + $"FROM {Stage.Rows(lines)} AS s"
        );
    }
}
