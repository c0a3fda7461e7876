using System.Globalization;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Clock;

/// <summary>What a <c>clock</c> probe shows.</summary>
public sealed record ClockProbeSettings
{
    [Setting("The time zone, for example `Europe/London`. Default `UTC`.")]
    public string Zone { get; init; } = "UTC";
}

/// <summary>Sees what the clocks of a zone show.</summary>
public sealed class ClockProbe : Probe<ClockProbeSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "clock",
            "Sees date and time of day in a time zone.",
            SettingsShape.Of<ClockProbeSettings>(),
            ProbeResult.Outputs(
                ("date", CelType.String),
                ("time", CelType.String),
                ("year", CelType.Int),
                ("month", CelType.Int),
                ("day", CelType.Int),
                ("weekday", CelType.String),
                ("hour", CelType.Int),
                ("minute", CelType.Int)
            )
        )
        {
            Sample = ProbeResult.Sample(
                ("date", Value.String("2026-11-23")),
                ("time", Value.String("06:00")),
                ("year", Value.Int(2026)),
                ("month", Value.Int(11)),
                ("day", Value.Int(23)),
                ("weekday", Value.String("monday")),
                ("hour", Value.Int(6)),
                ("minute", Value.Int(0))
            ),
        };

    protected override ValueTask<Value> LookAsync(
        ClockProbeSettings settings,
        ProbeContext context,
        CancellationToken cancel
    )
    {
        if (!TimeZoneInfo.TryFindSystemTimeZoneById(settings.Zone, out var zone))
            return new(ProbeResult.Failed($"there is no time zone “{settings.Zone}”"));
        var local = TimeZoneInfo.ConvertTime(context.Time.GetUtcNow(), zone);
        return new(
            ProbeResult.Seen(
                ("date", Value.String(local.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture))),
                ("time", Value.String(local.ToString("HH:mm:ss", CultureInfo.InvariantCulture))),
                ("year", Value.Int(local.Year)),
                ("month", Value.Int(local.Month)),
                ("day", Value.Int(local.Day)),
                ("weekday", Value.String(local.DayOfWeek.Word())),
                ("hour", Value.Int(local.Hour)),
                ("minute", Value.Int(local.Minute))
            )
        );
    }
}
