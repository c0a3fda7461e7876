namespace GateChain.Storage.Sql;

/// <summary>A table that every store has, with the columns that it has everywhere.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Columns">Its columns.</param>
/// <param name="Order">The columns by which its rows are in order.</param>
sealed record Table(string Name, string Columns, string Order);

/// <summary>
/// What stores hold in tables, the journal apart: each table after those that it refers to.
/// </summary>
static class Tables
{
    public static IReadOnlyList<Table> All { get; } =
    [
        new("releases", "hash, chain, title, source, pushed", "hash"),
        new("release_files", "release, name, content, place", "release, name"),
        new("chains", "name, release, area, retired, retired_by, retired_why", "name"),
        new("numbered_releases", "chain, number, release, note, author, made, action", "chain, number"),
        new("drafts", "chain, version, source, base, author, saved, area", "chain, version"),
        new("draft_files", "chain, name, content", "chain, name"),
        new("files", "path, version, author, at, content, action", "path, version"),
        new("secrets", "name, area, cipher, author, changed", "name"),
        new("kept_sets", "chain, profile, version, content, run, by_whom, at", "chain, profile"),
        new("positions", "chain, profile, name, content, run, step, by_whom, at", "chain, profile, name"),
        new("occasions", "key, run", "key"),
        new("trigger_keys", "fired_by, key, at", "fired_by, key"),
        new("trigger_states", "name, is_on, file_says, since, by_whom, switched, mark, text, memory", "name"),
        new("holds", "area, by_whom, at, why", "area"),
        new("place", "\"only\", place", "\"only\""),
        new(
            "backfills",
            "number, fired_by, first, until, release, parallel, newest_first, keeps, by_whom, at, state",
            "number"
        ),
        new("backfill_times", "backfill, place, due, since", "backfill, place"),
        new("fires", "number, fired_by, at, key, event, fate, why, run, backfill", "number"),
        new("history_shapes", "id, addresses", "id"),
        new(
            "history",
            "run, leg, chain, number, state, started, ended, late, source, latest, shape, steps, area",
            "run, leg"
        ),
        new("accounts", "id, name, outside, body", "id"),
        new("access_tokens", "id, hash, account, body, used", "id"),
        new("sessions", "hash, account, body, seen", "hash"),
        new("one_time_links", "hash, account, expires", "hash"),
        new("access_settings", "name, value", "name"),
        new("audit", "number, at, by_kind, by_id, by_name, action, object, detail, source, through", "number"),
        new("audit_seals", "number, hash", "number"),
        new("keep_rules", "place, days, at_least, at_most", "place"),
        new("pins", "run, by_whom, at, why", "run"),
        new("outbox_cursors", "consumer, position", "consumer"),
        new("outbox", "position, run, seq, chain, kind, state", "position"),
        new(
            "runs",
            "id, chain, release, state, leg, by_whom, by_kind, by_id, started, ended, params, error, epoch, late, "
                + "resume_at, parent, parent_step, parent_attempt, origin, origin_key, area, fired_by",
            "id"
        ),
    ];
}
