using System.Data.Common;
using System.Globalization;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// A table. Rows gather in a stage beside it, batch by batch; at the end one transaction moves them into the table, together
/// with the mark that it has. After a crash the work goes on behind the last batch that was committed.
/// </summary>
sealed class TableTarget : LoadTarget
{
    readonly Session _session;
    readonly StageTable _stage;
    readonly WorkMarks _marks;
    readonly IAttemptLog _log;
    DbTransaction? _transaction;
    IRowWriter? _writer;
    string _fingerprint = "";
    long _staged;

    public TableTarget(Session session, LoadInto into, IReadOnlyList<string> columns, AttemptContext context)
    {
        _session = session;
        _stage = new(session, into, into.Table!, columns, context.WorkKey.ToString());
        _marks = new(session, context.WorkKey.ToString(), context.Time);
        _log = context.Log;
    }

    public override (Value? Done, string? Progress) Begin(string fingerprint)
    {
        _fingerprint = fingerprint;
        _marks.Prepare();
        var mark = _marks.Find(null);
        if (mark is { Done: true })
        {
            _stage.Drop();
            return (ValueJson.TryParse(mark.Result!), null);
        }
        if (mark is not null && mark.Fingerprint == fingerprint)
        {
            var (staged, progress) = mark.Progress!.Split(' ', 2) is [var rows, var rest] ? (long.Parse(rows, CultureInfo.InvariantCulture), rest) : (-1, "");
            // Somebody may have tidied up, or a server have lost what it had said was written.
            if (_stage.Count() == staged)
            {
                _staged = staged;
                return (null, progress);
            }
            _log.Note("the rows of the earlier attempt are not in the stage any more; it begins anew");
        }
        // A mark without its stage would let rows be missed: it goes first.
        if (mark is not null) { _marks.Forget(null); }
        _stage.Create();
        return (null, null);
    }

    public override void Add(object?[] row)
    {
        _transaction ??= _session.Begin();
        _writer ??= _stage.Writer(_transaction);
        _writer.Add(row);
        _staged++;
    }

    public override void Checkpoint(string progress)
    {
        Complete();
        _transaction ??= _session.Begin();
        _marks.Advance(_transaction, _fingerprint, string.Create(CultureInfo.InvariantCulture, $"{_staged} {progress}"));
        Commit();
    }

    public override Value Finish(Func<long, long, Value> outputs)
    {
        Complete();
        // All rows are in the stage, so what follows can be done again.
        if (_transaction is not null) { Commit(); }
        if (_stage.EmptiesOutside) { _stage.EmptyTable(null); }
        var result = Move(outputs);
        _stage.Drop();
        return result;
    }

    const int Tries = 6;

    // Others may be at work on the same rows; a server ends one of two who wait for each other.
    Value Move(Func<long, long, Value> outputs)
    {
        for (var nth = 1; ; nth++)
        {
            try
            {
                _transaction = _session.Begin();
                // First the last of each key, then the comparison: else an earlier row would come to the front when the last one is in the table already.
                var superseded = _stage.DropSuperseded(_transaction);
                var unchanged = _stage.DropUnchanged(_transaction);
                _stage.MoveToTable(_transaction);
                if (superseded > 0) { _log.Note($"{superseded:N0} rows were replaced by later ones with the same key"); }
                var result = outputs(unchanged, superseded);
                _marks.Finish(_transaction, ValueJson.ToText(result, plain: false));
                Commit();
                return result;
            }
            catch (DbException e) when (nth < Tries && _session.Dialect.IsDeadlock(e))
            {
                _log.Note($"others were at work on the same rows; it is tried again ({nth} of {Tries - 1})");
                try { Undo(); }
                catch (Exception gone) when (gone is DbException or InvalidOperationException) { _transaction = null; }
                Thread.Sleep(Random.Shared.Next(20, 100 * nth));
            }
        }
    }

    public override (StepError Error, int? Nth, string? What)? Refused(Exception e) =>
        e is not DbException refused || _session.Dialect.Error(e, _session.Name) is not { Code: "sql" or "constraint" } error ? null
            : _session.Dialect.RefusedRow(refused) is var (nth, what) ? (error, nth, what) : null;

    void Complete()
    {
        _writer?.Complete();
        _writer?.Dispose();
        _writer = null;
    }

    void Commit()
    {
        _transaction!.Commit();
        _transaction.Dispose();
        _transaction = null;
    }

    public override void Abandon()
    {
        Undo();
        _marks.Forget(null);
        _stage.Drop();
    }

    void Undo()
    {
        _writer?.Dispose();
        _writer = null;
        _transaction?.Rollback();
        _transaction?.Dispose();
        _transaction = null;
    }

    public override void Dispose()
    {
        // What was not committed is undone by closing.
        try { Undo(); }
        catch (Exception e) when (e is DbException or InvalidOperationException) { }
        _session.Dispose();
    }
}
