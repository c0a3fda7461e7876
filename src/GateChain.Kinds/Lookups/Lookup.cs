using System.Data.Common;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.FileServers;

namespace GateChain.Kinds.Lookups;

/// <summary>Something that a setting can name.</summary>
/// <param name="Text">As it is written in the setting.</param>
/// <param name="What"><c>table</c>, <c>view</c>, <c>folder</c> or <c>file</c>.</param>
public sealed record LookupItem(string Text, string What);

/// <summary>What is found at a place.</summary>
/// <param name="Items">In the order of their names.</param>
/// <param name="HasMore">Whether there is more than is told.</param>
/// <param name="Problem">Why nothing can be told; null when it can.</param>
public sealed record LookupResult(IReadOnlyList<LookupItem> Items, bool HasMore = false, string? Problem = null);

/// <summary>
/// Looks up what settings can name, for whoever designs a chain: names only, and never more than fits a list. Failures
/// are told, not thrown. Thread-safe.
/// </summary>
public static class Lookup
{
    /// <summary>The most names that one look tells.</summary>
    public const int Most = 500;

    /// <summary>The tables and views of a database; those that loads use meanwhile are left out.</summary>
    public static LookupResult Tables(string connection, AttemptContext context, CancellationToken cancel) =>
        Try(() =>
        {
            using var session = Session.Open(connection, context, cancel);
            return Of(
                session
                    .Tables(Most + 1)
                    .Where(t => !t.Name.StartsWith("gatechain_", StringComparison.Ordinal))
                    .Select(t => new LookupItem(Written(t.Schema, t.Name), t.IsView ? "view" : "table"))
            );
        });

    static string Written(string? schema, string name) => schema is null ? Part(name) : $"{Part(schema)}.{Part(name)}";

    static string Part(string name) => name.Contains('.', StringComparison.Ordinal) ? $"\"{name}\"" : name;

    /// <summary>The files and folders whose paths begin with a text, one level deep.</summary>
    /// <param name="begin">What is written already: <c>inbox/we</c> gives what begins with <c>we</c> there.</param>
    /// <param name="connection">A connection to a folder, server or bucket; null for the service's work folder.</param>
    public static LookupResult Paths(
        string begin,
        string? connection,
        AttemptContext context,
        CancellationToken cancel
    ) =>
        Try(() =>
        {
            var (folder, start) = (begin[..(begin.LastIndexOf('/') + 1)], begin[(begin.LastIndexOf('/') + 1)..]);
            var found = connection is null ? null : context.Connections.Require(connection);
            var entries = found?.Type switch
            {
                "sftp" or "ftp" or "s3" or "azure" => Remote(found, folder, context, cancel),
                "folder" => Local(context.Resolve(found.Open<FolderSettings>(context.Secrets).Path), folder, context),
                null => Local(context.WorkFolder, folder, context),
                var other => throw new StepFailedException(
                    "no-connection",
                    $"“{connection}” is of type {other}: files are in folders, on servers (sftp, ftp) and in buckets"
                ),
            };
            return Of(
                entries
                    .Where(e => e.Name.StartsWith(start, StringComparison.Ordinal))
                    .OrderByDescending(e => e.IsFolder)
                    .ThenBy(e => e.Name, StringComparer.Ordinal)
                    .Select(e =>
                        e.IsFolder
                            ? new LookupItem($"{folder}{e.Name}/", "folder")
                            : new LookupItem($"{folder}{e.Name}", "file")
                    )
            );
        });

    static IEnumerable<(string Name, bool IsFolder)> Local(string root, string folder, AttemptContext context)
    {
        var place = context.Folders.Resolve(Path.GetFullPath(folder, root), root);
        return new DirectoryInfo(place)
            .EnumerateFileSystemInfos()
            .Where(e => IsAllowed(e.FullName, context))
            .Select(e => (e.Name, e is DirectoryInfo));
    }

    // The service's own data may lie beside what steps may use.
    static bool IsAllowed(string path, AttemptContext context)
    {
        try
        {
            context.Folders.Resolve(path, path);
            return true;
        }
        catch (StepFailedException)
        {
            return false;
        }
    }

    static IReadOnlyList<(string Name, bool IsFolder)> Remote(
        Connection connection,
        string folder,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        try
        {
            using var server = FileServer.Open(connection, context.Secrets, cancel);
            return server.Entries(folder);
        }
        catch (Exception e) when (FileServer.Error(e) is { } error)
        {
            throw new StepFailedException(error);
        }
    }

    static LookupResult Of(IEnumerable<LookupItem> items)
    {
        var taken = items.Take(Most + 1).ToList();
        return new([.. taken.Take(Most)], taken.Count > Most);
    }

    static LookupResult Try(Func<LookupResult> look)
    {
        try
        {
            return look();
        }
        catch (StepFailedException e)
        {
            return new([], Problem: e.Message);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or DbException or ArgumentException)
        {
            return new([], Problem: e.Message);
        }
    }
}
