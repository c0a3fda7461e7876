using System.Data.Common;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Sources;

/// <summary>The rows of a table or a query.</summary>
sealed class QuerySource : RowSource
{
    readonly Session _session;
    readonly DbCommand _command;
    readonly CancellationTokenRegistration _interrupt;
    readonly DbDataReader _reader;
    readonly CellType?[] _types;
    readonly Func<int, object?> _cell;
    readonly int _since = -1;

    /// <param name="what">What it is, for sentences.</param>
    /// <param name="session">The open connection; it is closed with the source.</param>
    /// <param name="query">The statement.</param>
    /// <param name="bind">Values of its parameters.</param>
    /// <param name="aside">Whether the rows are put aside first: whoever reads a SQLite file keeps others from writing
    /// it.</param>
    /// <param name="position">Where reading begins; null for the start.</param>
    public QuerySource(
        string what,
        Session session,
        string query,
        IEnumerable<KeyValuePair<string, Value>> bind,
        bool aside = false,
        Position? position = null
    )
    {
        (What, _session, Position) = (what, session, position);
        var values = bind.ToList();
        if (position is not null)
        {
            (query, var begin) = position.Limit(query, session.Dialect);
            values.AddRange(begin);
        }
        if (aside)
            (query, values) = (PutAside(session, query, values), []);
        try
        {
            _command = session.Command(null, session.Dialect.ReadableQuery(session, query, values), values);
        }
        catch (Exception e)
        {
            session.Dispose();
            throw session.Dialect.Error(e, session.Name) is { } error ? new StepFailedException(error) : e;
        }
        session.Dialect.BeforeRead(_command);
        _interrupt = session.InterruptOn(_command);
        try
        {
            _reader = _command.ExecuteReader();
        }
        catch (Exception e)
        {
            _interrupt.Dispose();
            _command.Dispose();
            session.Dispose();
            throw session.Dialect.Error(e, session.Name) is { } error ? new StepFailedException(error) : e;
        }
        Names = [.. Enumerable.Range(0, _reader.FieldCount).Select(i => DuckDbText.NameOf(_reader.GetName(i)))];
        _types = [.. Enumerable.Range(0, _reader.FieldCount).Select(i => session.Dialect.TypeOf(_reader, i))];
        _cell = session.Dialect.Cell(_reader);
        if (position is null)
            return;
        _since = Names.ToList().FindIndex(n => n.Equals(position.Column, StringComparison.OrdinalIgnoreCase));
        if (_since < 0)
        {
            Dispose();
            throw new StepFailedException(
                "columns",
                $"{what} has no column “{position.Column}” to go on from",
                $"Its columns: {string.Join(", ", Names)}"
            );
        }
    }

    // Into a table of this connection alone, which is not in the file.
    static string PutAside(Session session, string query, IEnumerable<KeyValuePair<string, Value>> bind)
    {
        try
        {
            using var command = session.Command(null, $"CREATE TEMP TABLE gatechain_rows AS {query}", bind);
            using (session.InterruptOn(command))
            {
                command.ExecuteNonQuery();
            }
            return "SELECT * FROM temp.gatechain_rows ORDER BY rowid";
        }
        catch (Exception e)
        {
            session.Dispose();
            throw session.Dialect.Error(e, session.Name) is { } error ? new StepFailedException(error) : e;
        }
    }

    public override string What { get; }
    public override IReadOnlyList<string> Names { get; }

    // Nobody promises that a query gives its rows in the same order again.
    public override bool IsSteady => false;
    public override string Fingerprint => What;

    public override Position? Position { get; }

    public override bool Read()
    {
        if (!_reader.Read())
            return false;
        Position?.See(_cell(_since));
        return true;
    }

    public override CellType? TypeOf(int column) => _types[column];

    public override string? OwnTypeOf(int column, string database) =>
        database == _session.Dialect.Type ? _session.Dialect.OwnTypeOf(_reader, column) : null;

    public override object? this[int column] => _cell(column);

    public override void Dispose()
    {
        _interrupt.Dispose();
        _reader.Dispose();
        _command.Dispose();
        _session.Dispose();
    }
}
