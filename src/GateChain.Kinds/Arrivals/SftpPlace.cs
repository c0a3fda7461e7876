using System.IO.Enumeration;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Transfer;
using Renci.SshNet;
using Renci.SshNet.Sftp;

namespace GateChain.Kinds.Arrivals;

/// <summary>Looks for files on a server. Thread-safe; each look has a session of its own.</summary>
public static class SftpPlace
{
    // A server that is asked for a million names is asked too much.
    const int Most = 100_000;

    /// <summary>The files that a path or pattern names now. Never throws for what the server does.</summary>
    /// <param name="connection">Where to look.</param>
    /// <param name="secrets">Where passwords come from.</param>
    /// <param name="pattern">A path, or a pattern with <c>*</c> and <c>?</c> in each of its parts.</param>
    /// <param name="cancel">Ends the look.</param>
    public static Task<PlaceView> LookAsync(
        Connection connection,
        ISecrets secrets,
        string pattern,
        CancellationToken cancel
    ) => Task.Run(() => Look(connection, secrets, pattern, cancel), cancel);

    static PlaceView Look(Connection connection, ISecrets secrets, string pattern, CancellationToken cancel)
    {
        try
        {
            if (connection.Type != "sftp")
            {
                return new(
                    [],
                    [$"“{connection.Name}” is of type {connection.Type}: files come from sftp connections"],
                    false
                );
            }
            using var client = SftpConnection.Open(connection.Open<SftpSettings>(secrets));
            var found = new List<SeenFile>();
            var parts = pattern.Split('/', StringSplitOptions.RemoveEmptyEntries);
            var start = pattern.StartsWith('/') ? "/" : client.WorkingDirectory;
            Into(client, start, parts, 0, found, cancel);
            return new(found.OrderBy(f => f.Path, StringComparer.Ordinal).ToList(), [], IsThere: true);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return new(
                [],
                [(e as StepFailedException)?.Message ?? SftpConnection.Error(e)?.Message ?? e.Message],
                false
            );
        }
    }

    static void Into(
        SftpClient client,
        string folder,
        string[] parts,
        int at,
        List<SeenFile> found,
        CancellationToken cancel
    )
    {
        cancel.ThrowIfCancellationRequested();
        var isLast = at == parts.Length - 1;
        if (!isLast && parts[at].IndexOfAny(['*', '?']) < 0)
        {
            Into(client, $"{folder.TrimEnd('/')}/{parts[at]}", parts, at + 1, found, cancel);
            return;
        }
        foreach (var entry in client.ListDirectory(folder).Where(e => Fits(parts[at], e)))
        {
            if (!isLast && entry.IsDirectory)
                Into(client, entry.FullName, parts, at + 1, found, cancel);
            else if (isLast && entry.IsRegularFile && found.Count < Most)
                found.Add(Of(entry));
        }
    }

    static bool Fits(string pattern, ISftpFile entry) =>
        !entry.Name.StartsWith('.') && FileSystemName.MatchesSimpleExpression(pattern, entry.Name, ignoreCase: false);

    // A server tells seconds, and no more.
    static SeenFile Of(ISftpFile entry)
    {
        var changed = new DateTimeOffset(entry.LastWriteTimeUtc, TimeSpan.Zero);
        return new(
            entry.FullName,
            entry.Name,
            entry.Length,
            changed,
            $"{entry.Length:x}-{changed.ToUnixTimeSeconds():x}"
        );
    }
}
