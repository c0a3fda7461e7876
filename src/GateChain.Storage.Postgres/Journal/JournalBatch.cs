using Dapper;
using GateChain.Core.Identity;
using GateChain.Storage.Sql;
using Npgsql;
using NpgsqlTypes;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Decisions of several runs that are written in one transaction. It takes the rows of the runs in the order of their
/// numbers first, so that nobody claims one meanwhile, and leaves out what has another owner by now.
/// </summary>
sealed class JournalBatch(IReadOnlyList<JournalAppend> appends)
{
    static readonly string[] Kinds = [.. Enum.GetNames<ActorKind>().Select(k => k.ToLowerInvariant())];

    // What became of an earlier try is not known: its answer may have got lost behind the commit.
    bool _unsure;

    /// <summary>What became of each append, once it is written.</summary>
    public AppendOutcome[] Outcomes { get; } = new AppendOutcome[appends.Count];

    /// <summary>What is known of a run within the transaction.</summary>
    sealed class Owner
    {
        public long Epoch;
        public long LastSeq;

        /// <summary>Its newest line in lists; null when none has come.</summary>
        public StoredRun? Stored;
    }

    /// <summary>Tries once.</summary>
    /// <param name="database">Where.</param>
    /// <param name="withCursors">Whether it also writes how far the outbox's consumers have got.</param>
    public async Task WriteAsync(PostgresDatabase database, bool withCursors)
    {
        await using var connection = await database.ConnectAsync().ConfigureAwait(false);
        await using var transaction = await connection.BeginTransactionAsync().ConfigureAwait(false);
        var owners = await OwnersAsync(connection).ConfigureAwait(false);
        var taken = await TakenAsync(connection).ConfigureAwait(false);
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
        if (written.Count > 0)
        {
            await WriteExtrasAsync(connection, written).ConfigureAwait(false);
            await WriteRowsAsync(connection, written, owners).ConfigureAwait(false);
        }
        if (withCursors)
            await database.Cursors.WriteAsync(connection).ConfigureAwait(false);
        _unsure = true;
        await transaction.CommitAsync().ConfigureAwait(false);
        _unsure = false;
        if (withCursors)
            database.Cursors.Committed();
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
        Dictionary<long, Owner> owners,
        HashSet<string> taken
    )
    {
        var known = owners.TryGetValue(append.Run, out var owner);
        // The first row registers the run.
        var first = append is { Seq: 1, Stored: not null } && !known;
        if (!first && (!known || owner!.Epoch != append.Epoch))
            return Verdict.Fenced;
        // Only its owner writes rows of an epoch: what is there of this one is what an earlier try has written.
        if (!first && append.Seq <= owner!.LastSeq)
            return _unsure ? Verdict.WasWritten : Verdict.Fenced;
        if (first && append.Stored!.OriginKey is { } origin && !taken.Add("origin " + origin))
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
        if (first)
            owners[append.Run] = owner = new() { Epoch = append.Epoch };
        owner!.LastSeq = append.Seq;
        owner.Stored = append.Stored ?? owner.Stored;
        return Verdict.Write;
    }

