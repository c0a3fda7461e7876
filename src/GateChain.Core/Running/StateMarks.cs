namespace GateChain.Core.Running;

/// <summary>Marks that tell states apart without colour, in the terminal and in the console. Thread-safe.</summary>
public static class StateMarks
{
    /// <summary>The mark of a state; a dot for a word that is no state.</summary>
    /// <param name="state">A state of a step or run, a word of the vocabulary.</param>
    public static string Of(string state) =>
        state switch
        {
            "pending" => "○",
            "held" => "◇",
            "queued" => "≡",
            "paused" => "‖",
            "running" => "▸",
            "resting" => "◔",
            "succeeded" => "✓",
            "failed" => "✕",
            "skipped" => "–",
            "stopped" => "■",
            "lost" => "↯",
            _ => "·",
        };
}
