using System.Collections.Concurrent;
using System.Text;
using GateChain.Engine.Sharing;

namespace GateChain.Engine.Logs;

/// <summary>
/// Reads the logs of attempts wherever they are: each is on the node that did the attempt. While a node is not there,
/// neither are its logs. Thread-safe.
/// </summary>
public sealed class LogReader
{
    const string SizeOf = "log-size",
        PartOf = "log-part",
        PartBefore = "log-before",
        Lines = "log-lines";

    static readonly TimeSpan Remembered = TimeSpan.FromSeconds(5);

    readonly AttemptLogs _local;
    readonly Shared? _shared;
    readonly TimeProvider _time;
    readonly ConcurrentDictionary<(long Run, int Number), (string Node, long At)> _found = new();

    sealed record Asked(long Run, int Number, long At = 0, int Most = 0);

    sealed record Looked(long Run, int Number, LogSearch Search);

    internal LogReader(AttemptLogs local, Shared? shared, TimeProvider time)
    {
        (_local, _shared, _time) = (local, shared, time);
        if (shared is null)
            return;
        shared.Answers.Add<Asked, long>(SizeOf, a => Task.FromResult(local.SizeOf(a.Run, a.Number)));
        shared.Answers.Add<Asked, LogPart>(PartOf, a => Task.FromResult(local.Read(a.Run, a.Number, a.At, a.Most)));
        shared.Answers.Add<Asked, LogPart>(PartBefore, a =>
            Task.FromResult(local.ReadBefore(a.Run, a.Number, a.At, a.Most))
        );
        shared.Answers.Add<Looked, LogHits>(Lines, l =>
            Task.FromResult(local.Search(l.Run, l.Number, l.Search, CancellationToken.None))
        );
    }

    // The other node that has a log; null for this one, or when nobody has it. Two may have something of one that was
    // waited for: the one that did it has more.
    async ValueTask<string?> NodeOfAsync(long run, int number)
    {
        if (_shared is null)
            return null;
        if (
            _found.TryGetValue((run, number), out var found)
            && _time.GetElapsedTime(found.At) < Remembered
            && _shared.Link.Living.Contains(found.Node)
        )
        {
            return found.Node == _shared.Link.Id ? null : found.Node;
        }
        var sizes = await Task.WhenAll(
                _shared.Link.Living.Select(async node => (Node: node, Size: await SizeAtAsync(node, run, number)))
            )
            .ConfigureAwait(false);
        var (best, size) = sizes.MaxBy(s => s.Size);
        if (size <= 0)
            return null;
        if (_found.Count > 1000)
            _found.Clear();
        _found[(run, number)] = (best, _time.GetTimestamp());
        return best == _shared.Link.Id ? null : best;
    }

    async Task<long> SizeAtAsync(string node, long run, int number)
    {
        try
        {
            return await NodeAnswers
                .AskAsync<Asked, long>(_shared!.Link, node, SizeOf, new(run, number))
                .ConfigureAwait(false);
        }
        catch (NodeSilentException)
        {
            return 0;
        }
    }

    async Task<TAnswer> AskAsync<TAsk, TAnswer>(
        long run,
        int number,
        string what,
        TAsk ask,
        Func<TAnswer> here,
        TAnswer absent
    )
    {
        if (await NodeOfAsync(run, number).ConfigureAwait(false) is not { } node)
            return here();
        try
        {
            return await NodeAnswers.AskAsync<TAsk, TAnswer>(_shared!.Link, node, what, ask).ConfigureAwait(false);
        }
        catch (NodeSilentException)
        {
            _found.TryRemove((run, number), out _);
            return absent;
        }
    }

    /// <inheritdoc cref="AttemptLogs.Read"/>
    public Task<LogPart> ReadAsync(long run, int number, long from = 0, int most = 1 << 20) =>
        AskAsync(
            run,
            number,
            PartOf,
            new Asked(run, number, from, most),
            () => _local.Read(run, number, from, most),
            new LogPart("", from, from, 0)
        );

    /// <inheritdoc cref="AttemptLogs.ReadBefore"/>
    public Task<LogPart> ReadBeforeAsync(long run, int number, long before, int most = 1 << 20) =>
        AskAsync(
            run,
            number,
            PartBefore,
            new Asked(run, number, before, most),
            () => _local.ReadBefore(run, number, before, most),
            new LogPart("", before, before, 0)
        );

    /// <inheritdoc cref="AttemptLogs.Search"/>
    public Task<LogHits> SearchAsync(long run, int number, LogSearch search, CancellationToken cancel) =>
        AskAsync(
            run,
            number,
            Lines,
            new Looked(run, number, search),
            () => _local.Search(run, number, search, cancel),
            new LogHits([], 0, 0)
        );

    /// <summary>All of a log; null when there is none. One of another node is as long as it is when it is asked for.
    /// </summary>
    public async Task<Stream?> OpenWholeAsync(long run, int number)
    {
        if (await NodeOfAsync(run, number).ConfigureAwait(false) is null)
            return _local.OpenWhole(run, number);
        // Up to 64 MiB: not in memory.
        var whole = new FileStream(
            Path.GetTempFileName(),
            FileMode.Create,
            FileAccess.ReadWrite,
            FileShare.None,
            1 << 16,
            FileOptions.DeleteOnClose | FileOptions.Asynchronous
        );
        for (long at = 0; ; )
        {
            var part = await ReadAsync(run, number, at).ConfigureAwait(false);
            if (part.Next <= at)
                break;
            await whole.WriteAsync(Encoding.UTF8.GetBytes(part.Text)).ConfigureAwait(false);
            at = part.Next;
        }
        whole.Seek(0, SeekOrigin.Begin);
        return whole;
    }
}
