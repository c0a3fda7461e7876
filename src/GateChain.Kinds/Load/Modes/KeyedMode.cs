using System.Data.Common;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Modes;

/// <summary>
/// Rows are told apart by their key: <c>upsert</c> replaces those that are there, <c>insert</c> leaves them.
/// </summary>
class KeyedMode(ModeParts parts) : TableMode(parts)
{
    /// <summary>The same for all that this attempt writes.</summary>
    protected DateTimeOffset Now { get; } = parts.Context.Time.GetUtcNow();

    protected IReadOnlyList<string> Key => Parts.Into.Key;

    /// <summary>A condition for those rows of the table that a row of the stage can be the same as.</summary>
    protected virtual string? Living => null;

    public override RowCounts Prepare(DbTransaction transaction, bool isWhole)
    {
        // First the last of each key, then the comparison: else an earlier row would come to the front when the last
        // one is in the table already. What is gone is known as long as the stage has all keys.
        var superseded = Session.Execute(transaction, Session.Dialect.DropSuperseded(Key, Stage.Name));
        var gone = EndGone(transaction, isWhole);
        return new(DropUnchanged(transaction), superseded, gone);
    }

    // Takes out of the stage what stays in the table as it is.
    int DropUnchanged(DbTransaction transaction)
    {
        var dialect = Session.Dialect;
        var keys = Key.Select(k => $"t.{dialect.Quote(k)} = {Stage.Name}.{dialect.Quote(k)}");
        var others = Parts
            .Columns.Where(c => Parts.Into.Mode != LoadMode.Insert && !Key.Contains(c))
            .Select(c => dialect.Same($"t.{dialect.Quote(c)}", $"{Stage.Name}.{dialect.Quote(c)}"));
        string[] living = Living is { } condition ? [condition] : [];
        return Session.Execute(
            transaction,
            $"DELETE FROM {Stage.Name} WHERE EXISTS (SELECT 1 FROM {Table} AS t WHERE "
                + $"{string.Join(" AND ", keys.Concat(others).Concat(living))})"
        );
    }

    public override void Move(DbTransaction transaction, (long First, long Last)? lines = null)
    {
        if (Parts.Into.Mode == LoadMode.Insert)
            Insert(transaction, lines);
        else
            Session.Execute(transaction, Session.Dialect.Upsert(Table, Parts.Columns, Key, Stage.Rows(lines)));
    }

    /// <summary>What ends rows that are gone from the source; null where they stay.</summary>
    protected virtual string? Ending => null;

    // Gives how many rows of the table the source does not have any more.
    int EndGone(DbTransaction transaction, bool isWhole)
    {
        if (Ending is not { } ending)
            return 0;
        if (!isWhole)
        {
            Parts.Context.Log.Note(
                "rows were rejected: they may be in the table, so nobody can tell which are gone, and all stay"
            );
            return 0;
        }
        if (Parts.Into.GoneLimit is null && IsEmpty(transaction, Stage.Name) && !IsEmpty(transaction, Table))
        {
            throw new StepFailedException(
                "gone",
                $"the source has no rows, and with it all of {Parts.Into.Table} would be gone",
                "Nothing was changed. See whether the source is whole; where it may be empty, say goneLimit."
            );
        }
        var gone = Session.Execute(transaction, $"{ending} AND NOT {Session.Dialect.HasKeyOf(Table, Key, Stage.Name)}");
        if (gone > Parts.Into.GoneLimit)
        {
            throw new StepFailedException(
                "gone",
                $"{gone:N0} rows of {Parts.Into.Table} are gone from the source; the limit is "
                    + $"{Parts.Into.GoneLimit:N0}",
                "Nothing was changed. See whether the source is whole; raise goneLimit where so many may go."
            );
        }
        return gone;
    }

    bool IsEmpty(DbTransaction transaction, string table)
    {
        using var command = Session.Command(
            transaction,
            $"SELECT CASE WHEN EXISTS (SELECT 1 FROM {table}) " + "THEN 1 ELSE 0 END"
        );
        return Convert.ToInt64(command.ExecuteScalar(), System.Globalization.CultureInfo.InvariantCulture) == 0;
    }

    /// <summary>A condition for rows of the table whose key a row of these lines has.</summary>
    protected string IsIn((long First, long Last)? lines) => Session.Dialect.HasKeyOf(Table, Key, Stage.Rows(lines));
}
