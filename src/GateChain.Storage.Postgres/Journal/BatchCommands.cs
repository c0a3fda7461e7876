using GateChain.Core.Identity;
using GateChain.Storage.Sql;
using Npgsql;
using NpgsqlTypes;

namespace GateChain.Storage.Postgres;

/// <summary>What is known of a run within a transaction.</summary>
sealed class RunOwner
{
    public long Epoch;
    public long LastSeq;

    /// <summary>Its newest line in lists; null when none has come.</summary>
    public StoredRun? Stored;
}

/// <summary>A row of the outbox.</summary>
sealed record NewsRow(long Run, long Seq, string Chain, RunNotificationKind Kind, string State);

/// <summary>Statements that write many rows at once: their values travel as a list for each column.</summary>
static class BatchCommands
{
    static readonly string[] Kinds = [.. Enum.GetNames<ActorKind>().Select(k => k.ToLowerInvariant())];

    public static NpgsqlBatchCommand Rows(IReadOnlyList<JournalAppend> appends)
    {
        var command = new NpgsqlBatchCommand("INSERT INTO journal (run, seq, body) SELECT * FROM unnest($1, $2, $3)");
        command.Parameters.AddWithValue(appends.Select(a => a.Run).ToArray());
        command.Parameters.AddWithValue(appends.Select(a => a.Seq).ToArray());
        command.Parameters.AddWithValue(NpgsqlDbType.Array | NpgsqlDbType.Bytea, appends.Select(a => a.Body).ToArray());
        return command;
    }

    public static NpgsqlBatchCommand Occasions(IReadOnlyList<(string Key, long Run)> taken)
    {
        var command = new NpgsqlBatchCommand("INSERT INTO occasions (key, run) SELECT * FROM unnest($1, $2)");
        command.Parameters.AddWithValue(taken.Select(t => t.Key).ToArray());
        command.Parameters.AddWithValue(taken.Select(t => t.Run).ToArray());
        return command;
    }

    public static NpgsqlBatchCommand Audit(IReadOnlyList<AuditLine> lines)
    {
        var command = new NpgsqlBatchCommand(
            """
            INSERT INTO audit_aside (at, by_kind, by_id, by_name, action, object, detail, source, through)
            SELECT at, by_kind, by_id, by_name, action, object, detail, source, through
            FROM unnest($1, $2, $3, $4, $5, $6, $7, $8, $9) WITH ORDINALITY
              AS lines (at, by_kind, by_id, by_name, action, object, detail, source, through, place)
            ORDER BY place
            """
        );
        void Texts(Func<AuditLine, string?> of) =>
            command.Parameters.AddWithValue(NpgsqlDbType.Array | NpgsqlDbType.Text, lines.Select(of).ToArray());
        Texts(l => Times.Text(l.At));
        Texts(l => Kinds[(int)l.By.Kind]);
        Texts(l => l.By.Id);
        Texts(l => l.By.Name);
        Texts(l => l.Action);
        Texts(l => l.Object);
        Texts(l => l.Detail);
        Texts(l => l.By.Source);
        Texts(l => l.By.Through);
        return command;
    }

    public static NpgsqlBatchCommand Lines(IReadOnlyList<RunOwner> owners, string node)
    {
        var command = new NpgsqlBatchCommand(
            """
            INSERT INTO runs (id, chain, release, state, leg, by_whom, by_kind, by_id, started, ended, params, error,
              epoch, late, resume_at, parent, parent_step, parent_attempt, origin, origin_key, area, fired_by, owner)
            SELECT *, $23 FROM unnest($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19,
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
        void Numbers(Func<RunOwner, long?> of) =>
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
        command.Parameters.AddWithValue(node);
        return command;
    }

    public static NpgsqlBatchCommand Outbox(IReadOnlyList<NewsRow> news)
    {
        var command = new NpgsqlBatchCommand(
            """
            INSERT INTO outbox_aside (run, seq, chain, kind, state)
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
}
