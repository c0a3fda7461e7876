using Dapper;

namespace GateChain.Storage.Sqlite;

/// <summary>What chains keep, in the database file. Thread-safe.</summary>
sealed class KeptValues(SqliteFile file) : IKeptValues
{
    public ValueTask<IReadOnlyDictionary<string, string>> OfAsync(string chain)
    {
        using var connection = file.Open();
        return new(
            connection
                .Query<(string Name, string Value)>(
                    "SELECT name, value FROM kept_values WHERE chain = @chain",
                    new { chain }
                )
                .ToDictionary(v => v.Name, v => v.Value)
        );
    }
}
