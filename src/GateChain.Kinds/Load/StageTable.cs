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
sealed class StageTable(Session session, string table, IReadOnlyList<string> columns, string work)
{
    readonly string _name = NameOf(work);
    readonly string _table = session.Dialect.QuoteTable(table);

    /// <summary>The columns of its rows, quoted.</summary>
    public string Columns { get; } = string.Join(", ", columns.Select(session.Dialect.Quote));

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
        session.Execute(null, session.Dialect.CreateStage(_name, _table, Columns));
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
            $"SELECT {Columns} FROM {_name} WHERE {_line} = $line",
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

    /// <summary>Makes it quick to ask by key. Outside of transactions.</summary>
    public void IndexKeys(IReadOnlyList<string> key)
    {
        if (session.Dialect.IndexKeys(_name, key) is not { } sql)
            return;
        try
        {
            session.Execute(null, sql);
        }
        // It is there from an earlier attempt, or the keys are too long for one: then it takes longer.
        catch (DbException) { }
    }

    /// <summary>The rows of some lines, or all, as what stands behind FROM.</summary>
    public string Rows((long First, long Last)? lines) =>
        lines is var (first, last)
            ? string.Create(
                CultureInfo.InvariantCulture,
                $"(SELECT {Columns} FROM {_name} WHERE {_line} BETWEEN {first} AND {last})"
            )
            : _name;
}
