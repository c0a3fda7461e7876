namespace GateChain.Cli.Terminal;

/// <summary>Numbers and times in words.</summary>
static class Words
{
    public static string Count(int n, string what) => $"{n} {what}{(n == 1 ? "" : "s")}";

    public static string Took(DateTimeOffset? from, DateTimeOffset? to)
    {
        if (from is null || to is null) { return ""; }
        var span = to.Value - from.Value;
        return span.TotalMilliseconds < 1000 ? $"{Math.Max(0, span.TotalMilliseconds):0} ms"
            : span.TotalSeconds < 60 ? $"{span.TotalSeconds:0.0} s"
            : span.TotalHours < 1 ? $"{(int)span.TotalMinutes} min {span.Seconds:00} s" : $"{(int)span.TotalHours} h {span.Minutes:00} min";
    }
}
