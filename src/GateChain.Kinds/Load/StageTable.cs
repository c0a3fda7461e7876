using System.Data.Common;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load;

/// <summary>Where rows wait until all of them are read. It stands in the target's database, so that one transaction can move them.</summary>
sealed class StageTable(Session session, LoadInto into, string table, IReadOnlyList<string> columns, string work)
{
    readonly string _name = "gatechain_stage_" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(work)).AsSpan(0, 8));
    readonly string _table = session.Dialect.QuoteTable(table);
    readonly string _columns = string.Join(", ", columns.Select(session.Dialect.Quote));

    // Outside of transactions: in some databases a change of tables would end one.
    public void Drop() => session.Execute(null, $"DROP TABLE IF EXISTS {_name}");

    public void Create()
    {
        Drop();
        session.Execute(null, session.Dialect.CreateStage(_name, _table, _columns));
    }

    /// <summary>How many rows are in it; null when it is not there.</summary>
    public long? Count()
    {
        try
        {
            using var command = session.Command(null, $"SELECT count(*) FROM {_name}");
            return Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
        }
        catch (DbException e) when (session.Dialect.Error(e, session.Name) is { Code: "no-table" or "sql" })
        {
            return null;
        }
    }

    public IRowWriter Writer(DbTransaction transaction) => session.Writer(transaction, _name, columns);

    /// <summary>Whether the table has to be emptied outside of the last transaction.</summary>
    public bool EmptiesOutside => into.Mode == LoadMode.Truncate && session.Dialect.DdlCommits;

    public void EmptyTable(DbTransaction? transaction) => session.Execute(transaction, into.Mode == LoadMode.Truncate ? session.Dialect.Truncate(_table) : $"DELETE FROM {_table}");

    /// <summary>For an upsert: takes out of the stage what a later row of the same key replaces; gives how many rows that were.</summary>
    public int DropSuperseded(DbTransaction transaction) => into.Mode == LoadMode.Upsert && session.Dialect.DropSuperseded(into.Key, _name) is { } sql ? session.Execute(transaction, sql) : 0;

    /// <summary>For an upsert: takes out of the stage what stands in the table just so; gives how many rows that were.</summary>
    public int DropUnchanged(DbTransaction transaction)
    {
        if (into.Mode != LoadMode.Upsert) { return 0; }
        var keys = into.Key.Select(k => $"t.{session.Dialect.Quote(k)} = {_name}.{session.Dialect.Quote(k)}");
        var others = columns.Where(c => !into.Key.Contains(c)).Select(c => session.Dialect.Same($"t.{session.Dialect.Quote(c)}", $"{_name}.{session.Dialect.Quote(c)}"));
        return session.Execute(transaction, $"DELETE FROM {_name} WHERE EXISTS (SELECT 1 FROM {_table} AS t WHERE {string.Join(" AND ", keys.Concat(others))})");
    }

    /// <summary>Brings the rows into the table as the mode says; gives how many were changed.</summary>
    public int MoveToTable(DbTransaction transaction)
    {
        if (into.Mode is LoadMode.Replace or LoadMode.Truncate && !EmptiesOutside) { EmptyTable(transaction); }
        return session.Execute(transaction, into.Mode == LoadMode.Upsert ? session.Dialect.Upsert(_table, columns, into.Key, _name) : $"INSERT INTO {_table} ({_columns}) SELECT {_columns} FROM {_name}");
    }
}
