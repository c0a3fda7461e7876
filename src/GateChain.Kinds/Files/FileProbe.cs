using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Files;

/// <summary>What a <c>file</c> probe looks at.</summary>
public sealed record FileProbeSettings
{
    [Setting(
        "The file, or a pattern with `*`, `**` and `?`. Relative paths start from the service's work folder.",
        Required = true,
        Refers = SettingReference.Path
    )]
    public string Path { get; init; } = "";

    [Setting(
        "Leaves out files that were changed less than this long ago: they may still be being written. Default `0s`."
    )]
    public TimeSpan Stable { get; init; }
}

/// <summary>Sees which files there are.</summary>
public sealed class FileProbe : Probe<FileProbeSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "file",
            "Sees which files there are; a held step looks again as soon as the file system reports a change.",
            SettingsShape.Of<FileProbeSettings>(),
            ProbeResult.Outputs(
                ("count", CelType.Int),
                ("size", CelType.Int),
                ("newest", CelType.String),
                ("age", CelType.Duration),
                ("files", CelType.List(CelType.String)),
                ("unstable", CelType.Int),
                ("stable_in", CelType.Duration)
            )
        )
        {
            Sample = ProbeResult.Sample(
                ("count", Value.Int(1)),
                ("size", Value.Int(1)),
                ("newest", Value.String("file")),
                ("age", Value.Duration(TimeSpan.FromMinutes(1))),
                ("files", Value.List([Value.String("file")])),
                ("unstable", Value.Int(0)),
                ("stable_in", Value.Duration(TimeSpan.Zero))
            ),
        };

    protected override ValueTask<Value> LookAsync(
        FileProbeSettings settings,
        ProbeContext context,
        CancellationToken cancel
    )
    {
        try
        {
            var now = context.Time.GetUtcNow();
            var all = FilePattern.Match(context.Folders, context.WorkFolder, settings.Path, cancel);
            var files = all.Where(f => now - f.LastWriteTimeUtc >= settings.Stable).ToList();
            var young = all.Except(files).ToList();
            var wait = young.Count == 0 ? TimeSpan.Zero : settings.Stable - (now - young.Min(f => f.LastWriteTimeUtc));
            var newest = files.MaxBy(f => f.LastWriteTimeUtc);
            return new(
                ProbeResult.Seen(
                    ("count", Value.Int(files.Count)),
                    ("size", Value.Int(files.Sum(f => f.Length))),
                    ("newest", Value.String(newest?.FullName ?? "")),
                    ("age", Value.Duration(newest is null ? TimeSpan.Zero : now - newest.LastWriteTimeUtc)),
                    ("files", Value.List([.. files.Select(f => Value.String(f.FullName))])),
                    ("unstable", Value.Int(young.Count)),
                    ("stable_in", Value.Duration(wait))
                )
            );
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or StepFailedException)
        {
            return new(ProbeResult.Failed(e.Message));
        }
    }

    // A file that is not stable yet is looked at again when it can be; its next change is reported anyway.
    public override TimeSpan? LookAgainIn(Value settings, Value seen) =>
        seen.AsMap.Find("unstable") is { Kind: ValueKind.Int, AsInt: > 0 }
        && seen.AsMap.Find("stable_in") is { Kind: ValueKind.Duration } wait
            ? wait.AsTimeSpan
            : null;

    // Nothing is watched that may not be looked at.
    public override string? Watches(Value settings, ProbeContext context)
    {
        if (settings.AsMap.Find("path") is not { } path)
            return null;
        try
        {
            return FilePattern.Allowed(context.Folders, context.WorkFolder, ValueText.ToPlainString(path));
        }
        catch (StepFailedException)
        {
            return null;
        }
    }
}
