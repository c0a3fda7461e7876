using GateChain.Client;

namespace GateChain.Cli.Terminal;

/// <summary>Numbers and times in words.</summary>
static class Words
{
    /// <summary>What a run follows.</summary>
    public static string Content(int? number, string release) => number is null ? $"draft {release[..12]}" : $"release {number}";

    public static string Count(int n, string what) => $"{n} {what}{(n == 1 ? "" : "s")}";

    /// <summary>What a step does or waits for, or why it ended as it did.</summary>
    public static string Doing(StepStatus step) => step switch
    {
        { State: "held", Hold: { } hold } => $"{hold.Message ?? "its guard holds it"}; looked {Times(hold.Looks)} since {hold.Since:HH:mm:ss}{(hold.Next is { } next ? $", again at {next:HH:mm:ss}" : "")}",
        { State: "queued" } => $"waits for its turn in lane {step.Lane}",
        { State: "resting", Due: { } due } => $"{step.Message}; again at {due:HH:mm:ss}",
        { Message: { } message } => message,
        { Progress: { } progress } => progress,
        { Child: { } child } => $"run {child}",
        _ => "",
    };

    static string Times(int n) => n == 1 ? "once" : $"{n} times";

    public static string Took(DateTimeOffset? from, DateTimeOffset? to)
    {
        if (from is null || to is null) { return ""; }
        var span = to.Value - from.Value;
        return span.TotalMilliseconds < 1000 ? $"{Math.Max(0, span.TotalMilliseconds):0} ms"
            : span.TotalSeconds < 60 ? $"{span.TotalSeconds:0.0} s"
            : span.TotalHours < 1 ? $"{(int)span.TotalMinutes} min {span.Seconds:00} s" : $"{(int)span.TotalHours} h {span.Minutes:00} min";
    }
}
