using System.Data.Common;
using System.Text;

namespace GateChain.Kinds.Databases;

/// <summary>Takes rows for a stage. Used by one thread.</summary>
interface IRowWriter : IDisposable
{
    /// <summary>Takes over a row; the array may be used again. A null stands for an absent value.</summary>
    void Add(object?[] row);

    /// <summary>Brings what is still here to the server. Without it the rows since the last one are lost.</summary>
    void Complete();

    /// <summary>
    /// Drops what is still here, after the transaction has gone back to where it was before; then it takes rows again.
    /// </summary>
    void Forget();
}

/// <summary>Inserts many rows with one statement: what any database knows.</summary>
sealed class InsertWriter : IRowWriter
{
    readonly Dialect _dialect;
    readonly DbConnection _connection;
    readonly DbTransaction _transaction;
    readonly string _head;
    readonly int _columns;
    readonly int _rowsAtOnce;
    readonly DbCommand _full;
    int _waiting;

    /// <param name="rowsAtOnce">Rows in a statement, as the database bears them; fewer when there are many
    /// columns.</param>
    public InsertWriter(
        Dialect dialect,
        DbConnection connection,
        DbTransaction transaction,
        string stage,
        IReadOnlyList<string> columns,
        int rowsAtOnce,
        int mostParameters = 2000
    )
    {
        (_dialect, _connection, _transaction, _columns) = (dialect, connection, transaction, columns.Count);
        _rowsAtOnce = Math.Clamp(mostParameters / Math.Max(1, columns.Count), 1, rowsAtOnce);
        _head = $"INSERT INTO {stage} ({string.Join(", ", columns.Select(dialect.Quote))}) VALUES ";
        _full = Command(_rowsAtOnce);
    }

    DbCommand Command(int rows)
    {
        var command = _connection.CreateCommand();
        command.Transaction = _transaction;
        var text = new StringBuilder(_head);
        for (var r = 0; r < rows; r++)
        {
            text.Append(r == 0 ? "(" : ", (");
            for (var c = 0; c < _columns; c++)
            {
                var name = $"p{r * _columns + c}";
                text.Append(c == 0 ? "" : ", ").Append(_dialect.Marker).Append(name);
                var parameter = command.CreateParameter();
                parameter.ParameterName = _dialect.ParameterName(name);
                command.Parameters.Add(parameter);
            }
            text.Append(')');
        }
        command.CommandText = text.ToString();
        return command;
    }

    public void Add(object?[] row)
    {
        for (var c = 0; c < _columns; c++)
            _full.Parameters[_waiting * _columns + c].Value = _dialect.ToRow(row[c]);
        if (++_waiting < _rowsAtOnce)
            return;
        _full.ExecuteNonQuery();
        _waiting = 0;
    }

    public void Complete()
    {
        if (_waiting == 0)
            return;
        using var rest = Command(_waiting);
        for (var i = 0; i < _waiting * _columns; i++)
            rest.Parameters[i].Value = _full.Parameters[i].Value;
        rest.ExecuteNonQuery();
        _waiting = 0;
    }

    public void Forget() => _waiting = 0;

    public void Dispose() => _full.Dispose();
}
