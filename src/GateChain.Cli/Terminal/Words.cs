using System.Globalization;
using GateChain.Client;
using GateChain.Core.Values;

namespace GateChain.Cli.Terminal;

/// <summary>Numbers and times in words.</summary>
static class Words
{
    /// <summary>What a run follows.</summary>
    public static string Content(int? number, string release) =>
        number is null ? $"draft {release[..12]}" : $"release {number}";

    /// <summary>Something that lies in a folder of the workspace; the name alone in the workspace itself.</summary>
    public static string InArea(string area, string name) => area.Length == 0 ? name : $"{area}/ {name}";

    /// <summary>A folder of the workspace; <c>/</c> for all of it.</summary>
    public static string Folder(string path) => path.Length == 0 ? "/" : path;

    public static string Count(int n, string what) => $"{n} {what}{(n == 1 ? "" : "s")}";

    /// <summary>What a step does or waits for, or why it ended as it did.</summary>
    public static string Doing(StepStatus step) =>
        step switch
        {
            { State: "held", Hold: { } hold } => Held(hold),
            { State: "queued" } => $"waits for its turn in lane {step.Lane}",
            { State: "resting", Due: { } due } => $"{step.Message}; again at {At(due)}",
            { Message: { } message } => message,
            { Progress: { } progress } => progress,
            { Child: { } child } => $"run {child}",
            _ => "",
        };

    static string Held(HoldInfo hold)
    {
        var waits = hold.Waits.Length > 0 ? $"waits for {hold.Waits}" : "its guard holds it";
        var next =
            hold.Next is { } at && at > DateTimeOffset.UtcNow
                ? $"; again at {At(at)}{(hold.Left is { } left ? $", {Count(left, "look")} left" : "")}"
                : "";
        return $"{(hold.Message is { } why ? $"{why}; " : "")}{waits}; looked {Times(hold.Looks)} since "
            + $"{At(hold.Since)}{next}";
    }

    /// <summary>A number of bytes: <c>340 B</c>, <c>1.5 MiB</c>.</summary>
    public static string Size(long bytes)
    {
        string[] units = ["B", "KiB", "MiB", "GiB", "TiB"];
        var (size, unit) = ((double)bytes, 0);
        for (; size >= 1024 && unit < units.Length - 1; unit++)
            size /= 1024;
        return string.Create(CultureInfo.InvariantCulture, $"{size:0.#} {units[unit]}");
    }

    /// <summary>A moment as people read it: its date where that is not today's, and its zone.</summary>
    public static string At(DateTimeOffset at) =>
        at.UtcDateTime.Date == DateTimeOffset.UtcNow.UtcDateTime.Date
            ? $"{at.UtcDateTime:HH:mm:ss} UTC"
            : $"{at.UtcDateTime:yyyy-MM-dd HH:mm} UTC";

    /// <summary>How long ago a moment was.</summary>
    public static string Ago(DateTimeOffset at, DateTimeOffset now) =>
        now - at < TimeSpan.FromSeconds(1) ? "just now" : $"{TimeText.Brief(now - at)} ago";

    /// <summary>When a run will end.</summary>
    public static string Expected(ExpectedInfo expected) =>
        $"ends about {At(expected.Likely)} ({At(expected.Early)} to {At(expected.Late)}, by its last "
        + $"{Count(expected.Runs, "run")})";

    /// <summary>Text from elsewhere without what a terminal would take for orders.</summary>
    public static string Plain(string text) =>
        text.Any(IsOrder) ? new([.. text.Select(c => IsOrder(c) ? '·' : c)]) : text;

    static bool IsOrder(char c) =>
        (char.IsControl(c) && c is not ('\n' or '\t' or '\r'))
        || c is >= '\u202a' and <= '\u202e' or >= '\u2066' and <= '\u2069';

    static string Times(int n) => n == 1 ? "once" : $"{n} times";

    public static string Took(DateTimeOffset? from, DateTimeOffset? to) =>
        from is null || to is null ? "" : TimeText.Brief(to.Value - from.Value);
}
