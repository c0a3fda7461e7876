using System.Globalization;
using System.Text.Json;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Load.Modes;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Load.Targets;

namespace GateChain.Kinds.Load;

/// <summary>One attempt at a load.</summary>
/// <param name="settings">With the columns that are loaded.</param>
/// <param name="news">Columns of the source that the target does not have.</param>
sealed class LoadWork(
    LoadSettings settings,
    IReadOnlyList<string> news,
    AttemptContext context,
    RowSource source,
    CancellationToken cancel
)
{
    readonly long _began = context.Time.GetTimestamp();
    long _read,
        _skipped;
    bool _takenBack,
        _held;
    double _told;

    public AttemptResult Run()
    {
        var reader = new RowReader(settings, source);
        using var target = LoadTargets.Open(settings, source, reader, context, cancel);
        using var rejects = new Rejects(settings.Reject, source, context.Resolve);
        var (done, progress) = target.Begin(Fingerprint());
        if (done is { } outputs)
        {
            context.Log.Note("the target has these rows already: they were committed just before the service ended");
            return Done(outputs);
        }
        if (progress is not null)
            Continue(rejects, progress);
        else
            rejects.BackTo((0, 0));
        try
        {
            return Transfer(reader, target, rejects);
        }
        // With what a query had given nobody can continue: it may give its rows in another order.
        catch when (!source.IsSteady)
        {
            TakeBack(target);
            throw;
        }
    }

    void TakeBackOnce(LoadTarget target)
    {
        if (!_takenBack)
            target.Abandon();
        _takenBack = true;
    }

    static void TakeBack(LoadTarget target)
    {
        try
        {
            target.Abandon();
        }
        catch (Exception e) when (e is System.Data.Common.DbException or InvalidOperationException or IOException)
        {
            // The connection is gone; the next attempt, or a load of the same work, clears it.
        }
    }

    AttemptResult Transfer(RowReader reader, LoadTarget target, Rejects rejects)
    {
        new BatchPipe(reader.Count).Run(batch => Fill(batch, reader), batch => Write(batch, target, rejects));
        return Finish(target, rejects);
    }

    void Fill(RowBatch batch, RowReader reader)
    {
        // By now all but the last batch are written.
        if (_read > _skipped)
            Tell();
        var most = Math.Clamp(settings.Batch, 100, 1_000_000);
        for (var i = 0; i < most && !batch.IsHeavy; i++)
        {
            if ((i & 1023) == 0)
                cancel.ThrowIfCancellationRequested();
            if (!_held && !source.Read())
                return;
            // Those of one file are together: what is wrong with one is told with it.
            if (_held = i > 0 && source.What != batch.In)
                break;
            batch.In = source.What;
            _read++;
            var line = source.LineOf(_read);
            if (Read(reader, batch.Next, line) is { } reject)
                batch.Reject(line, reject, source.Fields());
            else
                batch.Keep(line);
            batch.Read = _read;
        }
        batch.IsLast = false;
    }

    // On a thread of its own; nobody else uses the target and the rejects meanwhile.
    void Write(RowBatch batch, LoadTarget target, Rejects rejects)
    {
        rejects.In = batch.In;
        foreach (var (line, reject, fields) in batch.Rejects)
            rejects.Add(line, reject, fields);
        if (!rejects.Over)
            target.Add(batch, rejects);
        rejects.Flush();
        // The rest is only read, to tell what else is wrong: nobody has to wait for a lock meanwhile.
        if (rejects.Over)
            TakeBackOnce(target);
        // A source that gives its rows in another order next time has to be read from its start.
        if (!batch.IsLast && source.IsSteady && !rejects.Over)
        {
            target.Checkpoint(
                string.Create(CultureInfo.InvariantCulture, $"{batch.Read} {rejects.Count} {rejects.Mark().Length}")
            );
        }
    }

    // What is not foreseen is told with the row that it was about.
    Reject? Read(RowReader reader, object?[] row, long line)
    {
        try
        {
            return reader.Read(row);
        }
        catch (Exception e)
            when (e
                    is not (
                        StepFailedException
                        or System.Data.Common.DbException
                        or IOException
                        or OperationCanceledException
                    )
            )
        {
            throw new InvalidOperationException($"{source.RowWord} {line} of {source.What}: {e.Message}", e);
        }
    }

    void Tell()
    {
        var seconds = Math.Max(0.001, context.Time.GetElapsedTime(_began).TotalSeconds);
        var rate = (_read - _skipped) / seconds;
        context.Progress?.Report(new(_read, source.Bytes, source.Share, rate));
        // The log gets a line every other second, however small the batches are.
        if (seconds - _told < 2)
            return;
        _told = seconds;
        context.Log.Note(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{_read:N0} {source.RowWord}s read{(source.Share is { } share ? $", {share:P0}" : "")}, "
                    + $"{rate:N0} a second"
            )
        );
    }

    AttemptResult Finish(LoadTarget target, Rejects rejects)
    {
        cancel.ThrowIfCancellationRequested();
        if (!rejects.Over)
        {
            source.MustBeUnchanged();
            var outputs = target.Finish(rejects, counts =>
            {
                // Those that were refused just now are on the disk before the rows count.
                rejects.Flush();
                return Outputs(rejects, _read - rejects.Count - counts.Unchanged - counts.Superseded, counts);
            });
            if (outputs is { } all)
                return Done(all);
        }
        rejects.Flush();
        TakeBackOnce(target);
        return new(Outputs(rejects, written: 0, default), TooMany(rejects));
    }

    // Where it has got to stands with the rows, too: it is the same when only the answer was lost.
    AttemptResult Done(Value outputs) =>
        new(outputs)
        {
            Positions =
                source.Position is { } position && outputs.AsMap.Find("since") is { Kind: not ValueKind.Null } reached
                    ? new Dictionary<string, Value> { [position.Name] = reached }
                    : null,
        };

    StepError TooMany(Rejects rejects) =>
        new(
            "rejects",
            string.Create(
                CultureInfo.InvariantCulture,
                $"{(rejects.ByTarget ? "at least " : "")}{rejects.Count:N0} of {_read:N0} {source.RowWord}"
                    + $"{(_read == 1 ? "" : "s")} {(rejects.Count == 1 ? "was" : "were")} rejected; "
                    + $"the limit is {rejects.Limit:N0}"
            ),
            $"The {(settings.Into.Table is null ? "file" : "table")} is as it was."
                + $"{(rejects.Path is null ? "" : $" The rejected {source.RowWord}s and why: {rejects.Path}")}"
                + $"\nFirst: {rejects.First}{(source.Hint is { } hint ? $"\n{hint}" : "")}"
        );

    Value Outputs(Rejects rejects, long written, RowCounts counts)
    {
        context.Log.Note(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{_read:N0} {source.RowWord}s read, {rejects.Count:N0} rejected, "
                    + $"{written:N0} rows written"
                    + $"{(counts.Unchanged > 0 ? $", {counts.Unchanged:N0} unchanged" : "")}"
                    + $"{(counts.Gone > 0 ? $", {counts.Gone:N0} gone" : "")}"
            )
        );
        return Value.Map(
            ("rows_read", Value.Int(_read)),
            ("rows_written", Value.Int(written)),
            ("rows_rejected", Value.Int(rejects.Count)),
            ("rows_unchanged", Value.Int(counts.Unchanged)),
            ("rows_gone", Value.Int(counts.Gone)),
            ("new_columns", Value.List([.. news.Select(Value.String)])),
            ("since", source.Position?.Reached ?? Value.Null),
            ("reject_file", Value.String(rejects.Path ?? ""))
        );
    }

    void Continue(Rejects rejects, string progress)
    {
        var numbers = progress.Split(' ').Select(n => long.Parse(n, CultureInfo.InvariantCulture)).ToArray();
        while (_read < numbers[0] && source.Read())
            _read++;
        _skipped = _read;
        rejects.BackTo((numbers[1], numbers[2]));
        context.Log.Note(
            string.Create(
                CultureInfo.InvariantCulture,
                $"continuing after line {source.LineOf(_read):N0}: so far was committed before the service ended"
            )
        );
    }

    // Another source, or other settings, begin from the start. What a version before this one has begun is told in its
    // words: what came since is there only where it is said.
    string Fingerprint() =>
        $"{source.Fingerprint}|{settings.Into.Table}|{settings.Into.Mode}|"
        + $"{string.Join(',', settings.Columns.Select(c => $"{c.Key}={Told(c.Value)}"))}"
        + $"{(settings.Numbers == NumberRule.Exact ? "|exact" : "")}{How(settings.From)}";

    static readonly string Usual = Read(new());

    static string Read(LoadFrom from) =>
        JsonSerializer.Serialize(
            new
            {
                from.Text,
                from.At,
                from.Row,
                from.Widths,
                from.Packed,
                from.Entry,
                from.FileColumn,
            }
        );

    // Nothing for a file that is read as usual.
    static string How(LoadFrom from) => Read(from) is var told && told == Usual ? "" : $"|{told}";

    static string Told(LoadColumn c) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"LoadColumn {{ From = {c.From}, Value = {c.Value}, Type = {c.Type}, Format = {c.Format}, "
                + $"Required = {c.Required}, Min = {c.Min}, Max = {c.Max} }}"
                + $"{(c.Scale is null ? "" : $" scale {c.Scale}")}{(c.Zone is null ? "" : $" zone {c.Zone}")}"
                + $"{(c.Formats.Count == 0 ? "" : $" or {string.Join('|', c.Formats)}")}"
        );
}
