using GateChain.Core.Chains.Kinds;
using GateChain.Kinds.Files;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Transfer;

/// <summary>Settings of <c>kind: transfer</c>.</summary>
public sealed record TransferSettings
{
    [Setting(
        "The connection: a server (`sftp`, `ftp`) or a bucket (`s3`, `azure`).",
        Required = true,
        Connection = FileServer.Types
    )]
    public string Connection { get; init; } = "";

    [Setting("What to do: `get`, `put`, `list`, `delete` or `move`.", Required = true)]
    public TransferAction Action { get; init; }

    [Setting(
        "The files, on the server or, for `put`, here: a path or a pattern, `*` within the last name.",
        Required = true,
        Refers = SettingReference.Path
    )]
    public string Path { get; init; } = "";

    [Setting(
        "Where to: a folder when it ends in `/` or several files match, else the new path. "
            + "For `get` here, for `put` and `move` on the server.",
        RequiredFor = "action: get put move",
        Refers = SettingReference.Path
    )]
    public string? To { get; init; }

    [Setting("Whether an existing target is replaced.")]
    public bool Overwrite { get; init; }

    [Setting(
        "What a pattern without a match means: `proceed` or `fail`. `list` and `delete` proceed, "
            + "the others fail when this is absent."
    )]
    public NoMatch? IfNone { get; init; }
}

public enum TransferAction
{
    Get,
    Put,
    List,
    Delete,
    Move,
}
