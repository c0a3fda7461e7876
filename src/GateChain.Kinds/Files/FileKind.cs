using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Files;

/// <summary>Looks for, copies, moves and deletes files.</summary>
public sealed class FileKind : StepKind<FileSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } = new("file", "Looks for, copies, moves or deletes files.", SettingsShape.Of<FileSettings>(),
        new Dictionary<string, CelType>
        {
            ["count"] = CelType.Int, ["size"] = CelType.Int, ["newest"] = CelType.String,
            ["files"] = CelType.List(CelType.Map(CelType.String, CelType.Dyn)),
        })
    {
        Purpose = KindPurpose.Data,
        Sample = new Dictionary<string, Value> { ["count"] = Value.Int(1), ["size"] = Value.Int(1), ["newest"] = Value.String("file"), ["files"] = Value.EmptyList },
    };

    protected override ValueTask<AttemptResult> RunAsync(FileSettings settings, AttemptContext context, CancellationToken cancel) =>
        OnThread(() => Work(settings, context, cancel), e => e switch
        {
            IOException or UnauthorizedAccessException => new("file", e.Message),
            OperationCanceledException => new("stopped", "ended early"),
            _ => null,
        });

    static AttemptResult Work(FileSettings settings, AttemptContext context, CancellationToken cancel)
    {
        var found = FilePattern.Match(context.WorkFolder, settings.Path);
        context.Log.Note($"{found.Count} {(found.Count == 1 ? "file matches" : "files match")} {settings.Path}");
        var transfers = settings.Action is FileAction.Copy or FileAction.Move;
        if (transfers && settings.To is null) { return AttemptResult.Fail("setting", $"“to” is missing: where to {Word(settings.Action)}"); }
        if (found.Count == 0 && (settings.IfNone ?? (transfers ? NoMatch.Fail : NoMatch.Proceed)) == NoMatch.Fail)
        {
            return AttemptResult.Fail("no-file", $"no file matches {settings.Path}", $"Looked from {context.WorkFolder}");
        }
        var done = new List<FileInfo>();
        foreach (var file in found)
        {
            cancel.ThrowIfCancellationRequested();
            if (settings.Action == FileAction.Look) { done.Add(file); continue; }
            if (settings.Action == FileAction.Delete)
            {
                file.Delete();
                context.Log.Note($"deleted {file.FullName}");
                done.Add(file);
                continue;
            }
            var target = Target(settings.To!, file, found.Count, context);
            if (target == file.FullName) { return AttemptResult.Fail("file", $"{file.FullName} is source and target at once"); }
            if (File.Exists(target) && !settings.Overwrite) { return AttemptResult.Fail("exists", $"{target} exists already", "Set overwrite: true to replace it."); }
            Transfer(file, target, settings.Action == FileAction.Move);
            context.Log.Note($"{(settings.Action == FileAction.Move ? "moved" : "copied")} {file.FullName} to {target}");
            done.Add(new(target));
        }
        return Outputs(done, deleted: settings.Action == FileAction.Delete);
    }

    static string Word(FileAction action) => action.Word();

    static string Target(string to, FileInfo file, int count, AttemptContext context)
    {
        var path = context.Resolve(to);
        return to.EndsWith('/') || count > 1 || Directory.Exists(path) ? Path.Combine(path, file.Name) : path;
    }

    // Through a name nobody looks for: the target appears whole or not at all, also across file systems and crashes.
    static void Transfer(FileInfo file, string target, bool move)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var partial = Path.Combine(Path.GetDirectoryName(target)!, $".{Path.GetFileName(target)}.partial");
        file.CopyTo(partial, overwrite: true);
        File.SetLastWriteTimeUtc(partial, file.LastWriteTimeUtc);
        File.Move(partial, target, overwrite: true);
        if (move) { file.Delete(); }
    }

    static AttemptResult Outputs(List<FileInfo> files, bool deleted)
    {
        var list = files.Select(f => Value.Map(("path", Value.String(f.FullName)), ("name", Value.String(f.Name)),
            ("size", Value.Int(deleted ? 0 : f.Length)), ("modified", Value.Timestamp(deleted ? DateTimeOffset.UnixEpoch : f.LastWriteTimeUtc)))).ToList();
        var newest = deleted ? null : files.MaxBy(f => f.LastWriteTimeUtc);
        return AttemptResult.Done(("count", Value.Int(files.Count)), ("size", Value.Int(deleted ? 0 : files.Sum(f => f.Length))),
            ("newest", Value.String(newest?.FullName ?? "")), ("files", Value.List(list)));
    }
}
