namespace GateChain.Kinds.Command;

/// <summary>What is to be run, and within which limits.</summary>
/// <param name="Line">The program and its arguments.</param>
/// <param name="Folder">The folder it runs in; a full path.</param>
/// <param name="Env">Variables beside those that programs get from the service.</param>
/// <param name="Input">Text for its standard input; nothing when null.</param>
/// <param name="MaxOutput">The most bytes of its output that are kept; 0 keeps none.</param>
/// <param name="MaxMemory">The most memory, in bytes, that it and all it has started may use; null for any.</param>
sealed record ProgramCall(
    IReadOnlyList<string> Line,
    string Folder,
    IReadOnlyDictionary<string, string> Env,
    string? Input,
    int MaxOutput,
    long? MaxMemory
);

/// <summary>How it ended.</summary>
/// <param name="ExitCode">Its exit code; 128 and the signal's number when a signal ended it.</param>
/// <param name="Output">What it wrote to its standard output.</param>
/// <param name="Overflown">Whether that was more than is kept.</param>
/// <param name="LastErrors">The last lines of its error output.</param>
/// <param name="TooMuchMemory">How many bytes it used when it was ended for that; null when it was not.</param>
sealed record ProgramEnd(
    int ExitCode,
    string Output,
    bool Overflown,
    IReadOnlyList<string> LastErrors,
    long? TooMuchMemory
)
{
    /// <summary>What to say of an exit code that means failure.</summary>
    public string Sentence =>
        $"the program ended with exit code {ExitCode}"
        + $"{(ExitCode is > 128 and <= 128 + 64 ? $" (signal {ExitCode - 128})" : "")}"
        + $"{(LastErrors.Count > 0 ? ": " + LastErrors[^1] : "")}";

    /// <summary>The last lines of its error output in one text; null without any.</summary>
    public string? Detail => LastErrors.Count == 0 ? null : string.Join('\n', LastErrors);
}
