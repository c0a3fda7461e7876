using System.Data.Common;
using Dapper;
using GateChain.Core.Identity;

namespace GateChain.Storage.Sql;

/// <summary>The audit log in the database file. Thread-safe.</summary>
sealed class AuditLog(ISqlDatabase database) : IAuditLog
{
    sealed class Row
    {
        public long Number { get; set; }
        public string At { get; set; } = "";
        public string ByKind { get; set; } = "";
        public string ById { get; set; } = "";
        public string ByName { get; set; } = "";
        public string Action { get; set; } = "";
        public string Object { get; set; } = "";
        public string? Detail { get; set; }
        public string? Source { get; set; }
        public string? Through { get; set; }
        public string? Seal { get; set; }

        public AuditEntry ToEntry() =>
            new(
                Number,
                new(
                    Times.Of(At),
                    // A kind that somebody has written in by hand is told by the seals, not by an error.
                    new(Enum.TryParse<ActorKind>(ByKind, ignoreCase: true, out var kind) ? kind : default, ById, ByName)
                    {
                        Source = Source,
                        Through = Through,
                    },
                    Action,
                    Object,
                    Detail
                ),
                Seal
            );
    }

    const string Columns = """
        audit.number, at, by_kind AS byKind, by_id AS byId, by_name AS byName, action, object, detail, source, through,
        audit_seals.hash AS seal
        """;

    const string Lines = $"SELECT {Columns} FROM audit LEFT JOIN audit_seals ON audit_seals.number = audit.number";

    public async ValueTask<IReadOnlyList<AuditEntry>> ListAsync(AuditQuery? query = null)
    {
        query ??= new();
        var conditions = new List<string>();
        void If(bool asked, string condition)
        {
            if (asked)
                conditions.Add(condition);
        }
        If(query.Before is not null, "audit.number < @Before");
        If(query.By is not null, "by_name = @By");
        If(query.Action is not null, "action = @Action");
        If(query.Object is not null, "object = @Object");
        If(query.From is not null, "at >= @from");
        If(query.To is not null, "at < @to");
        If(
            query.Text is not null,
            "(lower(object) LIKE lower(@pattern) ESCAPE '!' OR lower(detail) LIKE lower(@pattern) ESCAPE '!')"
        );
        return await ReadAsync(
                $"{Lines} WHERE {string.Join(" AND ", conditions.DefaultIfEmpty("1 = 1"))} "
                    + "ORDER BY audit.number DESC LIMIT @most",
                new
                {
                    query.Before,
                    query.By,
                    query.Action,
                    query.Object,
                    pattern = Patterns.Holding(query.Text),
                    from = query.From is { } from ? Times.Utc(from) : null,
                    to = query.To is { } to ? Times.Utc(to) : null,
                    most = Math.Clamp(query.Most, 1, 1_000),
                }
            )
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<AuditEntry>> AfterAsync(long after, int most) =>
        await ReadAsync(
                $"{Lines} WHERE audit.number > @after ORDER BY audit.number LIMIT @most",
                new { after, most = Math.Clamp(most, 1, 10_000) }
            )
            .ConfigureAwait(false);

    async Task<IReadOnlyList<AuditEntry>> ReadAsync(string sql, object values)
    {
        await database.GivePlacesAsync().ConfigureAwait(false);
        return await database
            .ReadAsync<IReadOnlyList<AuditEntry>>(async connection =>
            {
                return
                [
                    .. (await connection.QueryAsync<Row>(sql, values).ConfigureAwait(false)).Select(r => r.ToEntry()),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<(long Number, string Seal)> LastSealAsync()
    {
        return await database
            .ReadAsync<(long Number, string Seal)>(async connection =>
            {
                return (
                    await connection
                        .QueryAsync<(long, string)>("SELECT number, hash FROM audit_seals ORDER BY number DESC LIMIT 1")
                        .ConfigureAwait(false)
                ).SingleOrDefault((0, ""));
            })
            .ConfigureAwait(false);
    }

    public Task SealAsync(IReadOnlyList<(long Number, string Seal)> seals) =>
        database.WriteAsync(async connection =>
        {
            foreach (var (number, seal) in seals)
            {
                await connection
                    .ExecuteAsync(
                        "INSERT INTO audit_seals (number, hash) VALUES (@number, @seal)",
                        new { number, seal }
                    )
                    .ConfigureAwait(false);
            }
        });

    public Task AddAsync(IReadOnlyList<AuditLine> lines) =>
        database.WriteAsync(async connection =>
        {
            foreach (var line in lines)
                await AddAsync(connection, line).ConfigureAwait(false);
        });

    /// <summary>Adds a line; the journal's writer prepares the same one and binds its values in this order.</summary>
    internal const string Insert = """
        INSERT INTO audit (at, by_kind, by_id, by_name, action, object, detail, source, through)
        VALUES (@at, @kind, @Id, @Name, @Action, @Object, @Detail, @Source, @Through)
        """;

    /// <summary>Adds a line within a transaction that is continuing.</summary>
    internal static Task AddAsync(DbConnection connection, AuditLine line) =>
        connection.ExecuteAsync(
            Insert,
            new
            {
                at = Times.Text(line.At),
                kind = line.By.Kind.ToString().ToLowerInvariant(),
                line.By.Id,
                line.By.Name,
                line.Action,
                line.Object,
                line.Detail,
                line.By.Source,
                line.By.Through,
            }
        );
}
