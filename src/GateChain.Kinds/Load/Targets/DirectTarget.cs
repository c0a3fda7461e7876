using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// A table that is written in one transaction, each batch behind a savepoint: rows are written once, and the database
/// itself ensures it that all of them count or none. After a crash the work begins again.
/// </summary>
sealed class DirectTarget : TableTarget
{
    readonly TableRows _rows;
    readonly StageTable _stage;
    bool _emptied;

    /// <param name="stage">Where an earlier attempt of another way may have left rows.</param>
    /// <param name="table">The table's name.</param>
    /// <param name="fields">The source's fields of a row.</param>
    public DirectTarget(
        Session session,
        StageTable stage,
        string table,
        IReadOnlyList<string> columns,
        Func<object?[], string?[]> fields,
        AttemptContext context
    )
        : base(session, context)
    {
        _stage = stage;
        _rows = new(session, session.Dialect.QuoteTable(table), columns, lines: null, fields);
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
            _stage.EmptyTable(Transaction.Current);
        _emptied = true;
    }

    public override void Checkpoint(string progress) { }

    public override Value? Finish(Rejects rejects, Func<long, long, Value> outputs)
    {
        Empty();
        _rows.End();
        if (_rows.Ways is { } ways)
            Log.Note(ways);
        var result = outputs(0, 0);
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
