using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Kinds.Sqlite;

/// <summary>Opens SQLite databases that chains work on, and says in words what goes wrong with them.</summary>
static class SqliteTarget
{
    /// <summary>An open connection, or the failure.</summary>
    public static (SqliteConnection? Connection, AttemptResult? Failure) Open(string name, AttemptContext context)
    {
        if (context.Connections.Find(name) is not { } connection)
        {
            return (null, AttemptResult.Fail("no-connection", $"there is no connection “{name}”", "Declare it in connections.yaml and push the workspace."));
        }
        var path = context.Resolve(connection.Text("path") ?? "");
        if (!Directory.Exists(Path.GetDirectoryName(path))) { return (null, AttemptResult.Fail("no-folder", $"the folder of connection “{name}” is not there: {Path.GetDirectoryName(path)}")); }
        var busy = TimeText.ParseSetting(connection.Text("busyTimeout") ?? "10s") ?? TimeSpan.FromSeconds(10);
        var sqlite = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = path, DefaultTimeout = Math.Max(1, (int)busy.TotalSeconds), Pooling = false }.ToString());
        try
        {
            sqlite.Open();
            using var pragmas = sqlite.CreateCommand();
            pragmas.CommandText = "PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON;";
            pragmas.ExecuteNonQuery();
            return (sqlite, null);
        }
        catch (SqliteException e)
        {
            sqlite.Dispose();
            return (null, Failure(e, name));
        }
    }

    /// <summary>Makes cancelling reach a statement that is running.</summary>
    public static CancellationTokenRegistration InterruptOn(SqliteConnection connection, CancellationToken cancel) =>
        cancel.Register(() => raw.sqlite3_interrupt(connection.Handle));

    public static AttemptResult Failure(SqliteException e, string connection) => e.SqliteErrorCode switch
    {
        raw.SQLITE_BUSY or raw.SQLITE_LOCKED => AttemptResult.Fail("locked", $"the database of “{connection}” is locked by another program", "Nothing was changed. Try again when the other program is done, or raise busyTimeout of the connection; a retry rule on the step does it by itself."),
        raw.SQLITE_FULL => AttemptResult.Fail("full", $"the disk of “{connection}” is full", "Nothing was changed. Make room and resume."),
        raw.SQLITE_INTERRUPT => AttemptResult.Fail("stopped", "the statement was ended early"),
        raw.SQLITE_CANTOPEN => AttemptResult.Fail("no-database", $"the database of “{connection}” can't be opened"),
        raw.SQLITE_NOTADB => AttemptResult.Fail("no-database", $"the file of “{connection}” is not a SQLite database"),
        raw.SQLITE_CONSTRAINT => AttemptResult.Fail("constraint", $"a rule of the database was broken: {Short(e)}"),
        _ => AttemptResult.Fail("sql", Short(e)),
    };

    static string Short(SqliteException e)
    {
        var message = e.Message;
        var start = message.IndexOf('\'', StringComparison.Ordinal);
        return start >= 0 && message.EndsWith("'.", StringComparison.Ordinal) ? message[(start + 1)..^2] : message;
    }

    /// <summary>A value as SQLite stores it: timestamps as RFC 3339 text, lists and maps as JSON.</summary>
    public static object ToColumn(Value value) => value.Kind switch
    {
        ValueKind.Null => DBNull.Value,
        ValueKind.Bool => value.AsBool ? 1L : 0L,
        ValueKind.Int => value.AsInt,
        ValueKind.Uint => checked((long)value.AsUint),
        ValueKind.Double => value.AsDouble,
        ValueKind.Bytes => value.AsBytes,
        ValueKind.List or ValueKind.Map => ValueJson.ToText(value),
        ValueKind.Optional => ToColumn(value.Inner),
        _ => ValueText.ToPlainString(value),
    };

    public static Value FromColumn(object column) => column switch
    {
        long n => Value.Int(n),
        double d => Value.Double(d),
        string s => Value.String(s),
        byte[] b => Value.Bytes(b),
        _ => Value.Null,
    };

    public static string Quote(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    public static int Execute(SqliteConnection connection, SqliteTransaction? transaction, string sql, params ReadOnlySpan<(string Name, object? Value)> parameters)
    {
        using var command = Command(connection, transaction, sql, parameters);
        return command.ExecuteNonQuery();
    }

    public static SqliteCommand Command(SqliteConnection connection, SqliteTransaction? transaction, string sql, params ReadOnlySpan<(string Name, object? Value)> parameters)
    {
        var command = connection.CreateCommand();
        command.CommandText = sql;
        command.Transaction = transaction;
        foreach (var (name, value) in parameters) { command.Parameters.AddWithValue(name, value ?? DBNull.Value); }
        return command;
    }
}
