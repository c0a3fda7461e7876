using System.Data.Common;

namespace GateChain.Kinds.Databases;

/// <summary>
/// The transaction of a session: begun when something is done in it, and again after each commit. Used by one thread.
/// </summary>
sealed class OpenTransaction(Session session) : IDisposable
{
    const string Point = "gatechain_point";

    DbTransaction? _transaction;

    public DbTransaction Current => _transaction ??= session.Begin();

    public void Commit()
    {
        _transaction?.Commit();
        End();
    }

    public void Undo()
    {
        try
        {
            _transaction?.Rollback();
        }
        finally
        {
            End();
        }
    }

    void End()
    {
        _transaction?.Dispose();
        _transaction = null;
    }

    /// <summary>
    /// Does something that the database may refuse because of a row: then nothing of it stays, and all that came before
    /// does. A database without savepoints commits what came before; there this is only for what may be committed.
    /// </summary>
    /// <returns>Why it was refused; null when it was done.</returns>
    public RowRefusal? Try(Action work)
    {
        var points = session.Dialect.HasSavepoints;
        if (points)
            Current.Save(Point);
        else
            Commit();
        try
        {
            work();
            if (points)
                Current.Release(Point);
            else
                Commit();
            return null;
        }
        catch (Exception e) when (session.Dialect.Refusal(e) is { } refusal)
        {
            if (points)
                Current.Rollback(Point);
            else
                Undo();
            return refusal;
        }
    }

    public void Dispose()
    {
        // What was not committed is undone by closing.
        try
        {
            Undo();
        }
        catch (Exception e) when (e is DbException or InvalidOperationException) { }
    }
}
