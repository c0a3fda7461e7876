using Dapper;
using GateChain.Storage.Sql;
using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Decisions of several runs that are written in one transaction. It takes the row that whoever claims runs of this
/// service has to change, so that nobody claims one meanwhile, and leaves out what has another owner by now. Where
/// nothing has to be asked before, all of it is one trip: the fence, the rows, the commit.
/// </summary>
sealed class JournalBatch(IReadOnlyList<JournalAppend> appends, KnownRuns known)
{
    // What hold_unclaimed fails with.
    const string Claimed = "GC001";

    // What became of an earlier try is not known: its answer may have got lost behind the commit.
    bool _unsure;

    /// <summary>What became of each append, once it is written.</summary>
    public AppendOutcome[] Outcomes { get; } = new AppendOutcome[appends.Count];

    /// <summary>Tries once.</summary>
    /// <param name="database">Where.</param>
    /// <param name="withCursors">Whether it also writes how far the outbox's consumers have got.</param>
    public async Task WriteAsync(PostgresDatabase database, bool withCursors)
    {
        await using var connection = await database.ConnectAsync().ConfigureAwait(false);
        if (
            !withCursors
            && !_unsure
            && appends.All(AsksNothing)
            && await WriteAtOnceAsync(connection, database.Node).ConfigureAwait(false)
        )
        {
            return;
        }
        await using var transaction = await connection.BeginTransactionAsync().ConfigureAwait(false);
        var owners = await OwnersAsync(connection, database.Node).ConfigureAwait(false);
        var taken = await TakenAsync(connection).ConfigureAwait(false);
        var written = await JudgeAllAsync(connection, owners, taken).ConfigureAwait(false);
        if (written.Count > 0)
        {
            await WriteKeptAsync(connection, written).ConfigureAwait(false);
            await using var batch = new NpgsqlBatch(connection);
            AddRows(batch, written, owners, database.Node);
            await batch.ExecuteNonQueryAsync().ConfigureAwait(false);
        }
        if (withCursors)
            await database.Cursors.WriteAsync(connection).ConfigureAwait(false);
        _unsure = true;
        await transaction.CommitAsync().ConfigureAwait(false);
        _unsure = false;
        known.Keep(owners);
        if (withCursors)
            database.Cursors.Committed();
    }

    // Its run is known or new, and it takes nothing that another could have taken.
    bool AsksNothing(JournalAppend append) =>
        append.Extras is null or { Keys.Count: 0, Fire: null, Kept: null, Positions.Count: 0 }
        && (known.Has(append.Run) || append is { Seq: 1, Stored: { OriginKey: null } });

    // False when runs of this service were claimed meanwhile: nothing is written then.
    async Task<bool> WriteAtOnceAsync(NpgsqlConnection connection, string node)
    {
        var owners = KnownOwners();
        var written = await JudgeAllAsync(connection, owners, []).ConfigureAwait(false);
        await using var batch = new NpgsqlBatch(connection);
        var fence = new NpgsqlBatchCommand("SELECT hold_unclaimed($1, $2)");
        fence.Parameters.AddWithValue(node);
        fence.Parameters.AddWithValue(known.Taken);
        batch.BatchCommands.Add(fence);
        if (written.Count > 0)
            AddRows(batch, written, owners, node);
        _unsure = true;
        try
        {
            await batch.ExecuteNonQueryAsync().ConfigureAwait(false);
        }
        catch (PostgresException e) when (e.SqlState == Claimed)
        {
            _unsure = false;
            return false;
        }
        _unsure = false;
        known.Keep(owners);
        return true;
    }

    async Task<List<JournalAppend>> JudgeAllAsync(
        NpgsqlConnection connection,
        Dictionary<long, RunOwner> owners,
        HashSet<string> taken
    )
    {
        var written = new List<JournalAppend>(appends.Count);
        _news.Clear();
        for (var i = 0; i < appends.Count; i++)
        {
            var verdict = await JudgeAsync(connection, appends[i], owners, taken).ConfigureAwait(false);
            if (verdict == Verdict.Write)
                written.Add(appends[i]);
            Outcomes[i] = verdict switch
            {
                Verdict.Taken => AppendOutcome.Taken,
                Verdict.Fenced => AppendOutcome.Fenced,
                _ => AppendOutcome.Written,
            };
        }
        return written;
    }

    enum Verdict
    {
        Write,
        WasWritten,
        Taken,
        Fenced,
    }

    async Task<Verdict> JudgeAsync(
        NpgsqlConnection connection,
        JournalAppend append,
        Dictionary<long, RunOwner> owners,
        HashSet<string> taken
    )
    {
        var isThere = owners.TryGetValue(append.Run, out var owner);
        // The first row registers the run.
        var first = append is { Seq: 1, Stored: not null } && !isThere;
        if (!first && (!isThere || owner!.Epoch != append.Epoch))
            return Verdict.Fenced;
        // Only its owner writes rows of an epoch: what is there of this one is what an earlier try has written.
        if (!first && append.Seq <= owner!.LastSeq)
            return _unsure ? Verdict.WasWritten : Verdict.Fenced;
        var origin = first ? append.Stored!.OriginKey : null;
        if (origin is not null && taken.Contains("origin " + origin))
            return Verdict.Taken;
        if (append.Extras is { } extras)
        {
            if (extras.Keys.Any(k => taken.Contains("key " + k)))
                return Verdict.Taken;
            if (extras.Fire is { } fire)
            {
                // What those before it in this transaction have taken is seen there, too.
                if (await Fires.IsTakenAsync(connection, fire).ConfigureAwait(false))
                    return Verdict.Taken;
                var number = await Fires.AddAsync(connection, fire, append.Run).ConfigureAwait(false);
                if (Fires.News(fire) is var (kind, state))
                    _news.Add(new(0, number, fire.Chain, kind, state));
            }
            taken.UnionWith(extras.Keys.Select(k => "key " + k));
        }
        if (origin is not null)
            taken.Add("origin " + origin);
        if (first)
            owners[append.Run] = owner = new() { Epoch = append.Epoch };
        owner!.LastSeq = append.Seq;
        owner.Stored = append.Stored ?? owner.Stored;
        return Verdict.Write;
    }

