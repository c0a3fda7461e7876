using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.FileServers;

namespace GateChain.Kinds.Arrivals;

/// <summary>Looks for files on a server or in a bucket. Thread-safe; each look has a session of its own.</summary>
public static class ServerPlace
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
            using var server = FileServer.Open(connection, secrets, cancel);
            // Files are told apart by their full paths: each fires once, however its path is written.
            var found = server
                .Match(server.Full(pattern), Most)
                .Where(f => !f.Name.StartsWith('.'))
                .Select(Of)
                .OrderBy(f => f.Path, StringComparer.Ordinal);
            return new([.. found], [], IsThere: true);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return new([], [(e as StepFailedException)?.Message ?? FileServer.Error(e)?.Message ?? e.Message], false);
        }
    }

    // A server that has no name for a version tells size and seconds, and no more.
    static SeenFile Of(ServerFile file)
    {
        var changed = new DateTimeOffset(DateTime.SpecifyKind(file.Changed, DateTimeKind.Utc));
        return new(
            file.Path,
            file.Name,
            file.Length,
            changed,
            file.Tag ?? $"{file.Length:x}-{changed.ToUnixTimeSeconds():x}"
        );
    }
}
