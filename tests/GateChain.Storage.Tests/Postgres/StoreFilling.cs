using System.Data.Common;
using System.Globalization;
using System.Text;
using GateChain.Core.Identity;
using GateChain.Core.Retention;
using GateChain.Storage.Sql;
using GateChain.Storage.Tests.Contract;

namespace GateChain.Storage.Tests.Postgres;

/// <summary>Something in every table, and all of it as text.</summary>
static class StoreFilling
{
    static readonly DateTimeOffset At = new(2026, 11, 23, 6, 0, 0, TimeSpan.Zero);
    static readonly Actor Ann = Actor.Person("ann");

    static AuditLine Line(string action, string what) => new(At, Ann, action, what);

    public static async Task FillAsync(SqlStore store)
    {
        await store.Outbox.OpenAsync(["history", "triggers"]);
        var listener = new Listener();
        for (var run = await store.Runs.NextIdAsync(); run <= 30; run = await store.Runs.NextIdAsync())
        {
            StoredRun line = new(
                run,
                run % 2 == 0 ? "milk" : "käse",
                "hash",
                run % 3 == 0 ? "failed" : "running",
                1,
                Ann,
                At.AddMinutes(run),
                run % 3 == 0 ? At.AddHours(run) : null,
                """{ "x": "ä" }""",
                run % 3 == 0 ? "why" : null,
                Late: run % 5 == 0,
                ResumeAt: run % 6 == 0 ? At.AddDays(1) : null,
                Parent: run > 1 ? new(1, "a/b", 2) : null,
                Origin: "call",
                OriginKey: $"call {run}",
                Area: new("sales"),
                Trigger: "nightly"
            );
            for (var seq = 1; seq <= run; seq++)
            {
                store.Journal.Append(
                    new(run, 1, seq, Encoding.UTF8.GetBytes($"{run}/{seq}"), seq == 1 ? line : null, listener)
                    {
                        Notifications = seq == 1 ? [RunNotificationKind.Started] : [],
                        Extras =
                            seq != 1
                                ? null
                                : new([$"key {run}"], new("milk", $"p{run}", run, "{}") { At = At }, Line("start", "x"))
                                {
                                    Positions =
                                    [
                                        new("milk", "", $"n{run}", "7")
                                        {
                                            Run = run,
                                            Step = "a",
                                            At = At,
                                        },
                                    ],
                                    Fire = new("nightly", At, $"time {run}", "{}", FireFate.Started, null)
                                    {
                                        Takes = [$"time {run}"],
                                        Chain = "milk",
                                        Mark = At.AddMinutes(run),
                                        Memory = "seen",
                                    },
                                },
                    }
                );
            }
            Assert.Equal(AppendOutcome.Written, await listener.Outcome(run, run));
        }
        var release = new Release(
            "hash",
            "milk",
            "Milk",
            "chain: milk",
            new Dictionary<string, byte[]> { ["a.sql"] = [1, 0, 2] },
            At
        )
        {
            Places = new Dictionary<string, string> { ["a.sql"] = "sql/a.sql" },
        };
        await store.Catalogue.PushAsync(
            new(
                [release],
                new Dictionary<string, string> { ["lanes.yaml"] = "x: { width: 1 }" },
                Line("push", "x"),
                "n"
            )
        );
        await store.Drafts.SaveAsync(
            new("milk", 0),
            "chain: milk # draft",
            1,
            new Dictionary<string, byte[]> { ["d"] = [0] },
            "ann",
            At
        );
        await store.Secrets.SetAsync(new("wh", new("sales"), "cipher", "ann", At), Line("set", "secret wh"));
        await store.Triggers.SetHoldAsync("sales", new("sales", "ann", At, "why"), Line("hold", "sales"));
        await store.Triggers.SetPlaceAsync("here");
        await store.Backfills.CreateAsync(
            new(0, "nightly", At, At.AddDays(2), "latest", 2, true, false, "ann", At, BackfillState.Running),
            [new(At, At.AddDays(-1)), new(At.AddDays(1), At)],
            Line("backfill", "nightly")
        );
        await store.History.AddAsync([HistoryContract.Leg(3)]);
        await store.Access.SaveAsync(new("a1", "Ann", [], At) { PasswordHash = "h" }, Line("add", "account ann"));
        await store.Access.AddAsync(new AccessToken("t1", "h1", "a1", "x", [], At, null), Line("add", "token"));
        await store.Access.AddAsync(new Session("s1", "a1", At, At, "", ""), Line("add", "session"));
        await store.Access.AddAsync(new OneTimeLink("l1", "a1", At), Line("add", "link"));
        await store.Retention.SetRuleAsync(KeepPlace.OfChain("milk"), new(30, 5, 100), Line("keep", "milk"));
        await store.Retention.PinAsync(new(3, "ann", At, "why"), Line("pin", "run 3"));
        await store.Access.SetAsync("provider", "{}", Line("set", "provider"));
        await store.Audit.SealAsync([(1, "seal")]);
    }

    /// <summary>All rows of all tables, and of the journal of each run.</summary>
    public static async Task<string> TellAsync(SqlStore store)
    {
        var text = new StringBuilder();
        foreach (var table in Tables.All)
        {
            text.AppendLine(table.Name);
            text.AppendLine(await store.Database.ReadAsync(connection => RowsAsync(connection, table)));
        }
        foreach (var run in await store.Runs.ListAsync(new(Limit: 500)))
        {
            await foreach (var row in store.Journal.ReadAsync(run.Id))
            {
                text.Append(run.Id)
                    .Append(' ')
                    .Append(row.Seq)
                    .Append(' ')
                    .AppendLine(Encoding.UTF8.GetString(row.Body));
            }
        }
        return text.ToString();
    }

    static async Task<string> RowsAsync(DbConnection connection, Table table)
    {
        await using var command = connection.CreateCommand();
        command.CommandText = $"SELECT {table.Columns} FROM {table.Name} ORDER BY {table.Order}";
        await using var reader = await command.ExecuteReaderAsync();
        var rows = new List<string>();
        while (await reader.ReadAsync())
            rows.Add(string.Join(" | ", Enumerable.Range(0, reader.FieldCount).Select(i => Cell(reader, i))));
        return string.Join('\n', rows);
    }

    static string Cell(DbDataReader reader, int column) =>
        reader.GetValue(column) switch
        {
            DBNull => "-",
            byte[] bytes => Convert.ToHexString(bytes),
            var value => Convert.ToString(value, CultureInfo.InvariantCulture)!,
        };

    /// <summary>Numbers go on, and what owned a run before the move owns it no more once it is claimed.</summary>
    public static async Task ContinueAsync(IStore store)
    {
        Assert.Equal(31, await store.Runs.NextIdAsync());
        var claim = await store.Ownership.ClaimAsync(1);
        Assert.Equal(2, claim!.Epoch);
        var listener = new Listener();
        store.Journal.Append(
            new(1, 2, 2, [1], claim.Run with { State = "paused" }, listener)
            {
                Notifications = [RunNotificationKind.Paused],
            }
        );
        Assert.Equal(AppendOutcome.Written, await listener.Outcome(1, 2));
        var lines = await store.Audit.ListAsync();
        await store.Audit.AddAsync([Line("test", "x")]);
        Assert.Equal(lines[0].Number + 1, (await store.Audit.ListAsync(new(Most: 1)))[0].Number);
        Assert.NotEmpty(await store.Outbox.ReadAsync(30, 10));
    }
}
