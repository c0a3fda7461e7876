using System.Data.Common;
using Dapper;
using GateChain.Storage.Sql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Claims runs: raises their epoch. Whoever had one before writes nothing of it any more: what its writers know does
/// not
/// count from here on, and what they are writing at the moment is waited for.
/// </summary>
static class Claims
{
    // Somebody else was first with some of them, and so on.
    const int MostTries = 10;

    /// <summary>Claims runs within a transaction; those that do not fit the condition by then are left out.</summary>
    /// <param name="connection">The transaction's.</param>
    /// <param name="node">Who claims; empty for a service that has all runs.</param>
    /// <param name="runs">Which.</param>
    /// <param name="condition">What has to hold of the line of each, in SQL.</param>
    /// <param name="values">What the condition names.</param>
    public static async Task<IReadOnlyList<RunRow>> TakeAsync(
        DbConnection connection,
        string node,
        IReadOnlyCollection<long> runs,
        string condition = "true",
        object? values = null
    )
    {
        var (claimed, left) = (new List<RunRow>(), runs.ToHashSet());
        for (var i = 0; left.Count > 0 && i < MostTries; i++)
        {
            var parameters = new DynamicParameters(values);
            parameters.Add("node", node);
            parameters.Add("left", left.ToArray());
            var owners = (
                await connection
                    .QueryAsync<string>(
                        $"SELECT DISTINCT owner FROM runs WHERE id = ANY (@left) AND {condition}",
                        parameters
                    )
                    .ConfigureAwait(false)
            ).ToArray();
            if (owners.Length == 0)
                break;
            parameters.Add("owners", owners);
            // Before the runs: writers take the same two in this order.
            await connection
                .ExecuteAsync("UPDATE claims SET taken = taken + 1 WHERE owner = ANY (@owners)", parameters)
                .ConfigureAwait(false);
            var got = await connection
                .QueryAsync<RunRow>(
                    $"""
                    UPDATE runs SET epoch = epoch + 1, owner = @node, let_go = false
                    WHERE id = ANY (@left) AND owner = ANY (@owners) AND {condition} RETURNING {RunRow.Columns}
                    """,
                    parameters
                )
                .ConfigureAwait(false);
            foreach (var run in got)
            {
                claimed.Add(run);
                left.Remove(run.Id);
            }
        }
        return claimed;
    }
}
