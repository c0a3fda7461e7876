using System.Text.Json;
using Dapper;
using GateChain.Storage.Sql;

namespace GateChain.Storage.Postgres;

/// <summary>The services that share the database, and whose runs are whose. Thread-safe.</summary>
sealed class Nodes(PostgresDatabase database) : INodes
{
    // One of whom nothing is heard for longer is not asked before another one takes its name.
    static readonly TimeSpan NameIsHeld = TimeSpan.FromSeconds(5),
        IsRemembered = TimeSpan.FromDays(1);

    sealed class Row
    {
        public string Id { get; set; } = "";
        public string Name { get; set; } = "";
        public string Address { get; set; } = "";
        public string Labels { get; set; } = "";
        public string Version { get; set; } = "";
        public DateTime Started { get; set; }
        public DateTime Seen { get; set; }
        public double Silent { get; set; }
        public bool OwnsRuns { get; set; }
        public bool Draining { get; set; }
        public DateTime? Left { get; set; }

        static DateTimeOffset Utc(DateTime at) => new(DateTime.SpecifyKind(at, DateTimeKind.Utc));

        public StoredNode ToNode() =>
            new(
                Id,
                Name,
                Address,
                JsonSerializer.Deserialize<string[]>(Labels)!,
                Version,
                Utc(Started),
                Utc(Seen),
                TimeSpan.FromSeconds(Math.Max(0, Silent)),
                OwnsRuns,
                Draining,
                Left is { } left ? Utc(left) : null
            );
    }

    const string Columns =
        "id, name, address, labels, version, started, seen, owns_runs AS ownsRuns, draining, left_at AS left, "
        + "extract(epoch FROM clock_timestamp() - seen)::float8 AS silent";

