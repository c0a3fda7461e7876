using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Files;

/// <summary>Looks for files, and does with them what file managers do.</summary>
public sealed class FileKind : StepKind<FileSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "file",
            "Looks for, copies, moves, packs, hashes, writes or deletes files.",
            SettingsShape.Of<FileSettings>(),
            new Dictionary<string, CelType>
            {
                ["count"] = CelType.Int,
                ["size"] = CelType.Int,
                ["newest"] = CelType.String,
                ["oldest"] = CelType.String,
                ["lines"] = CelType.Int,
                ["header"] = CelType.String,
                ["hash"] = CelType.String,
                ["files"] = CelType.List(
                    CelType.Record(
                        ("path", CelType.String),
                        ("name", CelType.String),
                        ("size", CelType.Int),
                        ("modified", CelType.Timestamp),
                        ("hash", CelType.String)
                    )
                ),
            }
        )
        {
            Tells = "{action} {path}",
            Data = FileData.Of,
            Purpose = KindPurpose.Data,
            Sample = new Dictionary<string, Value>
            {
                ["count"] = Value.Int(1),
                ["size"] = Value.Int(1),
                ["newest"] = Value.String("file"),
                ["oldest"] = Value.String("file"),
                ["lines"] = Value.Int(1),
                ["header"] = Value.String("a,b"),
                ["hash"] = Value.String("0"),
                ["files"] = Value.EmptyList,
            },
        };

    protected override ValueTask<AttemptResult> RunAsync(
        FileSettings settings,
        AttemptContext context,
        CancellationToken cancel
    ) => OnThread(() => Work(settings, context, cancel), e => Known(e, settings));

    static StepError? Known(Exception e, FileSettings settings) =>
        e switch
        {
            StepFailedException failed => failed.Result.Error,
            IOException io when Disk.IsFull(io) => new(
                "full",
                $"the disk is full: {io.Message}",
                "What was being written is gone again, what was there before is as it was. Make room and resume."
            ),
            InvalidDataException data => new(
                "archive",
                $"{settings.Path} can't be unpacked: {data.Message}",
                "Nothing of it stays."
            ),
            IOException or UnauthorizedAccessException => new("file", e.Message),
            OperationCanceledException => new("stopped", "ended early"),
            _ => null,
        };

    // Where it breaks off, what was done before is told: those files are where they were to go.
    static FileReport Told(AttemptContext context, FileSettings settings, int all, Func<FileReport, FileReport> work)
    {
        var report = new FileReport();
        try
        {
            return work(report);
        }
        catch (Exception e) when (report.Count > 0 && Known(e, settings) is { } error)
        {
            foreach (var line in report.Notes)
                context.Log.Note(line);
            throw new StepFailedException(
                error with
                {
                    Detail =
                        $"{error.Detail}{(error.Detail is null ? "" : "\n")}{report.Count} of {all} files "
                        + "were done before; the step's log names them.",
                }
            );
        }
    }

    static AttemptResult Work(FileSettings settings, AttemptContext context, CancellationToken cancel)
    {
        var place = new FilePlace(context, settings.Connection);
        if (Missing(settings) is { } missing)
            return AttemptResult.Fail("setting", missing);
        switch (settings.Action)
        {
            case FileAction.MakeFolder:
                return Done(context, FileCreation.Folder(place, settings));
            case FileAction.Write:
                return Done(context, FileCreation.Text(place, settings, context));
            default:
                break;
        }
        var found = place.Match(settings.Path, cancel);
        context.Log.Note($"{found.Count} {(found.Count == 1 ? "file matches" : "files match")} {settings.Path}");
        if (
            found.Count == 0
            && (
                settings.IfNone
                ?? (settings.Action is FileAction.Look or FileAction.Delete ? NoMatch.Proceed : NoMatch.Fail)
            ) == NoMatch.Fail
        )
        {
            return AttemptResult.Fail("no-file", $"no file matches {settings.Path}", $"Looked from {place.From}");
        }

        return Done(
            context,
            settings.Action switch
            {
                FileAction.Look => FileQueries.At(found, settings.Lines, cancel),
                FileAction.Hash => FileQueries.Hash(found, settings.Algorithm, cancel),
                FileAction.Delete => Told(context, settings, found.Count, report =>
                    FileMoves.Delete(found, report, cancel)
                ),
                FileAction.Pack => Packing.Pack(place, found, settings, cancel),
                FileAction.Unpack => Packing.Unpack(place, found, settings, cancel),
                _ => Told(context, settings, found.Count, report =>
                    FileMoves.Files(place, found, settings, report, cancel)
                ),
            }
        );
    }

    static string? Missing(FileSettings settings) =>
        settings switch
        {
            {
                Action: FileAction.Copy or FileAction.Move or FileAction.Rename or FileAction.Pack or FileAction.Unpack,
                To: null
            } => $"“to” is missing: where to {settings.Action.Word()}",
            { Action: FileAction.Rename, To: { } name } when name.Contains('/') =>
                "“to” is a name, without a folder; move leads to another folder",
            { Action: FileAction.Write, Text: null } => "“text” is missing: what to write",
            _ => null,
        };

    static AttemptResult Done(AttemptContext context, FileReport report)
    {
        foreach (var line in report.Notes)
            context.Log.Note(line);
        return new(report.Outputs());
    }
}

/// <summary>Where the paths of one step start from.</summary>
sealed class FilePlace
{
    readonly AttemptContext _context;

    /// <param name="connection">A connection of type folder; null for the work folder.</param>
    /// <exception cref="StepFailedException">There is none of that name, or it is of another type, or leads
    /// outside.</exception>
    public FilePlace(AttemptContext context, string? connection)
    {
        _context = context;
        From = connection is null ? context.WorkFolder : Folder(connection);
    }

    /// <summary>A full path.</summary>
    public string From { get; }

    string Folder(string name) =>
        _context.Resolve(_context.Connections.Require(name, "folder").Open<FolderSettings>(_context.Secrets).Path);

    /// <exception cref="StepFailedException">It leads outside.</exception>
    public string Resolve(string path) => _context.Folders.Resolve(path, From);

    /// <exception cref="StepFailedException">Something of it leads outside.</exception>
    public List<FileInfo> Match(string pattern, CancellationToken cancel) =>
        FilePattern.Match(_context.Folders, From, pattern, cancel);
}
