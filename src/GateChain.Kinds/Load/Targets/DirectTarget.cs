using GateChain.Core.Values;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Modes;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// A table that is written in one transaction, each batch behind a savepoint: rows are written once, and the database
/// itself ensures it that all of them count or none. After a crash the work begins again.
/// </summary>
sealed class DirectTarget : TableTarget
{
    readonly TableRows _rows;
    readonly StageTable _stage;
    readonly TableMode _mode;
    bool _emptied;

    /// <param name="parts">The table; in its stage an earlier attempt of another way may have left rows.</param>
    /// <param name="fields">The source's fields of a row.</param>
    public DirectTarget(ModeParts parts, Func<object?[], string?[]> fields)
        : base(parts.Session, parts.Context)
    {
        (_stage, _mode) = (parts.Stage, TableMode.Of(parts));
        _rows = new(parts.Session, parts.Table, parts.Columns, lines: null, fields);
    }

    protected override string? Continue(WorkMark? mark, string fingerprint)
    {
        if (mark is null)
            return null;
        Marks.Forget(null);
        Drop(_stage);
        return null;
    }

    public override void Add(RowBatch rows, Rejects rejects)
    {
        Empty();
        _rows.Write(Transaction, rows, rejects);
    }

    void Empty()
    {
        if (!_emptied)
            _mode.Prepare(Transaction.Current, isWhole: true);
        _emptied = true;
    }

    public override void Checkpoint(string progress) { }

    public override Value? Finish(Rejects rejects, Func<RowCounts, Value> outputs)
    {
        Empty();
        _rows.End();
        if (_rows.Ways is { } ways)
            Log.Note(ways);
        var result = outputs(default);
        Commit(result);
        return result;
    }

    public override void Abandon()
    {
        _rows.End();
        Transaction.Undo();
    }

    public override void Dispose()
    {
        _rows.Dispose();
        base.Dispose();
    }
}
