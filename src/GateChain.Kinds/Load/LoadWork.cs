using System.Globalization;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Sqlite;
using Microsoft.Data.Sqlite;
using Sylvan.Data.Csv;

namespace GateChain.Kinds.Load;

/// <summary>One attempt at a load.</summary>
sealed class LoadWork(LoadSettings settings, AttemptContext context, SqliteConnection connection, string path, CancellationToken cancel)
{
    long _read, _rejected;

    long Kept => _read - _rejected;

    public AttemptResult Run()
    {
        using var reader = CsvDataReader.Create(path, new CsvDataReaderOptions
        {
            Delimiter = settings.From.Delimiter is { Length: > 0 } delimiter ? delimiter[0] : null,
            BufferSize = 1 << 16, MaxBufferSize = 1 << 22, ResultSetMode = ResultSetMode.SingleResult,
        });
        var (columns, problem) = LineReader.Columns(settings, reader, TableColumns());
        if (columns is null) { return problem!; }
        var fingerprint = Fingerprint();
        var stage = new StageTable(connection, settings.Into, [.. columns.Select(c => c.Target)], context.WorkKey.ToString());

        using var rejects = new RejectFile(settings.Reject.File, context.WorkFolder);
        using (var transaction = connection.BeginTransaction(deferred: false))
        {
            var mark = WorkMarks.Find(connection, transaction, context.WorkKey.ToString());
            if (mark is { Done: true })
            {
                context.Log.Note("the table has these rows already: they were committed just before the service ended");
                return new(ValueJson.TryParse(mark.Result!)!.Value);
            }
            if (mark is not null && mark.Fingerprint == fingerprint) { GoOn(reader, rejects, mark.Progress!); }
            else
            {
                stage.Drop(transaction);
                rejects.Truncate(0);
            }
            transaction.Commit();
        }
        return Transfer(reader, columns, stage, rejects, fingerprint);
    }

    AttemptResult Transfer(CsvDataReader reader, IReadOnlyList<LineColumn> columns, StageTable stage, RejectFile rejects, string fingerprint)
    {
        var batch = Math.Clamp(settings.Batch, 100, 1_000_000);
        var values = new object[columns.Count];
        var staged = _read > 0;
        while (true)
        {
            using var transaction = connection.BeginTransaction(deferred: false);
            // A file of one batch needs this one transaction only: stage, table and mark change together.
            if (!staged) { stage.Create(transaction); }
            using var insert = stage.Insert(transaction);
            var ended = false;
            for (var i = 0; i < batch && !(ended = !reader.Read()); i++)
            {
                if ((i & 1023) == 0) { cancel.ThrowIfCancellationRequested(); }
                _read++;
                if (LineReader.Read(reader, columns, values) is { } reason)
                {
                    _rejected++;
                    rejects.Add(reader, _read + 1, reason);
                }
                else if (_rejected <= settings.Reject.Limit)
                {
                    for (var c = 0; c < values.Length; c++) { insert.Parameters[c].Value = values[c]; }
                    insert.ExecuteNonQuery();
                }
            }
            rejects.Flush();
            if (ended) { return Finish(transaction, stage, rejects); }
            WorkMarks.Advance(connection, transaction, context.WorkKey.ToString(), fingerprint, Progress(rejects), context.Time);
            transaction.Commit();
            staged = true;
            context.Log.Note($"{_read:N0} lines read");
        }
    }

    AttemptResult Finish(SqliteTransaction transaction, StageTable stage, RejectFile rejects)
    {
        var written = _rejected > settings.Reject.Limit ? 0 : Kept;
        var outputs = Value.Map(("rows_read", Value.Int(_read)), ("rows_written", Value.Int(written)), ("rows_rejected", Value.Int(_rejected)), ("reject_file", Value.String(rejects.Path ?? "")));
        context.Log.Note($"{_read:N0} lines read, {_rejected:N0} rejected, {written:N0} rows written");
        if (_rejected > settings.Reject.Limit)
        {
            stage.Drop(transaction);
            WorkMarks.Forget(connection, transaction, context.WorkKey.ToString());
            transaction.Commit();
            return new(outputs, new("rejects", $"{_rejected:N0} of {_read:N0} lines were rejected; the limit is {settings.Reject.Limit:N0}",
                $"The table is as it was.{(rejects.Path is null ? "" : $" The rejected lines and why: {rejects.Path}")}\nFirst: {rejects.First}"));
        }
        cancel.ThrowIfCancellationRequested();
        stage.MoveToTable(transaction);
        WorkMarks.Finish(connection, transaction, context.WorkKey.ToString(), ValueJson.ToText(outputs, plain: false), context.Time);
        transaction.Commit();
        return new(outputs);
    }

    string Progress(RejectFile rejects) => string.Create(CultureInfo.InvariantCulture, $"{_read} {_rejected} {rejects.Length}");

    void GoOn(CsvDataReader reader, RejectFile rejects, string progress)
    {
        var numbers = progress.Split(' ').Select(n => long.Parse(n, CultureInfo.InvariantCulture)).ToArray();
        while (_read < numbers[0] && reader.Read()) { _read++; }
        _rejected = numbers[1];
        rejects.Truncate(numbers[2]);
        context.Log.Note($"going on behind line {_read + 1:N0}: so far was committed before the service ended");
    }

    // Another file, or other settings, begin from the start.
    string Fingerprint()
    {
        var file = new FileInfo(path);
        var columns = string.Join(',', settings.Columns.Select(c => $"{c.Key}={c.Value}"));
        return $"{path}|{file.Length}|{file.LastWriteTimeUtc.Ticks}|{settings.Into.Table}|{settings.Into.Mode}|{columns}";
    }

    HashSet<string> TableColumns()
    {
        using var command = SqliteTarget.Command(connection, null, "SELECT name FROM pragma_table_info($table)", ("$table", settings.Into.Table));
        using var reader = command.ExecuteReader();
        var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        while (reader.Read()) { names.Add(reader.GetString(0)); }
        return names;
    }
}
