using System.Data;
using System.Data.Common;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>What was moved.</summary>
/// <param name="Table">Of what.</param>
/// <param name="Rows">How many rows.</param>
public readonly record struct Moved(string Table, long Rows);

/// <summary>
/// Takes everything from one store to another one that nobody works with. A service may work with the first one where
/// decisions lie in rows of their own: what comes along is all of one moment.
/// </summary>
public static class StoreMove
{
    // So many rows go in one statement, and so many bytes.
    const int MostRows = 100,
        MostBytes = 8 << 20;

    /// <summary>Copies everything; the source stays as it is.</summary>
    /// <param name="from">Where it is.</param>
    /// <param name="to">Where it is to be; has to be empty.</param>
    /// <param name="told">Is told what was copied, table by table.</param>
    /// <param name="cancel">Gives up; nothing is in the target then.</param>
    /// <exception cref="StorageException">The target is not empty, or one of them can't be read or written; nothing is
    /// in the target then.</exception>
    public static async Task CopyAsync(SqlStore from, SqlStore to, Action<Moved> told, CancellationToken cancel)
    {
        await from.Database.WriteAsync(_ => Task.CompletedTask, sortIn: true).ConfigureAwait(false);
        await from.Database.GivePlacesAsync().ConfigureAwait(false);
        await from
            .Database.ReadAsync(async source =>
            {
                // All questions see one moment, whatever is written meanwhile.
                await using var moment = from.Database.Words.Decisions is null
                    ? null
                    : await source.BeginTransactionAsync(IsolationLevel.RepeatableRead, cancel).ConfigureAwait(false);
                await to
                    .Database.WriteAsync(target => CopyAsync(from, to, source, target, told, cancel), sortIn: true)
                    .ConfigureAwait(false);
                return true;
            })
            .ConfigureAwait(false);
    }

    static async Task CopyAsync(
        SqlStore from,
        SqlStore to,
        DbConnection source,
        DbConnection target,
        Action<Moved> told,
        CancellationToken cancel
    )
    {
        foreach (var table in Tables.All)
            await RefuseFilledAsync(target, table).ConfigureAwait(false);
        foreach (var table in Tables.All)
            told(new(table.Name, await CopyAsync(source, target, table, cancel).ConfigureAwait(false)));
        told(new("journal", await CopyJournalAsync(from, source, target, cancel).ConfigureAwait(false)));
        var position = await source.ExecuteScalarAsync<long>(from.Database.Words.LastPosition).ConfigureAwait(false);
        await target.ExecuteAsync(to.Database.Words.ContinueNumbers, new { position }).ConfigureAwait(false);
    }

    static async Task RefuseFilledAsync(DbConnection target, Table table)
    {
        var filled = await target.ExecuteScalarAsync<int?>($"SELECT 1 FROM {table.Name} LIMIT 1").ConfigureAwait(false);
        if (filled is not null)
            throw new StorageException($"the target is not empty: its table {table.Name} has rows", null);
    }

    static Task<long> CopyAsync(DbConnection source, DbConnection target, Table table, CancellationToken cancel) =>
        CopyAsync(
            source,
            $"SELECT {table.Columns} FROM {table.Name} ORDER BY {table.Order}",
            new Rows(target, table.Name, table.Columns),
            cancel
        );

    static async Task<long> CopyAsync(DbConnection source, string query, Rows rows, CancellationToken cancel)
    {
        await using var command = source.CreateCommand();
        command.CommandText = query;
        await using var reader = await command.ExecuteReaderAsync(cancel).ConfigureAwait(false);
        while (await reader.ReadAsync(cancel).ConfigureAwait(false))
        {
            var row = new object[reader.FieldCount];
            reader.GetValues(row);
            await rows.AddAsync(row).ConfigureAwait(false);
        }
        return await rows.EndAsync().ConfigureAwait(false);
    }

    // The journal lies differently in each: it is read as those do who continue with a run.
    static async Task<long> CopyJournalAsync(
        SqlStore from,
        DbConnection source,
        DbConnection target,
        CancellationToken cancel
    )
    {
        var rows = new Rows(target, "journal", "run, seq, body");
        if (from.Database.Words.Decisions is { } decisions)
            return await CopyAsync(source, decisions, rows, cancel).ConfigureAwait(false);
        foreach (var run in await source.QueryAsync<long>("SELECT id FROM runs ORDER BY id").ConfigureAwait(false))
        {
            await foreach (var row in from.Journal.ReadAsync(run, 0, cancel).ConfigureAwait(false))
                await rows.AddAsync([run, row.Seq, row.Body]).ConfigureAwait(false);
        }
        return await rows.EndAsync().ConfigureAwait(false);
    }

    /// <summary>Rows on their way into a table, many at a time.</summary>
    sealed class Rows(DbConnection target, string table, string columns)
    {
        readonly List<object[]> _waiting = [];
        long _bytes;
        long _count;

        public async Task AddAsync(object[] row)
        {
            _waiting.Add(row);
            _bytes += row.Sum(v =>
                v is byte[] bytes ? bytes.LongLength
                : v is string text ? text.Length
                : 8
            );
            if (_waiting.Count == MostRows || _bytes > MostBytes)
                await WriteAsync().ConfigureAwait(false);
        }

        public async Task<long> EndAsync()
        {
            if (_waiting.Count > 0)
                await WriteAsync().ConfigureAwait(false);
            return _count;
        }

        async Task WriteAsync()
        {
            await using var command = target.CreateCommand();
            var places = new List<string>();
            foreach (var row in _waiting)
            {
                var names = new List<string>();
                foreach (var value in row)
                {
                    var parameter = command.CreateParameter();
                    parameter.ParameterName = $"p{command.Parameters.Count}";
                    parameter.Value = value;
                    command.Parameters.Add(parameter);
                    names.Add("@" + parameter.ParameterName);
                }
                places.Add($"({string.Join(", ", names)})");
            }
            command.CommandText = $"INSERT INTO {table} ({columns}) VALUES {string.Join(", ", places)}";
            await command.ExecuteNonQueryAsync().ConfigureAwait(false);
            _count += _waiting.Count;
            _waiting.Clear();
            _bytes = 0;
        }
    }
}
