using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Command;

/// <summary>Settings of <c>kind: command</c>.</summary>
public sealed record CommandSettings
{
    [Setting("The program and its arguments, each an item; no shell reads them. Either this or `shell`.")]
    public IReadOnlyList<string> Run { get; init; } = [];

    [Setting("A text for `/bin/sh -c`, for pipes and the like. Either this or `run`. Values from elsewhere belong in `env`, not in this text.")]
    public string? Shell { get; init; }

    [Setting("Environment variables, on top of the service's own.")]
    public IReadOnlyDictionary<string, string> Env { get; init; } = new Dictionary<string, string>();

    [Setting("The folder it runs in; the service's work folder when absent.")]
    public string? Folder { get; init; }

    [Setting("Text for its standard input; nothing when absent.")]
    public string? Input { get; init; }

    [Setting("Exit codes that mean success.")]
    public IReadOnlyList<int> Success { get; init; } = [0];

    [Setting("Exit codes that mean success with a warning.")]
    public IReadOnlyList<int> Warning { get; init; } = [];

    [Setting("What its standard output becomes as `result.value`: `none`, `text` (without the last line end), `lines` or `json`. At most 1 MiB.")]
    public CommandOutput Output { get; init; } = CommandOutput.Text;
}

public enum CommandOutput { None, Text, Lines, Json }