    async Task<Dictionary<long, RunOwner>> OwnersAsync(NpgsqlConnection connection, string node)
    {
        var runs = appends.Select(a => a.Run).Distinct().ToList();
        var unknown = runs.Where(r => !known.Has(r)).ToArray();
        // The row is kept until the commit: nobody claims a run of this service before.
        await using var batch = new NpgsqlBatch(connection);
        var counted = new NpgsqlBatchCommand("SELECT taken FROM claims WHERE owner = $1 FOR SHARE");
        counted.Parameters.AddWithValue(node);
        batch.BatchCommands.Add(counted);
        if (unknown.Length > 0)
            batch.BatchCommands.Add(Asked(unknown));
        await using (var reader = await batch.ExecuteReaderAsync().ConfigureAwait(false))
        {
            // Its row goes when nothing was heard of it for days.
            if (!await reader.ReadAsync().ConfigureAwait(false))
                throw new StorageException("this service was forgotten by the others: start it again", null);
            var taken = reader.GetInt64(0);
            var isAsBefore = known.IsAsOf(taken);
            if (unknown.Length > 0 && await reader.NextResultAsync().ConfigureAwait(false))
                await ReadAsync(reader).ConfigureAwait(false);
            unknown = isAsBefore ? [] : [.. runs.Except(unknown)];
        }
        if (unknown.Length > 0)
        {
            await using var again = new NpgsqlBatch(connection) { BatchCommands = { Asked(unknown) } };
            await using var reader = await again.ExecuteReaderAsync().ConfigureAwait(false);
            await ReadAsync(reader).ConfigureAwait(false);
        }
        return KnownOwners();

        async Task ReadAsync(NpgsqlDataReader reader)
        {
            while (await reader.ReadAsync().ConfigureAwait(false))
                known.Put(reader.GetInt64(0), reader.GetInt64(1), reader.GetInt64(2));
        }
    }

    Dictionary<long, RunOwner> KnownOwners()
    {
        var owners = new Dictionary<long, RunOwner>(appends.Count);
        foreach (var append in appends)
        {
            if (!owners.ContainsKey(append.Run) && known.Find(append.Run) is var (epoch, last))
                owners[append.Run] = new() { Epoch = epoch, LastSeq = last };
        }
        return owners;
    }

    static NpgsqlBatchCommand Asked(long[] runs)
    {
        var command = new NpgsqlBatchCommand(
            """
            SELECT id, epoch, coalesce((SELECT max(seq) FROM journal WHERE run = id), 0)
            FROM runs WHERE id = ANY ($1)
            """
        );
        command.Parameters.AddWithValue(runs);
        return command;
    }

    async Task<HashSet<string>> TakenAsync(NpgsqlConnection connection)
    {
        var origins = appends.Where(a => a.Seq == 1).Select(a => a.Stored?.OriginKey).OfType<string>().ToArray();
        var keys = appends.SelectMany(a => a.Extras?.Keys ?? []).ToArray();
        if (origins.Length == 0 && keys.Length == 0)
            return [];
        var taken = await connection
            .QueryAsync<string>(
                """
                SELECT 'origin ' || origin_key FROM runs WHERE origin_key = ANY (@origins)
                UNION ALL SELECT 'key ' || key FROM occasions WHERE key = ANY (@keys)
                """,
                new { origins, keys }
            )
            .ConfigureAwait(false);
        return [.. taken];
    }

    // One trip for all of it.
    void AddRows(NpgsqlBatch batch, List<JournalAppend> written, Dictionary<long, RunOwner> owners, string node)
    {
        var taken = written.SelectMany(a => (a.Extras?.Keys ?? []).Select(k => (k, a.Run))).ToList();
        if (taken.Count > 0)
            batch.BatchCommands.Add(BatchCommands.Occasions(taken));
        var audit = written.Select(a => a.Extras?.Audit).OfType<AuditLine>().ToList();
        if (audit.Count > 0)
            batch.BatchCommands.Add(BatchCommands.Audit(audit));
        batch.BatchCommands.Add(BatchCommands.Rows(written));
        var lines = owners.Values.Where(o => o.Stored is not null).ToList();
        if (lines.Count > 0)
            batch.BatchCommands.Add(BatchCommands.Lines(lines, node));
        _news.AddRange(written.SelectMany(News));
        if (_news.Count > 0)
            batch.BatchCommands.Add(BatchCommands.Outbox(_news));
    }

    readonly List<NewsRow> _news = [];

    static IEnumerable<NewsRow> News(JournalAppend append)
    {
        if (append.Stored is { } stored)
        {
            foreach (var kind in append.Notifications)
                yield return new(stored.Id, append.Seq, stored.Chain, kind, stored.State);
        }
    }

    static async Task WriteKeptAsync(NpgsqlConnection connection, List<JournalAppend> written)
    {
        foreach (var kept in written.Select(a => a.Extras?.Kept).OfType<KeptSet>())
            await KeptValues.PutAsync(connection, kept).ConfigureAwait(false);
        foreach (var position in written.SelectMany(a => a.Extras?.Positions ?? []))
            await Positions.PutAsync(connection, position).ConfigureAwait(false);
    }
}
