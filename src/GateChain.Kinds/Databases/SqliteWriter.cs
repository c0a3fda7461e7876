using System.Data.Common;
using System.Globalization;
using System.Text;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Kinds.Databases;

/// <summary>
/// Inserts rows with one prepared statement, straight to SQLite: nothing of a row passes through objects of the driver.
/// </summary>
/// <remarks>Source: sqlite3_prepare_v2, sqlite3_bind, sqlite3_step.</remarks>
sealed class SqliteWriter : IRowWriter
{
    readonly SqliteDialect _dialect;
    readonly sqlite3 _handle;
    readonly sqlite3_stmt _statement;
    byte[] _text = new byte[1024];

    public SqliteWriter(SqliteDialect dialect, DbConnection connection, string stage, IReadOnlyList<string> columns)
    {
        (_dialect, _handle) = (dialect, ((SqliteConnection)connection).Handle!);
        Must(
            raw.sqlite3_prepare_v2(
                _handle,
                $"INSERT INTO {stage} ({string.Join(", ", columns.Select(dialect.Quote))}) VALUES ("
                    + $"{string.Join(", ", columns.Select(_ => "?"))})",
                out _statement
            )
        );
    }

    public void Add(object?[] row)
    {
        for (var c = 0; c < row.Length; c++)
            Must(Bind(c + 1, row[c]));
        var done = raw.sqlite3_step(_statement);
        raw.sqlite3_reset(_statement);
        if (done != raw.SQLITE_DONE)
            Must(done);
    }

    int Bind(int at, object? value) =>
        value switch
        {
            string text => Bind(at, text),
            double d when !double.IsNaN(d) => raw.sqlite3_bind_double(_statement, at, d),
            double => throw new OverflowException("SQLite has no NaN, and would make nothing of it"),
            long n => raw.sqlite3_bind_int64(_statement, at, n),
            byte[] bytes => raw.sqlite3_bind_blob(_statement, at, bytes),
            _ => _dialect.ToRow(value) switch
            {
                DBNull => raw.sqlite3_bind_null(_statement, at),
                string text => Bind(at, text),
                double d => raw.sqlite3_bind_double(_statement, at, d),
                long n => raw.sqlite3_bind_int64(_statement, at, n),
                decimal m => Bind(at, m.ToString(CultureInfo.InvariantCulture)),
                var other => throw new InvalidOperationException(
                    $"a cell of the type {other.GetType().Name} is not foreseen"
                ),
            },
        };

    int Bind(int at, string text)
    {
        // An empty span would be taken for no value.
        if (text.Length == 0)
            return raw.sqlite3_bind_text(_statement, at, "");
        if (Encoding.UTF8.GetMaxByteCount(text.Length) > _text.Length)
            _text = new byte[Encoding.UTF8.GetMaxByteCount(text.Length) * 2];
        return raw.sqlite3_bind_text(_statement, at, _text.AsSpan(0, Encoding.UTF8.GetBytes(text, _text)));
    }

    void Must(int code)
    {
        if (code is not (raw.SQLITE_OK or raw.SQLITE_DONE))
            SqliteException.ThrowExceptionForRC(code, _handle);
    }

    public void Complete()
    {
        // Every row is there already.
    }

    public void Forget()
    {
        // Nothing waits here.
    }

    public void Dispose() => _statement.Dispose();
}
