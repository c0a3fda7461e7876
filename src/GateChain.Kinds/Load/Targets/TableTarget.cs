using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// A table. Work that is done is marked in the table's database, in the transaction that makes its rows count.
/// </summary>
abstract class TableTarget(Session session, AttemptContext context) : LoadTarget
{
    protected Session Session { get; } = session;
    protected OpenTransaction Transaction { get; } = new(session);
    protected WorkMarks Marks { get; } = new(session, context.WorkKey.ToString(), context.Time);
    protected IAttemptLog Log { get; } = context.Log;
    protected AttemptContext Context { get; } = context;

    public override (Value? Done, string? Progress) Begin(string fingerprint)
    {
        Marks.Prepare();
        var mark = Marks.Find(null);
        return mark is { Done: true } ? (ValueJson.TryParse(mark.Result!), null) : (null, Continue(mark, fingerprint));
    }

    /// <summary>What an earlier attempt has left is recovered, or cleared; gives how far it got.</summary>
    /// <param name="mark">Its mark; null for none.</param>
    /// <param name="fingerprint">What the work is done from now.</param>
    protected abstract string? Continue(WorkMark? mark, string fingerprint);

    /// <summary>Drops a stage, and the note that it is there.</summary>
    protected void Drop(StageTable stage)
    {
        stage.Drop();
        StageNote.Remove(Context);
    }

    /// <summary>Marks the work as done, and makes all of it count.</summary>
    protected void Commit(Value outputs)
    {
        Marks.Finish(Transaction.Current, ValueJson.ToText(outputs, plain: false));
        Transaction.Commit();
    }

    public override void Dispose()
    {
        Transaction.Dispose();
        Session.Dispose();
    }
}
