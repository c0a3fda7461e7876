using System.Data.Common;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>
/// What a fire takes, and that it is there: within a transaction that is continuing. A journal's writer may prepare the
/// same statements; it binds their values in the order of their names.
/// </summary>
static class Fires
{
    public const string Taken = "SELECT 1 FROM trigger_keys WHERE fired_by = @trigger AND key = @key";

    public const string Passed = "SELECT 1 FROM trigger_states WHERE name = @trigger AND mark >= @mark";

    public const string Take = """
        INSERT INTO trigger_keys (fired_by, key, at) VALUES (@trigger, @key, @at) ON CONFLICT DO NOTHING
        """;

    public const string SetMark = """
        INSERT INTO trigger_states (name, since, mark) VALUES (@trigger, @mark, @mark)
        ON CONFLICT (name) DO UPDATE SET mark = excluded.mark
        WHERE trigger_states.mark IS NULL OR trigger_states.mark < excluded.mark
        """;

    public const string Remember = """
        INSERT INTO trigger_states (name, since, memory) VALUES (@trigger, @at, @memory)
        ON CONFLICT (name) DO UPDATE SET memory = excluded.memory
        """;

    public const string Insert = """
        INSERT INTO fires (fired_by, at, key, event, fate, why, run, backfill)
        VALUES (@trigger, @at, @key, @event, @fate, @why, @run, @backfill)
        """;

    /// <summary>Whether what a fire is for was taken before.</summary>
    public static async Task<bool> IsTakenAsync(DbConnection connection, NewFire fire)
    {
        foreach (var key in fire.Takes)
        {
            var taken = await connection
                .ExecuteScalarAsync<int?>(Taken, new { trigger = fire.Trigger, key })
                .ConfigureAwait(false);
            if (taken is not null)
                return true;
        }
        return fire.Mark is { } mark
            && await connection
                .ExecuteScalarAsync<int?>(Passed, new { trigger = fire.Trigger, mark = Times.Utc(mark) })
                .ConfigureAwait(false)
                is not null;
    }

    /// <summary>Writes a fire that is not taken, and takes what it is for.</summary>
    /// <param name="connection">The transaction's.</param>
    /// <param name="fire">The fire.</param>
    /// <param name="run">The run that it starts; null for none.</param>
    /// <returns>Its number.</returns>
    public static async Task<long> AddAsync(DbConnection connection, NewFire fire, long? run)
    {
        var (trigger, at) = (fire.Trigger, Times.Utc(fire.At));
        await connection
            .ExecuteAsync(
                Take,
                fire.Takes.Select(key => new
                {
                    trigger,
                    key,
                    at,
                })
            )
            .ConfigureAwait(false);
        if (fire.Mark is { } mark)
            await connection.ExecuteAsync(SetMark, new { trigger, mark = Times.Utc(mark) }).ConfigureAwait(false);
        if (fire.Memory is { } memory)
        {
            await connection
                .ExecuteAsync(
                    Remember,
                    new
                    {
                        trigger,
                        at,
                        memory,
                    }
                )
                .ConfigureAwait(false);
        }
        return await connection
            .ExecuteScalarAsync<long>(
                $"{Insert} RETURNING number",
                new
                {
                    trigger,
                    at,
                    key = fire.Key,
                    @event = fire.Event,
                    fate = (int)fire.Fate,
                    why = fire.Why,
                    run,
                    backfill = fire.Backfill,
                }
            )
            .ConfigureAwait(false);
    }

    /// <summary>Tells others of a fire, when there is something to tell: the last thing that a transaction does.
    /// </summary>
    public static async Task TellAsync(DbConnection connection, NewFire fire, long number)
    {
        if (News(fire) is not var (kind, state))
            return;
        await connection
            .ExecuteAsync(
                "INSERT INTO outbox (run, seq, chain, kind, state) VALUES (0, @number, @chain, @kind, @state)",
                new
                {
                    number,
                    chain = fire.Chain,
                    kind = (int)kind,
                    state,
                }
            )
            .ConfigureAwait(false);
    }

    /// <summary>What others are told of a fire; null for nothing.</summary>
    public static (RunNotificationKind Kind, string State)? News(NewFire fire) =>
        fire.Fate switch
        {
            FireFate.Refused => (RunNotificationKind.Refused, "refused"),
            FireFate.Late => (RunNotificationKind.Late, "late"),
            _ => null,
        };
}