    public async Task JoinAsync(StoredNode node)
    {
        Row? other = null;
        await database
            .WriteAsync(async connection =>
            {
                await connection
                    .ExecuteAsync(
                        """
                        SELECT pg_advisory_xact_lock('nodes'::regclass::oid::bigint);
                        WITH gone AS (
                          DELETE FROM nodes WHERE seen < clock_timestamp() - @IsRemembered
                            AND NOT EXISTS (SELECT 1 FROM runs WHERE owner = nodes.id AND ended IS NULL)
                          RETURNING id)
                        DELETE FROM claims WHERE owner IN (SELECT id FROM gone)
                        """,
                        new { IsRemembered }
                    )
                    .ConfigureAwait(false);
                other = await connection
                    .QueryFirstOrDefaultAsync<Row>(
                        $"""
                        SELECT {Columns} FROM nodes
                        WHERE name = @Name AND left_at IS NULL AND seen > clock_timestamp() - @NameIsHeld
                        """,
                        new { node.Name, NameIsHeld }
                    )
                    .ConfigureAwait(false);
                if (other is not null)
                    return;
                await connection
                    .ExecuteAsync(
                        """
                        INSERT INTO nodes (id, name, address, labels, version, owns_runs, started, seen)
                        VALUES (@Id, @Name, @Address, @labels, @Version, @OwnsRuns, clock_timestamp(),
                          clock_timestamp())
                        """,
                        new
                        {
                            node.Id,
                            node.Name,
                            node.Address,
                            node.Version,
                            node.OwnsRuns,
                            labels = JsonSerializer.Serialize(node.Labels),
                        }
                    )
                    .ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        if (other is not null)
        {
            throw new StorageException(
                $"there is a node “{node.Name}” already, at {other.Address}: give this one another name (--name)",
                null
            );
        }
    }

    // Not behind what else is written: whoever writes something big is there all the same. Done twice it says the same.
    public async Task<Renewal> RenewAsync(string id, string? leader)
    {
        var (draining, silent) = await database
            .ReadAsync(connection =>
                connection.QuerySingleOrDefaultAsync<(bool, double?)>(
                    """
                    UPDATE nodes SET seen = clock_timestamp() WHERE id = @id RETURNING draining,
                      (SELECT extract(epoch FROM clock_timestamp() - leader.seen)::float8 FROM nodes AS leader
                       WHERE leader.id = @leader AND left_at IS NULL AND NOT draining)
                    """,
                    new { id, leader },
                    commandTimeout: 3
                )
            )
            .ConfigureAwait(false);
        return new(draining, silent is { } seconds ? TimeSpan.FromSeconds(seconds) : null);
    }

    public Task LeaveAsync(string id) =>
        database.WriteAsync(connection =>
            connection.ExecuteAsync("UPDATE nodes SET left_at = clock_timestamp() WHERE id = @id", new { id })
        );

    public Task BuryAsync(string id) =>
        database.WriteAsync(connection =>
            connection.ExecuteAsync(
                "UPDATE nodes SET left_at = clock_timestamp(), buried = true WHERE id = @id AND left_at IS NULL",
                new { id }
            )
        );

    public async ValueTask<IReadOnlyList<StoredNode>> AllAsync()
    {
        var rows = await database
            .ReadAsync(connection =>
                connection.QueryAsync<Row>(
                    $"""
                    SELECT * FROM (SELECT DISTINCT ON (name) {Columns} FROM nodes ORDER BY name, started DESC) AS newest
                    WHERE silent < @most ORDER BY name
                    """,
                    new { most = IsRemembered.TotalSeconds }
                )
            )
            .ConfigureAwait(false);
        return [.. rows.Select(r => r.ToNode())];
    }

    public async Task<bool> DrainAsync(string name, bool on, AuditLine audit)
    {
        var any = 0;
        await database
            .WriteAsync(async connection =>
            {
                any = await connection
                    .ExecuteAsync(
                        "UPDATE nodes SET draining = @on WHERE name = @name AND left_at IS NULL",
                        new { name, on }
                    )
                    .ConfigureAwait(false);
                if (any > 0)
                    await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        return any > 0;
    }

    public ValueTask<string?> OwnerAsync(long run) =>
        database.ReadAsync(connection =>
            connection.ExecuteScalarAsync<string?>(
                "SELECT owner FROM runs WHERE id = @run AND NOT let_go AND owner <> ''",
                new { run }
            )
        );

    public async ValueTask<IReadOnlyDictionary<string, int>> OwnedAsync()
    {
        var counts = await database
            .ReadAsync(connection =>
                connection.QueryAsync<(string Owner, int Count)>(
                    "SELECT owner, count(*)::int FROM runs WHERE ended IS NULL AND NOT let_go GROUP BY owner"
                )
            )
            .ConfigureAwait(false);
        return counts.ToDictionary(c => c.Owner, c => c.Count);
    }

    // Whoever is listed and silent for too long is none of those who are there.
    const string OfNobody = """
        ended IS NULL AND (let_go OR owner NOT IN (
          SELECT id FROM nodes WHERE left_at IS NULL AND id = ANY (@living)
            AND (id = @id OR seen > clock_timestamp() - @silent)))
        """;

    public async Task<IReadOnlyList<Orphan>> ClaimOrphansAsync(
        string id,
        IReadOnlyCollection<string> living,
        TimeSpan silent,
        int most
    )
    {
        IEnumerable<(long Run, string Owner, double? Silent)> from = [];
        IReadOnlyList<RunRow> claimed = [];
        var values = new
        {
            id,
            living = living.ToArray(),
            silent,
        };
        await database
            .WriteAsync(async connection =>
            {
                // Of one that has ended in good order, or has let it go, nothing is at work any more.
                from = await connection
                    .QueryAsync<(long, string, double?)>(
                        $"""
                        SELECT runs.id, owner, CASE WHEN NOT let_go THEN
                          (SELECT extract(epoch FROM clock_timestamp() - seen)::float8 FROM nodes
                           WHERE nodes.id = owner AND (left_at IS NULL OR buried)) END
                        FROM runs WHERE {OfNobody} ORDER BY runs.id LIMIT {most}
                        """,
                        values
                    )
                    .ConfigureAwait(false);
                claimed = await Claims
                    .TakeAsync(connection, id, [.. from.Select(f => f.Run)], OfNobody, values)
                    .ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        var owners = from.ToDictionary(f => f.Run);
        return
        [
            .. claimed
                .OrderBy(r => r.Id)
                .Select(r => new Orphan(
                    new(r.ToStoredRun(), r.Epoch),
                    owners[r.Id].Owner is { Length: > 0 } owner ? owner : null,
                    owners[r.Id].Silent is { } seconds ? TimeSpan.FromSeconds(seconds) : null
                )),
        ];
    }

    public ValueTask<int> OrphansAsync(IReadOnlyCollection<string> living, TimeSpan silent) =>
        database.ReadAsync(connection =>
            connection.ExecuteScalarAsync<int>(
                $"SELECT count(*)::int FROM runs WHERE {OfNobody}",
                new
                {
                    id = "",
                    living = living.ToArray(),
                    silent,
                }
            )
        );

    public async Task<IReadOnlyList<Claim>> ClaimAgainAsync(string id, IReadOnlyCollection<long> runs)
    {
        IReadOnlyList<RunRow> claimed = [];
        await database
            .WriteAsync(async connection =>
                claimed = await Claims
                    .TakeAsync(connection, id, runs, "ended IS NULL AND owner = @id", new { id })
                    .ConfigureAwait(false)
            )
            .ConfigureAwait(false);
        return [.. claimed.OrderBy(r => r.Id).Select(r => new Claim(r.ToStoredRun(), r.Epoch))];
    }

    public Task ForgetSilentAsync() =>
        database.WriteAsync(connection =>
            connection.ExecuteAsync(
                $"""
                DELETE FROM outbox_cursors WHERE consumer LIKE '{INodes.Consumer}%' AND
                  substr(consumer, {INodes.Consumer.Length + 1}) NOT IN (
                    SELECT id FROM nodes WHERE left_at IS NULL AND seen > clock_timestamp() - interval '1 minute')
                """
            )
        );

    public async Task<bool> LetGoAsync(long run, long epoch)
    {
        var any = 0;
        await database
            .WriteAsync(async connection =>
                any = await connection
                    .ExecuteAsync(
                        "UPDATE runs SET let_go = true WHERE id = @run AND epoch = @epoch",
                        new { run, epoch }
                    )
                    .ConfigureAwait(false)
            )
            .ConfigureAwait(false);
        return any > 0;
    }
}
