using System.Data.Common;
using System.Globalization;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Modes;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// A table whose rows gather in a stage beside it, batch by batch; at the end one transaction moves them into the
/// table. After a crash the work continues after the last batch that was committed.
/// </summary>
sealed class StagedTarget : TableTarget
{
    readonly ModeParts _parts;
    readonly StageTable _stage;
    readonly TableMode _mode;
    readonly TableRows _rows;
    readonly Func<object?[], string?[]> _fields;
    string _fingerprint = "";
    long _staged;

    /// <param name="fields">The source's fields of a row.</param>
    public StagedTarget(ModeParts parts, Func<object?[], string?[]> fields)
        : base(parts.Session, parts.Context)
    {
        (_parts, _stage, _mode, _fields) = (parts, parts.Stage, TableMode.Of(parts), fields);
        _rows = new(parts.Session, _stage.Name, parts.Columns, Dialect.StageLine, fields);
    }

    public override (Value? Done, string? Progress) Begin(string fingerprint)
    {
        _fingerprint = fingerprint;
        var begun = base.Begin(fingerprint);
        if (begun.Done is not null)
            Drop(_stage);
        return begun;
    }

    protected override string? Continue(WorkMark? mark, string fingerprint)
    {
        if (mark is not null && mark.Fingerprint == fingerprint)
        {
            var (staged, progress) = mark.Progress!.Split(' ', 2) is [var rows, var rest]
                ? (long.Parse(rows, CultureInfo.InvariantCulture), rest)
                : (-1, "");
            // Somebody may have tidied up, or a server have lost what it had said was written.
            if (_stage.Count() == staged)
            {
                _staged = staged;
                return progress;
            }
            Log.Note("the rows of the earlier attempt are not in the stage any more; the load starts over");
        }
        // A mark without its stage would let rows be missed: it goes first.
        if (mark is not null)
            Marks.Forget(null);
        // The note first: a stage that nobody knows would stay.
        StageNote.Write(Context, Session.Name, _stage.Name);
        _stage.Create();
        return null;
    }

    public override void Add(RowBatch rows, Rejects rejects)
    {
        var before = rejects.Count;
        _rows.Write(Transaction, rows, rejects);
        _staged += rows.Count - (rejects.Count - before);
    }

    public override void Checkpoint(string progress)
    {
        _rows.End();
        Marks.Advance(
            Transaction.Current,
            _fingerprint,
            string.Create(CultureInfo.InvariantCulture, $"{_staged} {progress}")
        );
        Transaction.Commit();
    }

    public override Value? Finish(Rejects rejects, Func<RowCounts, Value> outputs)
    {
        // All rows are in the stage, so what follows can be done again.
        _rows.End();
        Transaction.Commit();
        if (_rows.Ways is { } ways)
            Log.Note(ways);
        if (_parts.Into.IsByKey)
            _stage.IndexKeys(_parts.Into.Key);
        try
        {
            if (Move(rejects, outputs) is not { } result)
                return null;
            Drop(_stage);
            return result;
        }
        // The source is not as it has to be: it will be another one, and nothing of this one is of use.
        catch (StepFailedException)
        {
            Abandon();
            throw;
        }
    }

    const int Tries = 6;

    // Others may be running on the same rows; a server ends one of two who wait for each other.
    Value? Move(Rejects rejects, Func<RowCounts, Value> outputs)
    {
        var mark = rejects.Mark();
        for (var nth = 1; ; nth++)
        {
            try
            {
                return MoveOnce(rejects, outputs);
            }
            catch (DbException e) when (nth < Tries && Session.Dialect.IsDeadlock(e))
            {
                Log.Note($"others were at work on the same rows; it is tried again ({nth} of {Tries - 1})");
                rejects.BackTo(mark);
                try
                {
                    Transaction.Undo();
                }
                catch (Exception gone) when (gone is DbException or InvalidOperationException) { }
                Thread.Sleep(Random.Shared.Next(20, 100 * nth));
            }
        }
    }

    Value? MoveOnce(Rejects rejects, Func<RowCounts, Value> outputs)
    {
        var counts = Prepare(rejects);
        if (Session.Dialect.HasSavepoints)
        {
            MoveOrHalve(rejects);
        }
        else
        {
            while (!MoveAll())
            {
                RemoveRefused(rejects);
                if (rejects.Over)
                    return null;
                counts = Prepare(rejects);
            }
        }
        if (rejects.Over)
            return null;
        if (counts.Superseded > 0)
            Log.Note($"{counts.Superseded:N0} rows were replaced by later ones with the same key");
        var result = outputs(counts);
        Commit(result);
        return result;
    }

    RowCounts Prepare(Rejects rejects) => _mode.Prepare(Transaction.Current, isWhole: rejects.Count == 0);

    void MoveOrHalve(Rejects rejects)
    {
        if (
            Transaction.Try(() => _mode.Move(Transaction.Current)) is null
            || _stage.Lines(Transaction.Current) is not var (first, last)
        )
        {
            return;
        }
        _stage.Index(Transaction.Current);
        Halve(first, last, rejects);
    }

    // Down to the row that the table refuses.
    void Halve(long first, long last, Rejects rejects)
    {
        if (rejects.Over || Transaction.Try(() => _mode.Move(Transaction.Current, (first, last))) is not { } refusal)
        {
            return;
        }
        if (first == last)
        {
            Refuse(refusal, first, rejects);
            return;
        }
        var middle = first + (last - first) / 2;
        Halve(first, middle, rejects);
        Halve(middle + 1, last, rejects);
    }

    void Refuse(RowRefusal refusal, long line, Rejects rejects)
    {
        var row = _stage.Row(Transaction.Current, line);
        rejects.Refuse(line, _rows.Told(refusal, row), _fields(row));
    }

    // Without savepoints: the first row is looked for with which the table refuses all up to it, and so on. Each trial
    // is taken back.
    void RemoveRefused(Rejects rejects)
    {
        while (
            !rejects.Over
            && _stage.Lines(Transaction.Current) is var (first, last)
            && Trial(rejects, (first, last)) is { } refusal
        )
        {
            var (good, bad) = (first - 1, last);
            while (good + 1 < bad)
            {
                var middle = good + (bad - good) / 2;
                if (Trial(rejects, (first, middle)) is { } found)
                    (bad, refusal) = (middle, found);
                else
                    good = middle;
            }
            Refuse(refusal, bad, rejects);
            _stage.Remove(Transaction.Current, bad);
            Transaction.Commit();
        }
    }

    bool MoveAll()
    {
        try
        {
            _mode.Move(Transaction.Current);
            return true;
        }
        catch (DbException e) when (Session.Dialect.Refusal(e) is not null)
        {
            Transaction.Undo();
            return false;
        }
    }

    RowRefusal? Trial(Rejects rejects, (long First, long Last)? lines)
    {
        Transaction.Undo();
        try
        {
            Prepare(rejects);
            _mode.Move(Transaction.Current, lines);
            return null;
        }
        catch (DbException e) when (Session.Dialect.Refusal(e) is { } refusal)
        {
            return refusal;
        }
        finally
        {
            Transaction.Undo();
        }
    }

    public override void Abandon()
    {
        _rows.End();
        Transaction.Undo();
        Marks.Forget(null);
        Drop(_stage);
    }

    public override void Dispose()
    {
        _rows.Dispose();
        base.Dispose();
    }
}
