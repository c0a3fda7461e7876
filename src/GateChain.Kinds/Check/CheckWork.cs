using System.Globalization;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Check;

/// <summary>One attempt at looking at rows: each is read once, and every check sees it.</summary>
sealed class CheckWork(CheckSettings settings, AttemptContext context, RowSource source, CancellationToken cancel)
{
    readonly FailingTable? _table = settings.Into is { } into ? new(into, context, cancel) : null;
    long _rows;

    public AttemptResult Run()
    {
        var checks = RowChecks.Of(settings, source, context, cancel);
        using var file = new RejectFile(settings.File, source, context.Resolve);
        file.Truncate(0);
        var began = context.Time.GetTimestamp();
        while (source.Read())
        {
            _rows++;
            if ((_rows & 1023) == 0)
            {
                cancel.ThrowIfCancellationRequested();
                var seconds = Math.Max(0.001, context.Time.GetElapsedTime(began).TotalSeconds);
                context.Progress?.Report(new(_rows, source.Bytes, source.Share, _rows / seconds));
            }
            See(checks, file);
        }
        source.MustBeUnchanged();
        file.Flush();
        // The source may lie in the same database, and be locked while it is read.
        source.Dispose();
        _table?.Write();
        return Finish(checks);
    }

    void See(IReadOnlyList<RowCheck> checks, RejectFile file)
    {
        if (
            (source.Misfit?.Reason ?? (source.FieldCount < source.Names.Count ? "it has too few fields" : null)) is
            { } broken
        )
        {
            throw new StepFailedException(
                "rows",
                $"{Where()} can't be read: {broken}",
                "A load with rejects sorts such rows out; look at what it has loaded."
            );
        }
        foreach (var check in checks)
        {
            if (check.See(source, Where) is not { } wrong)
                continue;
            var line = source.LineOf(_rows);
            var told = wrong with { Reason = $"{check.Name}: {wrong.Reason}" };
            file.Add(source.What, line, told, source.Fields());
            _table?.Add(check.Name, source.What, line, wrong, source.Names, source.Fields());
        }
    }

    string Where() =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{(source.IsSeveral ? $"{source.What}, " : "")}{source.RowWord} {source.LineOf(_rows)}"
        );

    AttemptResult Finish(IReadOnlyList<RowCheck> checks)
    {
        var seen = checks.Select(c => (Check: c, Says: c.Verdict(_rows))).ToList();
        foreach (var (check, says) in seen)
            context.Log.Note($"{Outcome(check, says)}: {check.Name}{(says is null ? "" : $": {says}")}");
        var failed = seen.Where(s => s.Says is not null && !s.Check.OnlyWarns).ToList();
        var warned = seen.Where(s => s.Says is not null && s.Check.OnlyWarns).ToList();
        var outputs = Value.Map(
            ("rows", Value.Int(_rows)),
            ("failed", Value.Int(failed.Count)),
            ("warned", Value.Int(warned.Count)),
            ("checks", Value.Map(DictionaryMap.Of(seen.Select(s => KeyValuePair.Create(s.Check.Name, Told(s)))))),
            ("file", Value.String(settings.File ?? ""))
        );
        return new(
            outputs,
            failed.Count == 0 ? null : Failure(failed, checks.Count),
            [.. warned.Select(w => $"{w.Check.Name}: {w.Says}")]
        )
        {
            Positions = Kept(checks),
        };
    }

    static string Outcome(RowCheck check, string? says) =>
        says is null ? "passed"
        : check.OnlyWarns ? "warned"
        : "failed";

    static Value Told((RowCheck Check, string? Says) seen) =>
        Value.Map(
            ("outcome", Value.String(Outcome(seen.Check, seen.Says))),
            ("failing", Value.Int(seen.Check.Failing)),
            ("says", Value.String(seen.Says ?? ""))
        );

    StepError Failure(List<(RowCheck Check, string? Says)> failed, int all) =>
        new(
            "check",
            $"{failed.Count} of {all} check{(all == 1 ? "" : "s")} of {source.What} failed: "
                + string.Join(", ", failed.Select(f => f.Check.Name)),
            string.Join('\n', failed.Select(f => $"{f.Check.Name}: {f.Says}"))
                + (settings.File is null ? "" : $"\nThe rows: {settings.File}")
                + (
                    settings.Into is null
                        ? ""
                        : $"\nThe rows: table {settings.Into.Table} of {settings.Into.Connection}"
                )
        );

    Dictionary<string, Value> Kept(IReadOnlyList<RowCheck> checks)
    {
        var kept = checks
            .Select(c => c.Keeps(_rows))
            .OfType<(string Name, string Text)>()
            .ToDictionary(k => k.Name, k => Value.String(k.Text));
        if (source.Position is { Reached: { } reached } position)
            kept[position.Name] = reached;
        return kept;
    }
}
