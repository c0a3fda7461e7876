using System.Globalization;
using Microsoft.Data.Sqlite;

namespace GateChain.Kinds.Sqlite;

/// <summary>How far a piece of work has got, as its own database knows it.</summary>
/// <param name="Done">Whether it is finished.</param>
/// <param name="Fingerprint">What it was done from; another one begins anew.</param>
/// <param name="Progress">Where it goes on, in words of its kind.</param>
/// <param name="Result">Its outputs, when it is finished.</param>
sealed record WorkMark(bool Done, string? Fingerprint, string? Progress, string? Result);

/// <summary>
/// Marks in the database that work is done in, written in the transaction of the work itself: so a crash between
/// “committed there” and “journaled here” neither repeats nor loses it.
/// </summary>
static class WorkMarks
{
    static void Prepare(SqliteConnection connection, SqliteTransaction transaction) => SqliteTarget.Execute(connection, transaction,
        "CREATE TABLE IF NOT EXISTS gatechain_work (work TEXT PRIMARY KEY, done INTEGER NOT NULL, fingerprint TEXT, progress TEXT, result TEXT, at TEXT NOT NULL)");

    public static WorkMark? Find(SqliteConnection connection, SqliteTransaction transaction, string work)
    {
        Prepare(connection, transaction);
        using var command = SqliteTarget.Command(connection, transaction, "SELECT done, fingerprint, progress, result FROM gatechain_work WHERE work = $work", ("$work", work));
        using var reader = command.ExecuteReader();
        return reader.Read() ? new(reader.GetInt64(0) != 0, Text(reader, 1), Text(reader, 2), Text(reader, 3)) : null;
    }

    static string? Text(SqliteDataReader reader, int column) => reader.IsDBNull(column) ? null : reader.GetString(column);

    public static void Advance(SqliteConnection connection, SqliteTransaction transaction, string work, string fingerprint, string progress, TimeProvider time) =>
        Write(connection, transaction, work, false, fingerprint, progress, null, time);

    public static void Finish(SqliteConnection connection, SqliteTransaction transaction, string work, string result, TimeProvider time) =>
        Write(connection, transaction, work, true, null, null, result, time);

    public static void Forget(SqliteConnection connection, SqliteTransaction transaction, string work) =>
        SqliteTarget.Execute(connection, transaction, "DELETE FROM gatechain_work WHERE work = $work", ("$work", work));

    static void Write(SqliteConnection connection, SqliteTransaction transaction, string work, bool done, string? fingerprint, string? progress, string? result, TimeProvider time) =>
        SqliteTarget.Execute(connection, transaction,
            """
            INSERT INTO gatechain_work (work, done, fingerprint, progress, result, at) VALUES ($work, $done, $fingerprint, $progress, $result, $at)
            ON CONFLICT (work) DO UPDATE SET done = $done, fingerprint = $fingerprint, progress = $progress, result = $result, at = $at
            """,
            ("$work", work), ("$done", done ? 1 : 0), ("$fingerprint", fingerprint), ("$progress", progress), ("$result", result),
            ("$at", time.GetUtcNow().ToString("O", CultureInfo.InvariantCulture)));
}
