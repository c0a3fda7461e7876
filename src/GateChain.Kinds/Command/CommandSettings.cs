using GateChain.Core.Values;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Command;

/// <summary>Settings of <c>kind: command</c>.</summary>
public sealed record CommandSettings
{
    [Setting("The program and its arguments, each an item; no shell reads them. One of `run`, `shell` and `script`.")]
    public IReadOnlyList<string> Run { get; init; } = [];

    [Setting(
        "A text for `/bin/sh -c`, for pipes and the like. Values from elsewhere belong in `env`, not in this text."
    )]
    public string? Shell { get; init; }

    [Setting(
        "An attachment that is run, by the interpreter for its ending: `.sh` sh, `.bash` bash, "
            + "`.py` python3, `.js` node, `.pl` perl, `.rb` ruby, `.R` Rscript, `.awk` awk -f.",
        Attachment = true
    )]
    public string? Script { get; init; }

    [Setting("The program that runs `script`, where it is another one than its ending says.")]
    public string? Interpreter { get; init; }

    [Setting("Arguments after the script.")]
    public IReadOnlyList<string> Args { get; init; } = [];

    [Setting(
        "Attachments that are put beside the script before it starts, in a folder of the step's own; "
            + "its path is in the variable `GATECHAIN_FOLDER`.",
        Attachment = true
    )]
    public IReadOnlyList<string> Files { get; init; } = [];

    [Setting(
        "Environment variables, beside the few that programs get from the service (`PATH`, `HOME`, "
            + "`LANG`, `TZ` and the like; `serve --pass NAME` adds more); values may be `secret:name`.",
        TakesSecrets = true
    )]
    public IReadOnlyDictionary<string, string> Env { get; init; } = new Dictionary<string, string>();

    [Setting("The folder it runs in; the service's work folder when absent.")]
    public string? Folder { get; init; }

    [Setting("Text for its standard input; nothing when absent.")]
    public string? Input { get; init; }

    [Setting(
        "A value that its standard input gets as JSON: an expression. With `output: json` the program is a function.",
        Expression = true
    )]
    public Value Json { get; init; }

    [Setting("Exit codes that mean success.")]
    public IReadOnlyList<int> Success { get; init; } = [0];

    [Setting("Exit codes that mean success with a warning.")]
    public IReadOnlyList<int> Warning { get; init; } = [];

    [Setting(
        "What its standard output becomes as `result.value`: `none`, `text` (without the last line end), "
            + "`lines` or `json`."
    )]
    public CommandOutput Output { get; init; } = CommandOutput.Text;

    [Setting(
        "The most bytes of output that become `result.value`; more is a failure. 1 to 16,777,216. "
            + "The log has its own limit.",
        Min = 1,
        Max = 16_777_216
    )]
    public int MaxOutput { get; init; } = 1 << 20;

    [Setting(
        "The most memory, in MiB, that the program and all it has started may use together; "
            + "more ends them. No limit when absent.",
        Min = 1
    )]
    public int? MaxMemory { get; init; }
}

public enum CommandOutput
{
    None,
    Text,
    Lines,
    Json,
}
