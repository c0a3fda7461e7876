using GateChain.Core.Running;
using Spectre.Console;

namespace GateChain.Cli.Terminal;

/// <summary>States as mark, word and colour together; the colour is never alone.</summary>
static class States
{
    public static string Mark(string state) => StateMarks.Of(state);

    static Color Colour(string state) =>
        state switch
        {
            "running" => Color.Blue,
            "resting" or "held" or "queued" => Color.Olive,
            "paused" => Color.Fuchsia,
            "succeeded" => Color.Green,
            "failed" => Color.Red,
            "stopped" => Color.Olive,
            _ => Color.Grey,
        };

    public static Text Text(string state) => new($"{Mark(state)} {state}", new(Colour(state)));
}
