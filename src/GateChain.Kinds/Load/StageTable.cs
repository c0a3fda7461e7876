using System.Data.Common;
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

    public IRowWriter Writer(DbTransaction transaction) => session.Writer(transaction, _name, columns);

    /// <summary>Brings the rows into the table as the mode says; gives how many were changed.</summary>
    public int MoveToTable(DbTransaction transaction)
    {
        if (into.Mode == LoadMode.Replace) { session.Execute(transaction, $"DELETE FROM {_table}"); }
        return session.Execute(transaction, into.Mode == LoadMode.Upsert ? session.Dialect.Upsert(_table, columns, into.Key, _name) : $"INSERT INTO {_table} ({_columns}) SELECT {_columns} FROM {_name}");
    }
}
