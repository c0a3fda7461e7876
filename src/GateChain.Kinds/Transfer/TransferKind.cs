using System.Globalization;
using System.IO.Enumeration;
using System.Security.Cryptography;
using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;
using GateChain.Kinds.Settings;
using Renci.SshNet;
using Renci.SshNet.Sftp;

namespace GateChain.Kinds.Transfer;

/// <summary>
/// Moves files to and from other machines. A file is there under its name as a whole or not at all; one that was cut
/// off continues from where it was.
/// </summary>
public sealed class TransferKind : StepKind<TransferSettings>
{
    const string Part = ".gatechain-part";

    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "transfer",
            "Gets files from another machine over SFTP, or puts them there.",
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
            Purpose = KindPurpose.Data,
            Sample = new Dictionary<string, Value>
            {
                ["count"] = Value.Int(1),
                ["size"] = Value.Int(1),
                ["files"] = Value.EmptyList,
            },
        };

    /// <summary>A file on the server: of a link, what it leads to, under the link's name.</summary>
    sealed record RemoteFile(string Name, string FullName, long Length, DateTime LastWriteTimeUtc);

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
        e switch
        {
            IOException or UnauthorizedAccessException => new("file", e.Message),
            _ => SftpConnection.Error(e),
        };

    static AttemptResult Work(TransferSettings settings, AttemptContext context, CancellationToken cancel)
    {
        var connection = context
            .Connections.Require(settings.Connection, SftpConnection.Type.Name)
            .Open<SftpSettings>(context.Secrets);
        var moves = settings.Action is not (TransferAction.List or TransferAction.Delete);
        if (moves && settings.To is null)
        {
            throw new StepFailedException(
                "setting",
                $"“to” is missing: where to {settings.Action.ToString().ToLowerInvariant()}"
            );
        }
        using var client = SftpConnection.Open(connection);
        using var stop = cancel.Register(client.Disconnect);
        var done =
            settings.Action == TransferAction.Put
                ? Put(client, settings, context, cancel)
                : Remote(client, settings, context, cancel);
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
        SftpClient client,
        TransferSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var found = Match(client, settings.Path);
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
                    Get(client, file, to, settings.Overwrite, context);
                    done.Add(new(to, file.Length, file.LastWriteTimeUtc));
                    break;
                case TransferAction.Delete:
                    client.DeleteFile(file.FullName);
                    context.Log.Note($"deleted {file.FullName}");
                    done.Add(new(file.FullName, file.Length, file.LastWriteTimeUtc));
                    break;
                case TransferAction.Move:
                    var there = Target(settings.To!, file.Name, found.Count, IsFolder(client, settings.To!));
                    Replace(client, file.FullName, there, settings.Overwrite);
                    context.Log.Note($"moved {file.FullName} to {there}");
                    done.Add(new(there, file.Length, file.LastWriteTimeUtc));
                    break;
                default:
                    done.Add(new(file.FullName, file.Length, file.LastWriteTimeUtc));
                    break;
            }
        }
        return done;
    }

    static List<Done> Put(
        SftpClient client,
        TransferSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var found = FilePattern.Match(context.Folders, context.WorkFolder, settings.Path, cancel);
        var done = new List<Done>();
        var folder = IsFolder(client, settings.To!);
        var ways = found.Select(f => (File: f, To: Target(settings.To!, f.Name, found.Count, folder))).ToList();
        Targets.MustDiffer(ways, "Nothing was sent. Take one folder after the other.");
        foreach (var (file, to) in ways)
        {
            cancel.ThrowIfCancellationRequested();
            if (!settings.Overwrite && client.Exists(to))
                throw new StepFailedException("exists", $"{to} is there already", "Set overwrite: true to replace it.");
            MakeFolders(client, to[..Math.Max(0, to.LastIndexOf('/'))]);
            var part = PartOf(context, to, file.Length, file.LastWriteTimeUtc);
            var from = client.Exists(part) ? client.GetAttributes(part).Size : 0;
            if (from > file.Length)
                from = 0;
            using (var source = file.OpenRead())
            using (var target = client.Open(part, from > 0 ? FileMode.Open : FileMode.Create, FileAccess.Write))
            {
                Copy(source, target, from, context, file.FullName);
            }
            Check(client.GetAttributes(part).Size, file.Length, to);
            Replace(client, part, to, settings.Overwrite);
            context.Log.Note($"put {file.FullName} to {to}");
            done.Add(new(to, file.Length, file.LastWriteTimeUtc));
        }
        return done;
    }

    static void Get(SftpClient client, RemoteFile file, string to, bool overwrite, AttemptContext context)
    {
        if (!overwrite && File.Exists(to))
            throw new StepFailedException("exists", $"{to} is there already", "Set overwrite: true to replace it.");
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(to)!);
        var part = PartOf(context, to, file.Length, file.LastWriteTimeUtc);
        var from = File.Exists(part) && new FileInfo(part).Length <= file.Length ? new FileInfo(part).Length : 0;
        using (var source = client.OpenRead(file.FullName))
        using (var target = new FileStream(part, from > 0 ? FileMode.Open : FileMode.Create, FileAccess.Write))
        {
            Copy(source, target, from, context, file.FullName);
            target.Flush(flushToDisk: true);
        }
        Check(new FileInfo(part).Length, file.Length, to);
        File.Move(part, to, overwrite);
        context.Log.Note($"got {file.FullName} as {to}");
    }

    static void Copy(Stream source, Stream target, long from, AttemptContext context, string name)
    {
        if (from > 0)
        {
            context.Log.Note(string.Create(CultureInfo.InvariantCulture, $"{name} continues after {from:N0} bytes"));
            source.Seek(from, SeekOrigin.Begin);
            target.Seek(from, SeekOrigin.Begin);
        }
        source.CopyTo(target, 1 << 16);
        target.Flush();
    }

    // Named after the work and the file as it is: what another file of the same name has left is never continued with.
    internal static string PartOf(AttemptContext context, string to, long length, DateTime changed) =>
        $"{to}."
        + Convert.ToHexStringLower(
            SHA256.HashData(Encoding.UTF8.GetBytes($"{context.WorkKey}|{length}|{changed.Ticks}")).AsSpan(0, 6)
        )
        + $"{Part}";

    static void MakeFolders(SftpClient client, string folder)
    {
        if (folder.Length == 0 || client.Exists(folder))
            return;
        MakeFolders(client, folder[..Math.Max(0, folder.LastIndexOf('/'))]);
        client.CreateDirectory(folder);
    }

    static void Check(long arrived, long sent, string name)
    {
        if (arrived != sent)
        {
            throw new StepFailedException(
                "size",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{name} has {arrived:N0} bytes and should have {sent:N0}: "
                        + $"it was changed on its way or is still being written"
                )
            );
        }
    }

    static void Replace(SftpClient client, string from, string to, bool overwrite)
    {
        if (client.Exists(to))
        {
            if (!overwrite)
                throw new StepFailedException("exists", $"{to} is there already", "Set overwrite: true to replace it.");
            // The server's own way replaces at once; where it has none there is a moment without the file.
            try
            {
                client.RenameFile(from, to, isPosix: true);
                return;
            }
            catch (Renci.SshNet.Common.SshException)
            {
                client.DeleteFile(to);
            }
        }
        client.RenameFile(from, to);
    }

    // What a link leads to counts, under the link's own name; one that leads nowhere is no file.
    static RemoteFile? Find(SftpClient client, string path, SftpFileAttributes? known)
    {
        try
        {
            var what = known ?? client.GetAttributes(path);
            return what.IsRegularFile
                ? new(path[(path.LastIndexOf('/') + 1)..], path, what.Size, what.LastWriteTimeUtc)
                : null;
        }
        catch (Renci.SshNet.Common.SftpPathNotFoundException)
        {
            return null;
        }
    }

    static bool IsFolder(SftpClient client, string path) =>
        client.Exists(path) && client.GetAttributes(path).IsDirectory;

    static string Target(string to, string name, int files, bool isFolder) =>
        to.EndsWith('/') ? to + name
        : files > 1 || isFolder ? $"{to}/{name}"
        : to;

    static List<RemoteFile> Match(SftpClient client, string pattern)
    {
        var slash = pattern.LastIndexOf('/');
        var (folder, name) = (
            slash < 0 ? "."
            : slash == 0 ? "/"
            : pattern[..slash],
            pattern[(slash + 1)..]
        );
        if (!name.Contains('*') && !name.Contains('?'))
        {
            return client.Exists(pattern) && Find(client, pattern, null) is { } one ? [one] : [];
        }
        return
        [
            .. client
                .ListDirectory(folder)
                .Where(f =>
                    !f.Name.EndsWith(Part, StringComparison.Ordinal)
                    && FileSystemName.MatchesSimpleExpression(name, f.Name, ignoreCase: false)
                )
                .Select(f => Find(client, f.FullName, f.IsSymbolicLink ? null : f.Attributes))
                .OfType<RemoteFile>()
                .OrderBy(f => f.Name, StringComparer.Ordinal),
        ];
    }
}
