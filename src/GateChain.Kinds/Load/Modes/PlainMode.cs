using System.Data.Common;

namespace GateChain.Kinds.Load.Modes;

/// <summary>Rows are added, to what is there or to an emptied table.</summary>
sealed class PlainMode(ModeParts parts) : TableMode(parts)
{
    public override RowCounts Prepare(DbTransaction transaction, bool isWhole)
    {
        var dialect = Session.Dialect;
        if (Parts.Into.Mode is LoadMode.Replace or LoadMode.Truncate)
        {
            Session.Execute(
                transaction,
                Parts.Into.Mode == LoadMode.Truncate && !dialect.DdlCommits
                    ? dialect.Truncate(Table)
                    : $"DELETE FROM {Table}"
            );
        }
        return default;
    }

    public override void Move(DbTransaction transaction, (long First, long Last)? lines = null) =>
        Insert(transaction, lines);
}
