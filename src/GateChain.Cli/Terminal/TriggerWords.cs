using System.Globalization;
using System.Text.Json;
using GateChain.Client;
using GateChain.Core.Values;

namespace GateChain.Cli.Terminal;

/// <summary>Triggers and their fires in words.</summary>
static class TriggerWords
{
    /// <summary>A moment in a zone, with the day of the week.</summary>
    public static string Local(DateTimeOffset at, string? zone)
    {
        var found =
            zone is not null && TimeZoneInfo.TryFindSystemTimeZoneById(zone, out var known) ? known : TimeZoneInfo.Utc;
        var local = TimeZoneInfo.ConvertTime(at, found);
        var seconds = local.Second > 0 ? ":ss" : "";
        return local.ToString($"ddd yyyy-MM-dd HH:mm{seconds}", CultureInfo.InvariantCulture)
            + $" {(zone is null ? "UTC" : zone[(zone.LastIndexOf('/') + 1)..].Replace('_', ' '))}";
    }

    /// <summary>How far away a moment is.</summary>
    public static string From(DateTimeOffset at)
    {
        var left = at - DateTimeOffset.UtcNow;
        return left <= TimeSpan.Zero ? "now" : $"in {TimeText.Brief(left)}";
    }

    /// <summary>A moment that comes, and how far away it is.</summary>
    public static string Coming(DateTimeOffset at, string? zone) => $"{Local(at, zone)}, {From(at)}";

    /// <summary>The word for what became of a fire.</summary>
    public static string Word(string fate) => fate == "passed-over" ? "passed over" : fate;

    /// <summary>What became of a fire.</summary>
    public static string Fate(FireInfo fire) =>
        fire.Run is { } run
            ? $"run {run}{(fire.Outcome is null ? "" : $" {fire.Outcome}")}"
            : $"{Word(fire.Fate)}: {fire.Why}";

    /// <summary>What happened, as short as can be.</summary>
    public static string Happened(FireInfo fire)
    {
        var happened = fire.Event;
        if (happened.ValueKind != JsonValueKind.Object)
            return "";
        string? Text(string name) =>
            happened.TryGetProperty(name, out var value)
                ? value.ValueKind == JsonValueKind.String
                    ? value.GetString()
                    : value.GetRawText()
                : null;
        if (Text("due") is { } due)
            return $"due {due}{(Text("missed") is { } missed and not "0" ? $", {missed} missed before" : "")}";
        if (Text("path") is { } path)
            return path;
        if (happened.TryGetProperty("files", out var files) && files.ValueKind == JsonValueKind.Array)
            return files.GetArrayLength() == 1 ? $"{files[0].GetProperty("path")}" : $"{files.GetArrayLength()} files";
        if (Text("run") is { } run)
            return $"run {run} of {Text("chain")}: {Text("outcome")}";
        if (happened.TryGetProperty("probes", out _))
            return "what it looks at";
        return Text("id") is { Length: > 0 } id ? $"call {id}" : "a call";
    }

    /// <summary>A moment as people type it; null for none.</summary>
    /// <exception cref="GateChainException">It is none.</exception>
    public static DateTimeOffset? Moment(string? text, string option)
    {
        if (text is null)
            return null;
        if (TimeText.ParseSetting(text) is { } back)
            return DateTimeOffset.UtcNow - back;
        return DateTimeOffset.TryParse(
            text,
            CultureInfo.InvariantCulture,
            DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
            out var at
        )
            ? at
            : throw new GateChainException(
                422,
                $"{option} is a date such as 2026-11-23, a moment such as 2026-11-23T06:00Z, or 2h; "
                    + $"“{text}” is neither",
                null,
                []
            );
    }
}
