using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Files;

/// <summary>Settings of <c>kind: file</c>.</summary>
public sealed record FileSettings
{
    [Setting("What to do: `look`, `copy`, `move` or `delete`.", Required = true)]
    public FileAction Action { get; init; }

    [Setting("A path or a pattern: `*` within a name, `**` over folders.", Required = true)]
    public string Path { get; init; } = "";

    [Setting("Where to copy or move: a folder when it ends in `/`, is one, or several files match; else the new path.")]
    public string? To { get; init; }

    [Setting("Whether an existing target is replaced.")]
    public bool Overwrite { get; init; }

    [Setting("What a pattern without a match means: `proceed` or `fail`. `look` and `delete` proceed, `copy` and `move` fail when this is absent.")]
    public NoMatch? IfNone { get; init; }
}

public enum FileAction { Look, Copy, Move, Delete }

public enum NoMatch { Proceed, Fail }
