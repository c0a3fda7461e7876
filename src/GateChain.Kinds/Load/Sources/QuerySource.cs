using System.Data.Common;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load.Sources;

/// <summary>The rows of a table or a query.</summary>
sealed class QuerySource : RowSource
{
    readonly Session _session;
    readonly DbCommand _command;
    readonly CancellationTokenRegistration _interrupt;
    readonly DbDataReader _reader;

    /// <param name="what">What it is, for sentences.</param>
    /// <param name="session">The open connection; it is closed with the source.</param>
    /// <param name="query">The statement.</param>
    /// <param name="bind">Values of its parameters.</param>
    public QuerySource(string what, Session session, string query, IEnumerable<KeyValuePair<string, Value>> bind)
    {
        (What, _session) = (what, session);
        _command = session.Command(null, query, bind);
        _interrupt = session.InterruptOn(_command);
        try { _reader = _command.ExecuteReader(); }
        catch (Exception e)
        {
            _interrupt.Dispose();
            _command.Dispose();
            session.Dispose();
            throw session.Dialect.Error(e, session.Name) is { } error ? new StepFailedException(error) : e;
        }
        Names = [.. Enumerable.Range(0, _reader.FieldCount).Select(_reader.GetName)];
    }

    public override string What { get; }
    public override IReadOnlyList<string> Names { get; }

    // Nobody promises that a query gives its rows in the same order again.
    public override bool IsSteady => false;
    public override string Fingerprint => What;
    public override bool Read() => _reader.Read();
    public override object? this[int column] => _reader.IsDBNull(column) ? null : _reader.GetValue(column);

    public override void Dispose()
    {
        _interrupt.Dispose();
        _reader.Dispose();
        _command.Dispose();
        _session.Dispose();
    }
}
