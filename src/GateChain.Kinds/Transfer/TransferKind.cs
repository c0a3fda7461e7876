using System.Globalization;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Datasets;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Transfer;

/// <summary>
/// Moves files to and from other machines. A file is there under its name as a whole or not at all; one that was cut
/// off continues from where it was.
/// </summary>
public sealed class TransferKind : StepKind<TransferSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "transfer",
            "Gets files from another machine or a bucket (SFTP, FTP, S3, Azure), or puts them there.",
            SettingsShape.Of<TransferSettings>(),
            new Dictionary<string, CelType>
            {
                ["count"] = CelType.Int,
                ["size"] = CelType.Int,
                ["files"] = CelType.List(
                    CelType.Record(
                        ("path", CelType.String),
                        ("name", CelType.String),
                        ("size", CelType.Int),
                        ("changed", CelType.Timestamp)
                    )
                ),
            }
        )
        {
            Tells = "{action} {path}",
            Data = Uses,
            Purpose = KindPurpose.Data,
            Sample = new Dictionary<string, Value>
            {
                ["count"] = Value.Int(1),
                ["size"] = Value.Int(1),
                ["files"] = Value.EmptyList,
            },
        };

    static IEnumerable<DataUse> Uses(SettingTexts settings)
    {
        if (settings["connection"] is not { } server || settings["path"] is not { } path)
            yield break;
        var put = settings["action"] == "put";
        yield return settings["action"] == "delete"
            ? DataUse.Writes(DataForm.File, server, path)
            : DataUse.Reads(DataForm.File, put ? null : server, path);
        if (settings["to"] is { } to)
            yield return DataUse.Writes(DataForm.File, settings["action"] == "get" ? null : server, Into(to, path));
    }

    // In a folder a file keeps its name.
    static string Into(string to, string path) => to.EndsWith('/') ? to + path[(path.LastIndexOf('/') + 1)..] : to;

    /// <summary>A file that was dealt with.</summary>
    sealed record Done(string Path, long Size, DateTime Changed);

    protected override ValueTask<AttemptResult> RunAsync(
        TransferSettings settings,
        AttemptContext context,
        CancellationToken cancel
    ) =>
        OnThread(
            () => Work(settings, context, cancel),
            e =>
                cancel.IsCancellationRequested
                    ? new(
                        "stopped",
                        "ended early; files that were whole stay, "
                            + "the one being transferred continues with the next attempt"
                    )
                    : Known(e)
        );

    static StepError? Known(Exception e) =>
        FileServer.Error(e)
        ?? (e is IOException or UnauthorizedAccessException ? new StepError("file", e.Message) : null);

    static AttemptResult Work(TransferSettings settings, AttemptContext context, CancellationToken cancel)
    {
        var connection = context.Connections.Require(settings.Connection);
        var moves = settings.Action is not (TransferAction.List or TransferAction.Delete);
        if (moves && settings.To is null)
        {
            throw new StepFailedException(
                "setting",
                $"“to” is missing: where to {settings.Action.ToString().ToLowerInvariant()}"
            );
        }
        using var server = FileServer.Open(connection, context.Secrets, cancel);
        var done =
            settings.Action == TransferAction.Put
                ? Put(server, settings, context, cancel)
                : Remote(server, settings, context, cancel);
        if (done.Count == 0 && (settings.IfNone ?? (moves ? NoMatch.Fail : NoMatch.Proceed)) == NoMatch.Fail)
            throw new StepFailedException("no-file", $"no file matches {settings.Path}");
        context.Log.Note(
            string.Create(CultureInfo.InvariantCulture, $"{done.Count} files, {done.Sum(d => d.Size):N0} bytes")
        );
        return new(
            Value.Map(
                ("count", Value.Int(done.Count)),
                ("size", Value.Int(done.Sum(d => d.Size))),
                (
                    "files",
                    Value.List([
                        .. done.Select(d =>
                            Value.Map(
                                ("path", Value.String(d.Path)),
                                ("name", Value.String(d.Path[(d.Path.LastIndexOf('/') + 1)..])),
                                ("size", Value.Int(d.Size)),
                                ("changed", Value.Timestamp(new DateTimeOffset(d.Changed)))
                            )
                        ),
                    ])
                )
            )
        );
    }

    static List<Done> Remote(
        FileServer server,
        TransferSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var found = server.Match(settings.Path);
        var done = new List<Done>();
        foreach (var file in found)
        {
            cancel.ThrowIfCancellationRequested();
            switch (settings.Action)
            {
                case TransferAction.Get:
                    var to = context.Resolve(
                        Target(settings.To!, file.Name, found.Count, Directory.Exists(context.Resolve(settings.To!)))
                    );
                    Download.To(server, file, to, settings.Overwrite, context, cancel);
                    done.Add(new(to, file.Length, file.Changed));
                    break;
                case TransferAction.Delete:
                    server.Delete(file.Path);
                    context.Log.Note($"deleted {file.Path}");
                    done.Add(new(file.Path, file.Length, file.Changed));
                    break;
                case TransferAction.Move:
                    var there = Target(settings.To!, file.Name, found.Count, server.IsFolder(settings.To!));
                    server.Move(file.Path, there, settings.Overwrite);
                    context.Log.Note($"moved {file.Path} to {there}");
                    done.Add(new(there, file.Length, file.Changed));
                    break;
                default:
                    done.Add(new(file.Path, file.Length, file.Changed));
                    break;
            }
        }
        return done;
    }

    static List<Done> Put(
        FileServer server,
        TransferSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var found = FilePattern.Match(context.Folders, context.WorkFolder, settings.Path, cancel);
        var done = new List<Done>();
        var folder = server.IsFolder(settings.To!);
        var ways = found.Select(f => (File: f, To: Target(settings.To!, f.Name, found.Count, folder))).ToList();
        Targets.MustDiffer(ways, "Nothing was sent. Take one folder after the other.");
        foreach (var (file, to) in ways)
        {
            cancel.ThrowIfCancellationRequested();
            server.Put(file, to, settings.Overwrite, context);
            context.Log.Note($"put {file.FullName} to {to}");
            done.Add(new(to, file.Length, file.LastWriteTimeUtc));
        }
        return done;
    }

    static string Target(string to, string name, int files, bool isFolder) =>
        to.EndsWith('/') ? to + name
        : files > 1 || isFolder ? $"{to}/{name}"
        : to;
}
