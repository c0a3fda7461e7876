using GateChain.Core.Running.Events;
using GateChain.Kinds.Connections;

namespace GateChain.Kinds.Databases;

/// <summary>The databases this version knows.</summary>
static class Dialects
{
    public static IReadOnlyList<Dialect> All { get; } =
    [new SqliteDialect(), new PostgreSqlDialect(), new MySqlDialect(), new SqlServerDialect(), new DuckDbDialect()];

    public static Dialect? Find(string type) => All.FirstOrDefault(d => d.Type == type);

    /// <summary>How a failure is told, whichever database it is of; null for one of something else.</summary>
    public static StepError? Error(Exception e, string? connection) =>
        All.Select(d => d.Error(e, connection ?? "")).FirstOrDefault(known => known is not null);

    public static ConnectionType TypeOf(Dialect dialect) =>
        new(
            dialect.Type,
            dialect.Doc,
            dialect.Settings,
            async (connection, use, cancel) =>
            {
                await using var open = await dialect.OpenAsync(connection, use, _ => { }, cancel).ConfigureAwait(false);
                await using var command = open.CreateCommand();
                command.CommandText = dialect.VersionQuery;
                return (await command.ExecuteScalarAsync(cancel).ConfigureAwait(false))?.ToString() ?? "";
            },
            e => dialect.Error(e, "it")?.Message
        );
}
