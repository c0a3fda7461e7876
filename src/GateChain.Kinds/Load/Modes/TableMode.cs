using System.Data.Common;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Modes;

/// <summary>
/// How the rows of a stage come into their table: what is done in the last transaction, which may be tried more than
/// once. Used by one thread.
/// </summary>
abstract class TableMode(ModeParts parts)
{
    protected ModeParts Parts { get; } = parts;
    protected Session Session => Parts.Session;
    protected StageTable Stage => Parts.Stage;
    protected string Table => Parts.Table;

    /// <summary>That of the settings.</summary>
    public static TableMode Of(ModeParts parts) =>
        parts.Into.Mode switch
        {
            LoadMode.Upsert or LoadMode.Insert => new KeyedMode(parts),
            LoadMode.Mirror => new MirrorMode(parts),
            LoadMode.History => new HistoryMode(parts),
            _ => new PlainMode(parts),
        };

    /// <summary>
    /// Before rows come: empties the table, or compares it with the stage, which loses the rows that need not come.
    /// </summary>
    /// <param name="transaction">The one that also brings the rows.</param>
    /// <param name="isWhole">Whether each row of the source is in the stage: else nobody knows which are gone.</param>
    /// <exception cref="StepFailedException">More is gone than may be.</exception>
    public abstract RowCounts Prepare(DbTransaction transaction, bool isWhole);

    /// <summary>Brings the rows of some lines of the stage into the table, or all.</summary>
    public abstract void Move(DbTransaction transaction, (long First, long Last)? lines = null);

    /// <summary>All rows as they are.</summary>
    protected void Insert(DbTransaction transaction, (long First, long Last)? lines)
    {
        var names = Stage.Columns;
        Session.Execute(transaction, $"INSERT INTO {Table} ({names}) SELECT {names} FROM {Stage.Rows(lines)} AS s");
    }
}

/// <summary>What a mode works with.</summary>
/// <param name="Session">The open connection.</param>
/// <param name="Into">What the settings say.</param>
/// <param name="Stage">Where the rows are.</param>
/// <param name="Table">The table's name, quoted.</param>
/// <param name="Columns">The columns that are written.</param>
/// <param name="There">All columns of the table.</param>
/// <param name="Context">The attempt.</param>
sealed record ModeParts(
    Session Session,
    LoadInto Into,
    StageTable Stage,
    string Table,
    IReadOnlyList<string> Columns,
    IReadOnlyList<string> There,
    AttemptContext Context
);
