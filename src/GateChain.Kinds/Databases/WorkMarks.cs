using System.Data.Common;
using System.Globalization;

namespace GateChain.Kinds.Databases;

/// <summary>How far a piece of work has got, as its own database knows it.</summary>
/// <param name="Done">Whether it is finished.</param>
/// <param name="Fingerprint">What it was done from; another one begins again.</param>
/// <param name="Progress">Where it continues, in words of its kind.</param>
/// <param name="Result">Its outputs, when it is finished.</param>
sealed record WorkMark(bool Done, string? Fingerprint, string? Progress, string? Result);

/// <summary>
/// The mark of one piece of work in the database that it is done in, written in the transaction of the work itself: so
/// a crash between “committed there” and “journaled here” neither repeats nor loses it.
/// </summary>
sealed class WorkMarks(Session session, string work, TimeProvider time)
{
    // A word of the language in some databases.
    string At => session.Dialect.Quote("at");

    /// <summary>
    /// Makes sure of the table of marks. Outside of a transaction: in some databases it would end one.
    /// </summary>
    public void Prepare()
    {
        if (IsThere())
            return;
        try
        {
            session.Execute(
                null,
                "CREATE TABLE gatechain_work (work VARCHAR(400) PRIMARY KEY, done INTEGER NOT NULL, "
                    + $"fingerprint TEXT, progress TEXT, result TEXT, {At} VARCHAR(40) NOT NULL)"
            );
        }
        catch (DbException)
        {
            // Another run was quicker, perhaps.
            if (!IsThere())
                throw;
        }
    }

    bool IsThere()
    {
        try
        {
            session.Execute(null, "SELECT 1 FROM gatechain_work WHERE 1 = 0");
            return true;
        }
        catch (DbException)
        {
            return false;
        }
    }

    public WorkMark? Find(DbTransaction? transaction)
    {
        using var command = session.Command(
            transaction,
            "SELECT done, fingerprint, progress, result FROM gatechain_work WHERE work = $work",
            ("work", work)
        );
        using var reader = command.ExecuteReader();
        return reader.Read()
            ? new(
                Convert.ToInt64(reader.GetValue(0), CultureInfo.InvariantCulture) != 0,
                Text(reader, 1),
                Text(reader, 2),
                Text(reader, 3)
            )
            : null;
    }

    /// <summary>All work in this database that has begun and is not finished.</summary>
    public IReadOnlyList<string> Begun()
    {
        if (!IsThere())
            return [];
        using var command = session.Command(null, "SELECT work FROM gatechain_work WHERE done = 0");
        using var reader = command.ExecuteReader();
        var works = new List<string>();
        while (reader.Read())
            works.Add(reader.GetString(0));
        return works;
    }

    static string? Text(DbDataReader reader, int column) => reader.IsDBNull(column) ? null : reader.GetString(column);

    public void Advance(DbTransaction transaction, string fingerprint, string progress) =>
        Write(transaction, false, fingerprint, progress, null);

    public void Finish(DbTransaction transaction, string result) => Write(transaction, true, null, null, result);

    public void Forget(DbTransaction? transaction) =>
        session.Execute(transaction, "DELETE FROM gatechain_work WHERE work = $work", ("work", work));

    /// <summary>Forgets it when it is not finished.</summary>
    public void ForgetBegun()
    {
        if (IsThere())
            session.Execute(null, "DELETE FROM gatechain_work WHERE work = $work AND done = 0", ("work", work));
    }

    /// <summary>Forgets all work of runs, in one look at the table.</summary>
    public int ForgetRuns(IReadOnlyList<string> uids)
    {
        if (uids.Count == 0 || !IsThere())
            return 0;
        using var command = session.Command(
            null,
            "DELETE FROM gatechain_work WHERE "
                + string.Join(" OR ", uids.Select((_, i) => $"work LIKE $u{i.ToString(CultureInfo.InvariantCulture)}")),
            uids.Select(
                (u, i) =>
                    KeyValuePair.Create(
                        $"u{i.ToString(CultureInfo.InvariantCulture)}",
                        Core.Values.Value.String(u + "/%")
                    )
            )
        );
        return command.ExecuteNonQuery();
    }

    void Write(DbTransaction transaction, bool done, string? fingerprint, string? progress, string? result)
    {
        // Looked for before it is written: where nothing is, to delete or to change locks the gap in some databases,
        // and two that do so and then insert wait for each other.
        session.Execute(
            transaction,
            Find(transaction) is null
                ? $"INSERT INTO gatechain_work (work, done, fingerprint, progress, result, {At}) "
                    + "VALUES ($work, $done, $fingerprint, $progress, $result, $at)"
                : "UPDATE gatechain_work SET done = $done, fingerprint = $fingerprint, progress = $progress, "
                    + $"result = $result, {At} = $at WHERE work = $work",
            ("work", work),
            ("done", done ? 1L : 0L),
            ("fingerprint", fingerprint),
            ("progress", progress),
            ("result", result),
            ("at", time.GetUtcNow().ToString("O", CultureInfo.InvariantCulture))
        );
    }
}
