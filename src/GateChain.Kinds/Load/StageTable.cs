using System.Data.Common;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load;

/// <summary>
/// Where rows wait until all of them are read. It stands in the target's database, so that one transaction can move
/// them.
/// </summary>
sealed class StageTable(Session session, LoadInto into, string table, IReadOnlyList<string> columns, string work)
{
    readonly string _name = NameOf(work);
    readonly string _table = session.Dialect.QuoteTable(table);
    readonly string _columns = string.Join(", ", columns.Select(session.Dialect.Quote));

    readonly string _line = session.Dialect.Quote(Dialect.StageLine);

    /// <summary>What the names of all stages begin with.</summary>
    public const string Prefix = "gatechain_stage_";

    /// <summary>The stage of a piece of work.</summary>
    public static string NameOf(string work) =>
        Prefix + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(work)).AsSpan(0, 8));

    // Outside of transactions: in some databases a change of tables would end one.
    public void Drop() => session.Execute(null, $"DROP TABLE IF EXISTS {_name}");

    public void Create()
    {
        Drop();
        session.Execute(null, session.Dialect.CreateStage(_name, _table, _columns));
    }

    /// <summary>Its name.</summary>
    public string Name => _name;

    /// <summary>How many rows are in it; null when it is not there, or rows have no lines and get none.</summary>
    public long? Count()
    {
        try
        {
            return Number($"SELECT count({_line}) FROM {_name}");
        }
        catch (DbException e) when (IsMissing(e)) { }
        // A stage of an older version has no lines.
        if (session.Dialect.AdoptStage(_name) is not { } adopt)
            return null;
        try
        {
            session.Execute(null, adopt);
            return Number($"SELECT count({_line}) FROM {_name}");
        }
        catch (DbException e) when (IsMissing(e))
        {
            return null;
        }
    }

    bool IsMissing(DbException e) => session.Dialect.Error(e, session.Name) is { Code: "no-table" or "sql" };

    long? Number(string query, DbTransaction? transaction = null)
    {
        using var command = session.Command(transaction, query);
        return command.ExecuteScalar() is { } number and not DBNull
            ? Convert.ToInt64(number, CultureInfo.InvariantCulture)
            : null;
    }

    /// <summary>The first and the last line that are in it; null when it is empty.</summary>
    public (long First, long Last)? Lines(DbTransaction transaction) =>
        Number($"SELECT min({_line}) FROM {_name}", transaction) is { } first
        && Number($"SELECT max({_line}) FROM {_name}", transaction) is { } last
            ? (first, last)
            : null;

    /// <summary>The row of a line.</summary>
    public object?[] Row(DbTransaction transaction, long line)
    {
        using var command = session.Command(
            transaction,
            $"SELECT {_columns} FROM {_name} WHERE {_line} = $line",
            ("line", line)
        );
        session.Dialect.BeforeRead(command);
        using var reader = command.ExecuteReader();
        reader.Read();
        var cell = session.Dialect.Cell(reader);
        return [.. columns.Select((_, i) => cell(i))];
    }

    public void Remove(DbTransaction transaction, long line) =>
        session.Execute(transaction, $"DELETE FROM {_name} WHERE {_line} = $line", ("line", line));

    /// <summary>Makes it quick to ask by line.</summary>
    public void Index(DbTransaction transaction)
    {
        if (session.Dialect.IndexStage(_name) is { } sql)
            session.Execute(transaction, sql);
    }

    /// <summary>Empties the table where the mode says so.</summary>
    public void EmptyTable(DbTransaction transaction)
    {
        if (into.Mode is LoadMode.Replace or LoadMode.Truncate)
        {
            session.Execute(
                transaction,
                into.Mode == LoadMode.Truncate && !session.Dialect.DdlCommits
                    ? session.Dialect.Truncate(_table)
                    : $"DELETE FROM {_table}"
            );
        }
    }

    /// <summary>
    /// Where keys count: takes out of the stage what a later row of the same key replaces; gives how many rows that
    /// were.
    /// </summary>
    public int DropSuperseded(DbTransaction transaction) =>
        into.IsByKey ? session.Execute(transaction, session.Dialect.DropSuperseded(into.Key, _name)) : 0;

    /// <summary>
    /// Takes out of the stage what stays in the table as it is: for an upsert what stands there just so, for an
    /// insert what has a key that is there. Gives how many rows that were.
    /// </summary>
    public int DropUnchanged(DbTransaction transaction)
    {
        if (!into.IsByKey)
            return 0;
        var keys = into.Key.Select(k => $"t.{session.Dialect.Quote(k)} = {_name}.{session.Dialect.Quote(k)}");
        var others = columns
            .Where(c => into.Mode == LoadMode.Upsert && !into.Key.Contains(c))
            .Select(c => session.Dialect.Same($"t.{session.Dialect.Quote(c)}", $"{_name}.{session.Dialect.Quote(c)}"));
        return session.Execute(
            transaction,
            $"DELETE FROM {_name} WHERE EXISTS (SELECT 1 FROM {_table} AS t WHERE "
                + $"{string.Join(" AND ", keys.Concat(others))})"
        );
    }

    /// <summary>Brings the rows of some lines into the table, or all; gives how many were changed.</summary>
    public int MoveToTable(DbTransaction transaction, (long First, long Last)? lines = null)
    {
        var rows = lines is var (first, last)
            ? string.Create(
                CultureInfo.InvariantCulture,
                $"(SELECT {_columns} FROM {_name} WHERE {_line} BETWEEN {first} AND {last})"
            )
            : _name;
        return session.Execute(
            transaction,
            into.Mode == LoadMode.Upsert
                ? session.Dialect.Upsert(_table, columns, into.Key, rows)
                : $"INSERT INTO {_table} ({_columns}) SELECT {_columns} FROM {rows} AS s"
        );
    }
}
