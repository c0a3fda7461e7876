using System.Data.Common;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Databases;

/// <summary>An open connection for one attempt. Used by one thread.</summary>
sealed class Session : IDisposable
{
    readonly DbConnection _connection;
    readonly CancellationToken _cancel;

    Session(Dialect dialect, DbConnection connection, string name, CancellationToken cancel) =>
        (Dialect, _connection, Name, _cancel) = (dialect, connection, name, cancel);

    public Dialect Dialect { get; }

    /// <summary>The connection's name.</summary>
    public string Name { get; }

    /// <summary>An open connection.</summary>
    /// <exception cref="StepFailedException">It could not be opened: the failure says why.</exception>
    public static Session Open(string name, AttemptContext context, CancellationToken cancel) =>
        Open(name, context.Connections, context.ConnectionUse, context.Log.Note, cancel);

    /// <inheritdoc cref="Open(string, AttemptContext, CancellationToken)"/>
    public static Session Open(
        string name,
        IConnections connections,
        ConnectionUse use,
        Action<string> notice,
        CancellationToken cancel
    )
    {
        var connection = connections.Require(name);
        var dialect = Dialects.Find(connection.Type)
            ?? throw new StepFailedException(
                "no-connection",
                $"“{name}” is {Article.Of(connection.Type)} connection, not a database"
            );
        try
        {
            return new(
                dialect,
                dialect.OpenAsync(connection, use, notice, cancel).GetAwaiter().GetResult(),
                name,
                cancel
            );
        }
        catch (StepFailedException)
        {
            throw;
        }
        catch (MissingSecretException e)
        {
            throw NamedConnections.NoSecret(e, name);
        }
        catch (FormatException e)
        {
            throw new StepFailedException("connection", $"connection “{name}”: {e.Message}");
        }
        catch (DirectoryNotFoundException e)
        {
            throw new StepFailedException("no-folder", e.Message);
        }
        catch (Exception e) when (dialect.Error(e, name) is { } error)
        {
            throw new StepFailedException(error);
        }
    }

    /// <summary>An open connection that rows are carried from or to.</summary>
    /// <inheritdoc cref="Open(string, AttemptContext, CancellationToken)"/>
    public static Session OpenForRows(string name, AttemptContext context, CancellationToken cancel)
    {
        var session = Open(
            name,
            context.Connections,
            context.ConnectionUse with
            {
                Exact = true,
            },
            context.Log.Note,
            cancel
        );
        try
        {
            if (session.Dialect.RowSession is { } settings)
                session.Execute(null, settings);
            return session;
        }
        catch
        {
            session.Dispose();
            throw;
        }
    }

    public DbTransaction Begin() => _connection.BeginTransaction();

    /// <summary>A statement whose parameters stand as <c>$name</c>.</summary>
    public DbCommand Command(
        DbTransaction? transaction,
        string sql,
        IEnumerable<KeyValuePair<string, Value>> parameters
    )
    {
        (sql, var bound) = SqlLists.Spread(sql, parameters, Dialect.ReadsArrays);
        var command = _connection.CreateCommand();
        command.CommandText = SqlText.WithMarkers(sql, bound.Select(p => p.Key).ToHashSet(), Dialect.Marker);
        command.Transaction = transaction;
        command.CommandTimeout = Dialect is SqliteDialect ? command.CommandTimeout : 0;
        foreach (var (name, value) in bound)
            command.Parameters.Add(Dialect.Parameter(command, name, value));
        return command;
    }

    /// <inheritdoc cref="Command(DbTransaction?, string, IEnumerable{KeyValuePair{string, Value}})"/>
    public DbCommand Command(
        DbTransaction? transaction,
        string sql,
        params ReadOnlySpan<(string Name, object? Value)> parameters
    )
    {
        var bound = new List<KeyValuePair<string, Value>>();
        foreach (var (name, value) in parameters)
        {
            bound.Add(
                new(
                    name,
                    value switch
                    {
                        null => Value.Null,
                        long n => Value.Int(n),
                        _ => Value.String((string)value),
                    }
                )
            );
        }
        return Command(transaction, sql, bound);
    }

    public int Execute(
        DbTransaction? transaction,
        string sql,
        params ReadOnlySpan<(string Name, object? Value)> parameters
    )
    {
        using var command = Command(transaction, sql, parameters);
        using (InterruptOn(command))
        {
            return command.ExecuteNonQuery();
        }
    }

    /// <summary>Makes cancelling reach the server while a statement is running.</summary>
    public CancellationTokenRegistration InterruptOn(DbCommand command) =>
        Dialect.InterruptOn(_connection, command, _cancel);

    public IRowWriter Writer(DbTransaction transaction, string stage, IReadOnlyList<string> columns) =>
        Dialect.Writer(_connection, transaction, stage, columns);

    /// <inheritdoc cref="Dialect.Bulk"/>
    public IBulkWriter? Bulk(string table, IReadOnlyList<string> columns) => Dialect.Bulk(_connection, table, columns);

    /// <summary>Names of the columns that a query or table gives, none when there is no such table.</summary>
    public IReadOnlyList<string> ColumnsOf(string table)
    {
        try
        {
            using var command = Command(null, $"SELECT * FROM {Dialect.QuoteTable(table)} WHERE 1 = 0");
            using var reader = command.ExecuteReader();
            return [.. Enumerable.Range(0, reader.FieldCount).Select(reader.GetName)];
        }
        catch (DbException e) when (Dialect.Error(e, Name) is { Code: "no-table" or "sql" })
        {
            return [];
        }
    }

    /// <summary>
    /// The tables and views, by schema and name; the schema is null for the one that a name alone stands for.
    /// </summary>
    /// <param name="most">The most that are told.</param>
    public IReadOnlyList<(string? Schema, string Name, bool IsView)> Tables(int most)
    {
        using var command = Command(null, Dialect.TablesQuery);
        using var reader = command.ExecuteReader();
        var found = new List<(string?, string, bool)>();
        while (found.Count < most && reader.Read())
        {
            found.Add(
                (reader.IsDBNull(0) ? null : reader.GetString(0), reader.GetString(1), reader.GetString(2) == "VIEW")
            );
        }
        return found;
    }

    public void Dispose() => _connection.Dispose();
}
