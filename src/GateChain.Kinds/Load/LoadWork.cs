using System.Globalization;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Load.Targets;

namespace GateChain.Kinds.Load;

/// <summary>One attempt at a load.</summary>
sealed class LoadWork(LoadSettings settings, AttemptContext context, RowSource source, CancellationToken cancel)
{
    readonly long _began = context.Time.GetTimestamp();
    long _read, _rejected, _skipped;
    double _told;

    long Kept => _read - _rejected;

    public AttemptResult Run()
    {
        var reader = new RowReader(settings, source);
        using var target = LoadTargets.Open(settings, source, context, cancel);
        using var rejects = new RejectFile(settings.Reject.File, context.Resolve);
        var (done, progress) = target.Begin(Fingerprint());
        if (done is { } outputs)
        {
            context.Log.Note("the target has these rows already: they were committed just before the service ended");
            return new(outputs);
        }
        if (progress is not null) { GoOn(rejects, progress); }
        else { rejects.Truncate(0); }
        try { return Transfer(reader, target, rejects); }
        catch (Exception e) when (!cancel.IsCancellationRequested && target.Refused(e) is var (error, nth, what))
        {
            TakeBack(target);
            return Refused(error, nth, what);
        }
        // With what a query had given nobody can go on: it may give its rows in another order.
        catch when (!source.IsSteady)
        {
            TakeBack(target);
            throw;
        }
    }

    static void TakeBack(LoadTarget target)
    {
        try { target.Abandon(); }
        catch (Exception e) when (e is System.Data.Common.DbException or InvalidOperationException or IOException)
        {
            // The connection is gone; the next attempt, or a load of the same work, clears it.
        }
    }

    // The database refuses a row: it is named as near as the database tells.
    AttemptResult Refused(StepError error, int? nth, string? what)
    {
        var where = nth is > 0 && nth <= _lines.Count ? $"line {_lines[nth.Value - 1]:N0} of {source.What}{(what is null ? "" : $", {Shorten.Text(what, 200)}")}"
            : _lines.Count > 0 ? $"between line {_lines[0]:N0} and line {_lines[^1]:N0} of {source.What}" : $"when the rows of {source.What} were put into the table";
        return new(Value.EmptyMap, error with { Message = $"{error.Message} ({where})", Detail = $"{error.Detail}{(error.Detail is null ? "" : "\n")}The table is as it was. Rows that the database refuses are no rejects: say what columns hold with “type”, “required”, “min” and “max”, and they are." });
    }

    // Of the rows that were written since the last checkpoint.
    readonly List<long> _lines = [];

    AttemptResult Transfer(RowReader reader, LoadTarget target, RejectFile rejects)
    {
        var batch = Math.Clamp(settings.Batch, 100, 1_000_000);
        var row = new object?[reader.Count];
        while (true)
        {
            var ended = false;
            for (var i = 0; i < batch && !(ended = !source.Read()); i++)
            {
                if ((i & 1023) == 0) { cancel.ThrowIfCancellationRequested(); }
                _read++;
                if (reader.Read(row) is { } reason)
                {
                    _rejected++;
                    rejects.Add(source, source.LineOf(_read), reason);
                }
                else if (_rejected <= settings.Reject.Limit)
                {
                    _lines.Add(source.LineOf(_read));
                    target.Add(row);
                }
            }
            rejects.Flush();
            if (ended) { return Finish(target, rejects); }
            // A source that gives its rows in another order next time has to be read from its start.
            if (source.IsSteady) { target.Checkpoint(string.Create(CultureInfo.InvariantCulture, $"{_read} {_rejected} {rejects.Length}")); }
            // What a source that is not steady has written is not kept by a checkpoint; of very many the latest are remembered.
            if (source.IsSteady || _lines.Count > 1_000_000) { _lines.Clear(); }
            Tell();
        }
    }

    void Tell()
    {
        var seconds = Math.Max(0.001, context.Time.GetElapsedTime(_began).TotalSeconds);
        var rate = (_read - _skipped) / seconds;
        context.Progress?.Report(new(_read, source.Bytes, source.Share, rate));
        // The log gets a line every other second, however small the batches are.
        if (seconds - _told < 2) { return; }
        _told = seconds;
        context.Log.Note(string.Create(CultureInfo.InvariantCulture, $"{_read:N0} {source.RowWord}s read{(source.Share is { } share ? $", {share:P0}" : "")}, {rate:N0} a second"));
    }

    AttemptResult Finish(LoadTarget target, RejectFile rejects)
    {
        if (_rejected > settings.Reject.Limit)
        {
            target.Abandon();
            return new(Outputs(rejects, written: 0, unchanged: 0), new StepError("rejects", string.Create(CultureInfo.InvariantCulture, $"{_rejected:N0} of {_read:N0} {source.RowWord}{(_read == 1 ? "" : "s")} {(_rejected == 1 ? "was" : "were")} rejected; the limit is {settings.Reject.Limit:N0}"),
                $"The {(settings.Into.Table is null ? "file" : "table")} is as it was.{(rejects.Path is null ? "" : $" The rejected lines and why: {rejects.Path}")}\nFirst: {rejects.First}"));
        }
        cancel.ThrowIfCancellationRequested();
        source.MustBeUnchanged();
        return new(target.Finish((unchanged, superseded) => Outputs(rejects, Kept - unchanged - superseded, unchanged)));
    }

    Value Outputs(RejectFile rejects, long written, long unchanged)
    {
        context.Log.Note(string.Create(CultureInfo.InvariantCulture, $"{_read:N0} {source.RowWord}s read, {_rejected:N0} rejected, {written:N0} rows written{(unchanged > 0 ? $", {unchanged:N0} unchanged" : "")}"));
        return Value.Map(("rows_read", Value.Int(_read)), ("rows_written", Value.Int(written)), ("rows_rejected", Value.Int(_rejected)), ("rows_unchanged", Value.Int(unchanged)), ("reject_file", Value.String(rejects.Path ?? "")));
    }

    void GoOn(RejectFile rejects, string progress)
    {
        var numbers = progress.Split(' ').Select(n => long.Parse(n, CultureInfo.InvariantCulture)).ToArray();
        while (_read < numbers[0] && source.Read()) { _read++; }
        (_rejected, _skipped) = (numbers[1], _read);
        rejects.Truncate(numbers[2]);
        context.Log.Note(string.Create(CultureInfo.InvariantCulture, $"going on behind line {source.LineOf(_read):N0}: so far was committed before the service ended"));
    }

    // Another source, or other settings, begin from the start.
    string Fingerprint() => $"{source.Fingerprint}|{settings.Into.Table}|{settings.Into.Mode}|{string.Join(',', settings.Columns.Select(c => $"{c.Key}={c.Value}"))}";
}
