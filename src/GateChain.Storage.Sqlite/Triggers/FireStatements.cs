using GateChain.Storage.Sql;
using SQLitePCL;

namespace GateChain.Storage.Sqlite;

/// <summary>The writer's prepared statements about fires. Used by one thread.</summary>
sealed class FireStatements
{
    readonly Statements _statements;

    readonly sqlite3_stmt _taken,
        _passed,
        _take,
        _mark,
        _remember,
        _add;

    public FireStatements(Statements statements)
    {
        _statements = statements;
        _taken = statements.Prepare(Fires.Taken);
        _passed = statements.Prepare(Fires.Passed);
        _take = statements.Prepare(Fires.Take);
        _mark = statements.Prepare(Fires.SetMark);
        _remember = statements.Prepare(Fires.Remember);
        _add = statements.Prepare(Fires.Insert);
    }

    /// <summary>Whether what a fire is for was taken before.</summary>
    public bool IsTaken(NewFire fire)
    {
        foreach (var key in fire.Takes)
        {
            raw.sqlite3_bind_text(_taken, 1, fire.Trigger);
            raw.sqlite3_bind_text(_taken, 2, key);
            if (_statements.Number(_taken) == 1)
                return true;
        }
        if (fire.Mark is not { } mark)
            return false;
        raw.sqlite3_bind_text(_passed, 1, fire.Trigger);
        raw.sqlite3_bind_text(_passed, 2, Times.Utc(mark));
        return _statements.Number(_passed) == 1;
    }

    /// <summary>Writes a fire that is not taken, and takes what it is for.</summary>
    /// <param name="fire">The fire.</param>
    /// <param name="run">The run that it starts; null for none.</param>
    /// <returns>Its number.</returns>
    public long Add(NewFire fire, long? run)
    {
        var at = Times.Utc(fire.At);
        foreach (var key in fire.Takes)
        {
            raw.sqlite3_bind_text(_take, 1, fire.Trigger);
            raw.sqlite3_bind_text(_take, 2, key);
            raw.sqlite3_bind_text(_take, 3, at);
            _statements.Run(_take);
        }
        if (fire.Mark is { } mark)
        {
            raw.sqlite3_bind_text(_mark, 1, fire.Trigger);
            raw.sqlite3_bind_text(_mark, 2, Times.Utc(mark));
            _statements.Run(_mark);
        }
        if (fire.Memory is { } memory)
        {
            raw.sqlite3_bind_text(_remember, 1, fire.Trigger);
            raw.sqlite3_bind_text(_remember, 2, at);
            raw.sqlite3_bind_text(_remember, 3, memory);
            _statements.Run(_remember);
        }
        raw.sqlite3_bind_text(_add, 1, fire.Trigger);
        raw.sqlite3_bind_text(_add, 2, at);
        raw.sqlite3_bind_text(_add, 3, fire.Key);
        raw.sqlite3_bind_text(_add, 4, fire.Event);
        raw.sqlite3_bind_int(_add, 5, (int)fire.Fate);
        Statements.BindText(_add, 6, fire.Why);
        Statements.BindNumber(_add, 7, run);
        Statements.BindNumber(_add, 8, fire.Backfill);
        _statements.Run(_add);
        var number = _statements.LastAdded;
        if (Fires.News(fire) is var (kind, state))
            _statements.AddNotification(0, number, fire.Chain, kind, state);
        return number;
    }
}
