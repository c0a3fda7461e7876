using System.Globalization;
using GateChain.Client;
using GateChain.Core.Values;

namespace GateChain.Cli.Terminal;

/// <summary>Moments of triggers in words.</summary>
static class TriggerWords
{
    /// <summary>How far away a moment is.</summary>
    public static string From(DateTimeOffset at)
    {
        var left = at - DateTimeOffset.UtcNow;
        return left <= TimeSpan.Zero ? "now" : $"in {TimeText.Brief(left)}";
    }

    /// <summary>A moment that comes, and how far away it is.</summary>
    public static string Coming(DateTimeOffset at, string? zone) => $"{FireWords.Local(at, zone)}, {From(at)}";

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
