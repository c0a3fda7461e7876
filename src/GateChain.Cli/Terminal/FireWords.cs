using System.Globalization;
using System.Text.Json;
using GateChain.Client;

namespace GateChain.Cli.Terminal;

/// <summary>Fires in words, the same that the console says; both are held to tests/cases/labels.json.</summary>
static class FireWords
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

    /// <summary>The word for what became of a fire.</summary>
    public static string Word(string fate) => fate == "passed-over" ? "passed over" : fate;

    /// <summary>What became of a fire, in two words.</summary>
    public static string Fate(string fate, long? run) => run is null ? Word(fate) : $"run {run}";

    /// <summary>What became of a fire: the run and how it ended, or why there is none.</summary>
    public static string Fate(FireInfo fire) =>
        Fate(fire.Fate, fire.Run)
        + (
            fire.Run is null ? $": {fire.Why}"
            : fire.Outcome is null ? ""
            : $" {fire.Outcome}"
        );

    /// <summary>What happened, as short as can be.</summary>
    /// <param name="happened">The event of a fire.</param>
    public static string Happened(JsonElement happened)
    {
        if (happened.ValueKind != JsonValueKind.Object)
            return "";
        string? Text(string name) =>
            happened.TryGetProperty(name, out var value)
                ? value.ValueKind == JsonValueKind.String
                    ? value.GetString()
                    : value.GetRawText()
                : null;
        if (Text("due") is { } due)
        {
            var before = Text("missed") is { } missed and not "0" ? $", {missed} missed before" : "";
            return $"due {due.Replace('T', ' ').Replace("Z", " UTC")}{before}";
        }
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
}