    async Task<Dictionary<long, Owner>> OwnersAsync(NpgsqlConnection connection)
    {
        await using var command = new NpgsqlCommand(
            """
            SELECT id, epoch, coalesce((SELECT max(seq) FROM journal WHERE run = id), 0) FROM runs
            WHERE id = ANY ($1) ORDER BY id FOR NO KEY UPDATE
            """,
            connection
        );
        command.Parameters.AddWithValue(appends.Select(a => a.Run).Distinct().ToArray());
        await using var reader = await command.ExecuteReaderAsync().ConfigureAwait(false);
        var owners = new Dictionary<long, Owner>();
        while (await reader.ReadAsync().ConfigureAwait(false))
        {
            owners[reader.GetInt64(0)] = new() { Epoch = reader.GetInt64(1), LastSeq = reader.GetInt64(2) };
        }
        return owners;
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

    async Task WriteRowsAsync(NpgsqlConnection connection, List<JournalAppend> written, Dictionary<long, Owner> owners)
    {
        await using var batch = new NpgsqlBatch(connection);
        var rows = new NpgsqlBatchCommand("INSERT INTO journal (run, seq, body) SELECT * FROM unnest($1, $2, $3)");
        rows.Parameters.AddWithValue(written.Select(a => a.Run).ToArray());
        rows.Parameters.AddWithValue(written.Select(a => a.Seq).ToArray());
        rows.Parameters.AddWithValue(NpgsqlDbType.Array | NpgsqlDbType.Bytea, written.Select(a => a.Body).ToArray());
        batch.BatchCommands.Add(rows);
        var lines = owners.Values.Where(o => o.Stored is not null).ToList();
        if (lines.Count > 0)
            batch.BatchCommands.Add(Lines(lines));
        // The last thing: whoever adds news waits for who did before, until that one's commit.
        _news.AddRange(written.SelectMany(News));
        if (_news.Count > 0)
            batch.BatchCommands.Add(Outbox(_news));
        await batch.ExecuteNonQueryAsync().ConfigureAwait(false);
    }

    static NpgsqlBatchCommand Lines(List<Owner> owners)
    {
        var command = new NpgsqlBatchCommand(
            """
            INSERT INTO runs (id, chain, release, state, leg, by_whom, by_kind, by_id, started, ended, params, error,
              epoch, late, resume_at, parent, parent_step, parent_attempt, origin, origin_key, area, fired_by)
            SELECT * FROM unnest($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19,
              $20, $21, $22)
            ON CONFLICT (id) DO UPDATE SET state = excluded.state, leg = excluded.leg, ended = excluded.ended,
              error = excluded.error, params = excluded.params, late = excluded.late, resume_at = excluded.resume_at,
              release = excluded.release
            """
        );
        void Texts(Func<StoredRun, string?> of) =>
            command.Parameters.AddWithValue(
                NpgsqlDbType.Array | NpgsqlDbType.Text,
                owners.Select(o => of(o.Stored!)).ToArray()
            );
        void Numbers(Func<Owner, long?> of) =>
            command.Parameters.AddWithValue(NpgsqlDbType.Array | NpgsqlDbType.Bigint, owners.Select(of).ToArray());
        Numbers(o => o.Stored!.Id);
        Texts(s => s.Chain);
        Texts(s => s.Release);
        Texts(s => s.State);
        Numbers(o => o.Stored!.Leg);
        Texts(s => s.By.Name);
        Texts(s => Kinds[(int)s.By.Kind]);
        Texts(s => s.By.Id);
        Texts(s => Times.Text(s.Started));
        Texts(s => s.Ended is { } ended ? Times.Text(ended) : null);
        Texts(s => s.Params);
        Texts(s => s.Error);
        Numbers(o => o.Epoch);
        Numbers(o => o.Stored!.Late ? 1 : 0);
        Texts(s => s.ResumeAt is { } again ? Times.Text(again) : null);
        Numbers(o => o.Stored!.Parent?.Run);
        Texts(s => s.Parent?.Step);
        Numbers(o => o.Stored!.Parent?.Attempt);
        Texts(s => s.Origin);
        Texts(s => s.OriginKey);
        Texts(s => s.Area.Path);
        Texts(s => s.Trigger);
        return command;
    }

    readonly List<NewsRow> _news = [];

    sealed record NewsRow(long Run, long Seq, string Chain, RunNotificationKind Kind, string State);

    static IEnumerable<NewsRow> News(JournalAppend append)
    {
        if (append.Stored is { } stored)
        {
            foreach (var kind in append.Notifications)
                yield return new(stored.Id, append.Seq, stored.Chain, kind, stored.State);
        }
    }

    static NpgsqlBatchCommand Outbox(List<NewsRow> news)
    {
        var command = new NpgsqlBatchCommand(
            """
            INSERT INTO outbox (run, seq, chain, kind, state)
            SELECT run, seq, chain, kind, state
            FROM unnest($1, $2, $3, $4, $5) WITH ORDINALITY AS news (run, seq, chain, kind, state, place) ORDER BY place
            """
        );
        command.Parameters.AddWithValue(news.Select(n => n.Run).ToArray());
        command.Parameters.AddWithValue(news.Select(n => n.Seq).ToArray());
        command.Parameters.AddWithValue(news.Select(n => n.Chain).ToArray());
        command.Parameters.AddWithValue(news.Select(n => (long)n.Kind).ToArray());
        command.Parameters.AddWithValue(news.Select(n => n.State).ToArray());
        return command;
    }

    static async Task WriteExtrasAsync(NpgsqlConnection connection, List<JournalAppend> written)
    {
        foreach (var append in written)
        {
            if (append.Extras is not { } extras)
                continue;
            foreach (var key in extras.Keys)
            {
                await connection
                    .ExecuteAsync("INSERT INTO occasions (key, run) VALUES (@key, @run)", new { key, run = append.Run })
                    .ConfigureAwait(false);
            }
            if (extras.Kept is { } kept)
                await KeptValues.PutAsync(connection, kept).ConfigureAwait(false);
            if (extras.Audit is { } line)
                await AuditLog.AddAsync(connection, line).ConfigureAwait(false);
        }
    }
}
