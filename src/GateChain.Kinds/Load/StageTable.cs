using System.Security.Cryptography;
using System.Text;
using GateChain.Kinds.Sqlite;
using Microsoft.Data.Sqlite;

namespace GateChain.Kinds.Load;

/// <summary>Where rows wait until all of them are read. It stands in the target's database, so that one transaction can move them.</summary>
sealed class StageTable(SqliteConnection connection, LoadInto into, IReadOnlyList<string> columns, string work)
{
    readonly string _name = "gatechain_stage_" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(work)).AsSpan(0, 8));
    readonly string _columns = string.Join(", ", columns.Select(SqliteTarget.Quote));

    public void Drop(SqliteTransaction transaction) => SqliteTarget.Execute(connection, transaction, $"DROP TABLE IF EXISTS {_name}");

    public void Create(SqliteTransaction transaction) => SqliteTarget.Execute(connection, transaction, $"CREATE TABLE {_name} ({_columns})");

    /// <summary>A prepared insert with one parameter per column.</summary>
    public SqliteCommand Insert(SqliteTransaction transaction)
    {
        var command = SqliteTarget.Command(connection, transaction, $"INSERT INTO {_name} ({_columns}) VALUES ({string.Join(", ", columns.Select((_, i) => $"$p{i}"))})");
        for (var i = 0; i < columns.Count; i++) { command.Parameters.Add(new($"$p{i}", null)); }
        return command;
    }

    /// <summary>Brings the rows into the table as the mode says, and removes the stage.</summary>
    public void MoveToTable(SqliteTransaction transaction)
    {
        var table = SqliteTarget.Quote(into.Table);
        if (into.Mode == LoadMode.Replace) { SqliteTarget.Execute(connection, transaction, $"DELETE FROM {table}"); }
        // "WHERE true" tells SQLite's parser that ON CONFLICT belongs to the insert.
        SqliteTarget.Execute(connection, transaction, $"INSERT INTO {table} ({_columns}) SELECT {_columns} FROM {_name} WHERE true ORDER BY rowid{OnConflict()}");
        Drop(transaction);
    }

    string OnConflict()
    {
        if (into.Mode != LoadMode.Upsert) { return ""; }
        var others = columns.Where(c => !into.Key.Contains(c)).Select(c => $"{SqliteTarget.Quote(c)} = excluded.{SqliteTarget.Quote(c)}").ToList();
        var action = others.Count == 0 ? "DO NOTHING" : "DO UPDATE SET " + string.Join(", ", others);
        return $" ON CONFLICT ({string.Join(", ", into.Key.Select(SqliteTarget.Quote))}) {action}";
    }
}
