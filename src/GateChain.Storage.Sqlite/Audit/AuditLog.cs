using Dapper;
using GateChain.Core.Identity;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>The audit log in the database file. Thread-safe.</summary>
sealed class AuditLog(SqliteFile file) : IAuditLog
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

        public AuditEntry ToEntry() =>
            new(
                Number,
                new(
                    Times.Of(At),
                    new(Enum.Parse<ActorKind>(ByKind, ignoreCase: true), ById, ByName),
                    Action,
                    Object,
                    Detail
                )
            );
    }

    public ValueTask<IReadOnlyList<AuditEntry>> ListAsync(long? before = null, int most = 100)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>(
                    """
                    SELECT number, at, by_kind AS byKind, by_id AS byId, by_name AS byName, action, object, detail
                    FROM audit WHERE @before IS NULL OR number < @before ORDER BY number DESC LIMIT @most
                    """,
                    new { before, most = Math.Clamp(most, 1, 500) }
                )
                .Select(r => r.ToEntry()),
        ]);
    }

    /// <summary>Adds a line; the journal's writer prepares the same one and binds its values in this order.</summary>
    internal const string Insert = """
        INSERT OR FAIL INTO audit (at, by_kind, by_id, by_name, action, object, detail)
        VALUES (@at, @kind, @Id, @Name, @Action, @Object, @Detail)
        """;

    /// <summary>Adds a line within a transaction that is continuing.</summary>
    internal static void Add(SqliteConnection connection, AuditLine line) =>
        connection.Execute(
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
            }
        );
}
