using GateChain.Core.Chains.Kinds;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Files;

/// <summary>Settings of <c>kind: file</c>.</summary>
public sealed record FileSettings
{
    [Setting(
        "What to do: `look`, `copy`, `move`, `rename`, `delete`, `makeFolder`, `pack`, `unpack`, `hash` or `write`.",
        Required = true
    )]
    public FileAction Action { get; init; }

    [Setting(
        "A path or a pattern: `*` within a name, `**` over folders. For `makeFolder` and `write`, what is made.",
        Required = true,
        Refers = SettingReference.Path
    )]
    public string Path { get; init; } = "";

    [Setting(
        "A connection of type folder; relative paths start from it. The service's work folder when absent.",
        Connection = "folder"
    )]
    public string? Connection { get; init; }

    [Setting(
        "Where to: for `copy` and `move` a folder when it ends in `/`, is one, or several files match, "
            + "else the new path; for `rename` the new name; for `pack` the archive; "
            + "for `unpack` the folder (zip) or the file (gzip).",
        RequiredFor = "action: copy move rename pack unpack",
        Refers = SettingReference.Path
    )]
    public string? To { get; init; }

    [Setting("For `write`: the text, or `{file: name}`.", RequiredFor = "action: write")]
    public TextOrFile? Text { get; init; }

    [Setting("For `write`: whether the text is appended to what is there.")]
    public bool Append { get; init; }

    [Setting("Whether an existing target is replaced.")]
    public bool Overwrite { get; init; }

    [Setting(
        "What a pattern without a match means: `proceed` or `fail`. `look` and `delete` proceed, "
            + "the others fail when this is absent."
    )]
    public NoMatch? IfNone { get; init; }

    [Setting("For `look`: whether the files are read, to count their lines and take the first line of the newest one.")]
    public bool Lines { get; init; }

    [Setting("For `hash`: `sha256`, `sha512`, `sha1` or `md5`; the last two only against accidents.")]
    public FileHash Algorithm { get; init; } = FileHash.Sha256;

    [Setting("For `pack` and `unpack`: `zip`, or `gzip` for a single file; by the archive's name when absent.")]
    public ArchiveFormat? Format { get; init; }

    [Setting("For `unpack`: the most bytes that may come out; more is a failure, and nothing of it stays.", Min = 1)]
    public long MaxBytes { get; init; } = 10L << 30;
}

public enum FileAction
{
    Look,
    Copy,
    Move,
    Rename,
    Delete,
    MakeFolder,
    Pack,
    Unpack,
    Hash,
    Write,
}

public enum NoMatch
{
    Proceed,
    Fail,
}

public enum FileHash
{
    Sha256,
    Sha512,
    Sha1,
    Md5,
}

public enum ArchiveFormat
{
    Zip,
    Gzip,
}
