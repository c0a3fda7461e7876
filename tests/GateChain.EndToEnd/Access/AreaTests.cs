using System.Text;
using GateChain.Client;

namespace GateChain.EndToEnd.Access;

/// <summary>Somebody of one area sees nothing of another, by no way, and leaves theirs by none.</summary>
public sealed class AreaTests(TeamFixture fixture) : IClassFixture<TeamFixture>
{
    readonly Team _team = fixture.Team;

    [Fact]
    public async Task NothingOfAnotherAreaIsInAnyListSearchOrCount()
    {
        using var bob = await _team.AddAsync("bob1", "designer:sales", "keeper:sales");
        string[] places =
        [
            "/api/chains",
            "/api/runs",
            "/api/runs?chain=finance-day",
            "/api/runs?text=finance-private",
            "/api/runs?trigger=finance-nightly",
            "/api/home",
            "/api/files",
            "/api/connections",
            "/api/secrets",
            "/api/profiles",
            "/api/lanes",
            "/api/triggers",
            "/api/triggers/files",
            "/api/triggers/week",
            "/api/fires",
            "/api/fires?trigger=finance-nightly",
            "/api/holds",
            "/api/backfills",
            "/api/broken",
            "/api/workspace",
            "/api/design/surroundings/sales-day",
            "/api/chains/sales-day/uses",
            $"/api/runs?parent={_team.Runs["finance"]}",
            "/health",
        ];
        foreach (var place in places)
        {
            var (status, text) = await Team.AskAsync(bob, "GET", place);
            Assert.True(status == 200, $"{place}: {status} {text}");
            Assert.False(text.Contains("finance", StringComparison.OrdinalIgnoreCase), $"{place}: {text}");
        }
        // It is not empty for them, and whole for who sees all.
        Assert.Contains("sales-day", (await Team.AskAsync(bob, "GET", "/api/chains")).Text);
        Assert.Contains("finance-day", (await Team.AskAsync(_team.Ann, "GET", "/api/chains")).Text);
        var home = Team.Json((await Team.AskAsync(bob, "GET", "/api/home")).Text);
        var ended = home.GetProperty("hours").EnumerateArray().Sum(h => h.GetProperty("succeeded").GetInt32());
        var all = Team.Json((await Team.AskAsync(_team.Ann, "GET", "/api/home")).Text);
        // Beside those of finance, which count for who sees them.
        Assert.InRange(
            ended,
            1,
            all.GetProperty("hours").EnumerateArray().Sum(h => h.GetProperty("succeeded").GetInt32()) - 1
        );
    }

    [Fact]
    public async Task WhatIsElsewhereIsToldAsWhatIsNotThere()
    {
        using var bob = await _team.AddAsync("bob2", "designer:sales", "keeper:sales");
        var run = _team.Runs["finance"];
        (string There, string Nowhere)[] pairs =
        [
            ($"/api/runs/{run}", "/api/runs/999"),
            ($"/api/runs/{run}/step?path=say", "/api/runs/999/step?path=say"),
            ($"/api/runs/{run}/log?path=ask", "/api/runs/999/log?path=ask"),
            ("/api/chains/finance-day", "/api/chains/none"),
            ("/api/chains/finance-day/draft", "/api/chains/none/draft"),
            ("/api/files/content?path=finance/finance.sql", "/api/files/content?path=none/none.sql"),
        ];
        foreach (var (there, nowhere) in pairs)
        {
            var (status, text) = await Team.AskAsync(bob, "GET", there);
            var (other, same) = await Team.AskAsync(bob, "GET", nowhere);
            Assert.Equal((404, 404), (status, other));
            string Plain(string t, string id) =>
                Team.Json(t).GetProperty("detail").GetString()!.Replace(id, "X", StringComparison.Ordinal);
            Assert.Equal(
                Plain(
                    same,
                    nowhere.Contains("runs") ? "999"
                        : nowhere.Contains("none.sql") ? "none/none.sql"
                        : "none"
                ),
                Plain(
                    text,
                    there.Contains("runs") ? $"{run}"
                        : there.Contains("sql") ? "finance/finance.sql"
                        : "finance-day"
                )
            );
        }
    }

    [Fact]
    public async Task TricksWithPathsLeadNowhere()
    {
        using var bob = await _team.AddAsync("bob3", "designer:sales", "keeper:sales");
        string[] tricks =
        [
            "/api/files/content?path=sales/../finance/connections.yaml",
            "/api/files/content?path=sales%2F..%2Ffinance%2Fconnections.yaml",
            "/api/files/content?path=sales//../finance/connections.yaml",
            "/api/files/content?path=./finance/connections.yaml",
            "/api/files/content?path=sales%5C..%5Cfinance%5Cconnections.yaml",
            "/api/files/download?path=sales/..%00/finance/connections.yaml",
            "/api/files/content?path=sales/a&path=finance/connections.yaml",
            "/api/chains/sales-day%2F..%2Ffinance-day",
            "/api/chains/sales-day/../finance-day",
            "/api/chains/..%2Fchains%2Ffinance-day",
            $"/api/runs/{_team.Runs["sales"]}/../{_team.Runs["finance"]}",
            $"/api/runs/{_team.Runs["sales"]}%2F..%2F{_team.Runs["finance"]}",
            $"/api/runs/0{_team.Runs["finance"]}",
            $"/api/runs/+{_team.Runs["finance"]}",
            "/api//chains/finance-day",
            "/API/chains/finance-day",
        ];
        foreach (var trick in tricks)
        {
            var (status, text) = await Team.AskAsync(bob, "GET", trick);
            Assert.True(status is 400 or 404 or 405, $"{trick}: {status} {text}");
            Assert.DoesNotContain("finance-private", text);
        }
        foreach (var folder in (string[])["sales/../finance", "../finance", "/finance", "finance"])
        {
            var (status, text) = await Team.AskAsync(
                bob,
                "PUT",
                "/api/holds",
                new StartHoldRequest(true, folder, "mine")
            );
            Assert.True(status is 404 or 422, $"{folder}: {status} {text}");
        }
    }

    [Fact]
    public async Task AnAreaIsLeftByNoCallTriggerConnectionAttachmentOrWait()
    {
        using var bob = await _team.AddAsync("bob4", "designer:sales", "keeper:sales");
        (string What, string Path, string Text, string Told)[] ways =
        [
            (
                "a call",
                "sales/a.chain.yaml",
                "chain: a\nsteps:\n  go: { kind: call, chain: finance-day }\n",
                "there is no chain “finance-day”"
            ),
            (
                "a trigger",
                "sales/triggers.yaml",
                "mine:\n  chain: finance-day\n  schedule: { cron: '0 3 * * *', zone: UTC }\n",
                "there is no chain “finance-day”"
            ),
            (
                "a connection",
                "sales/b.chain.yaml",
                "chain: b\nsteps:\n  go: { kind: sql, set: { connection: finance-db, query: select 1 } }\n",
                "finance-db"
            ),
            (
                "an attachment",
                "sales/c.chain.yaml",
                "chain: c\nsteps:\n  go:\n    kind: sql\n"
                    + "    set: { connection: sales-db, query: { file: ../finance/finance.sql } }\n",
                "finance.sql"
            ),
        ];
        foreach (var (what, path, text, told) in ways)
        {
            var (status, answer) = await Team.PushAsync(
                bob,
                (path, text),
                ("sales/connections.yaml", "sales-db: { type: sqlite, path: sales.db }\n")
            );
            Assert.True(status == 422, $"{what}: {status} {answer}");
            Assert.Contains(told, answer);
        }
        // Of a step that waits for a run by its number.
        Assert.Equal(
            200,
            (
                await Team.PushAsync(
                    bob,
                    (
                        "sales/spy.chain.yaml",
                        "chain: spy\nparams: { run: { type: int } }\nsteps:\n"
                            + "  see: { kind: wait, set: { runs: '${[params.run]}' } }\n"
                            + "outputs: { seen: steps.see.outcomes }\n"
                    )
                )
            ).Status
        );
        var (_, begun) = await Team.AskAsync(
            bob,
            "POST",
            "/api/runs",
            new { chain = "spy", @params = new { run = _team.Runs["finance"] } }
        );
        var spied = await Team.EndAsync(bob, Team.Json(begun).GetProperty("id").GetInt64());
        Assert.Contains($"there is no run {_team.Runs["finance"]}", spied);
        Assert.DoesNotContain("finance-private", spied);
    }

    [Fact]
    public async Task AChainThatMayBeCalledGivesItsOutputsAndNothingElse()
    {
        // The laboratory lets sales call its chain; the child works with its own.
        var (status, text) = await Team.PushAsync(
            _team.Ann,
            (
                "lab/lab-day.chain.yaml",
                "chain: lab-day\ncallable: [sales]\nsteps:\n"
                    + "  ask: { kind: sql, set: { connection: lab-db, query: \"select 41 + 1 as n\", give: rows } }\n"
                    + "outputs: { n: 'steps.ask.rows[0].n' }\n"
            ),
            ("lab/connections.yaml", "lab-db: { type: sqlite, path: lab.db }\n"),
            (
                "sales/asks.chain.yaml",
                "chain: asks\nsteps:\n  go: { kind: call, chain: lab-day }\noutputs: { n: steps.go.n }\n"
            )
        );
        Assert.True(status == 200, text);
        using var bob = await _team.AddAsync("bob5", "operator:sales");
        var (_, begun) = await Team.AskAsync(bob, "POST", "/api/runs", new { chain = "asks" });
        var run = Team.Json(begun).GetProperty("id").GetInt64();
        var whole = await Team.EndAsync(bob, run);
        Assert.Contains("succeeded", whole);
        Assert.Contains("42", whole);
        var child = run + 1;
        foreach (
            var path in (string[])
                [
                    $"/api/runs/{child}",
                    $"/api/runs/{child}/log?path=ask",
                    $"/api/runs/{child}/log/file?path=ask",
                    $"/api/runs/{child}/step?path=ask",
                    $"/api/runs/{child}/live",
                    $"/api/runs/{child}/trail",
                ]
        )
        {
            Assert.Equal(404, (await Team.AskAsync(bob, "GET", path)).Status);
        }
        Assert.Equal(404, (await Team.AskAsync(bob, "POST", $"/api/runs/{child}/stop", "{}")).Status);
        Assert.Equal(200, (await Team.AskAsync(_team.Ann, "GET", $"/api/runs/{child}")).Status);
        // Who sees the child and not its caller is not told who called it.
        using var lea = await _team.AddAsync("lea", "viewer:lab");
        var (_, seen) = await Team.AskAsync(lea, "GET", $"/api/runs/{child}");
        Assert.Equal(System.Text.Json.JsonValueKind.Null, Team.Json(seen).GetProperty("parent").ValueKind);
        Assert.DoesNotContain("asks", seen);
        // What goes wrong inside is not the caller's business, nor are its steps.
        (status, text) = await Team.PushAsync(
            _team.Ann,
            (
                "lab/lab-day.chain.yaml",
                "chain: lab-day\ncallable: [sales]\nsteps:\n"
                    + "  ask: { kind: sql, set: { connection: lab-db, query: \"select n from private_table\" } }\n"
                    + "outputs: { n: '1' }\n"
            ),
            ("lab/connections.yaml", "lab-db: { type: sqlite, path: lab.db }\n")
        );
        Assert.True(status == 200, text);
        (_, begun) = await Team.AskAsync(bob, "POST", "/api/runs", new { chain = "asks" });
        run = Team.Json(begun).GetProperty("id").GetInt64();
        whole = await Team.EndAsync(bob, run);
        Assert.Contains("(lab-day) failed", whole);
        Assert.DoesNotContain("private_table", whole);
        (status, _) = await Team.AskAsync(
            bob,
            "POST",
            $"/api/runs/{run}/resume",
            new { settle = new Dictionary<string, object> { ["go/ask"] = new { } } }
        );
        Assert.Contains("failed", await Team.EndAsync(bob, run));
        var (_, inside) = await Team.AskAsync(_team.Ann, "GET", $"/api/runs/{run + 1}");
        Assert.DoesNotContain("settled", inside);
        // Taken back, the next call finds nothing, also in a release from before.
        await Team.PushAsync(
            _team.Ann,
            (
                "lab/lab-day.chain.yaml",
                "chain: lab-day\nsteps:\n  ask: { kind: wait, set: { for: 1s } }\noutputs: { n: '1' }\n"
            )
        );
        (_, begun) = await Team.AskAsync(bob, "POST", "/api/runs", new { chain = "asks" });
        whole = await Team.EndAsync(bob, Team.Json(begun).GetProperty("id").GetInt64());
        Assert.Contains("there is no chain “lab-day” that may be started from “sales”", whole);
    }

    [Fact]
    public async Task APushTakesTheRoleOfEachFileThatItChanges()
    {
        using var bob = await _team.AddAsync("bob6", "designer:sales");
        using var cara = await _team.AddAsync("cara6", "keeper:sales");
        var chain = ("sales/new.chain.yaml", "chain: new-one\nsteps:\n  w: { kind: wait, set: { for: 1s } }\n");
        var same = ("sales/connections.yaml", "sales-db: { type: sqlite, path: sales.db }\n");
        var other = ("sales/connections.yaml", "sales-db: { type: sqlite, path: other.db }\n");
        Assert.Equal(200, (await Team.PushAsync(bob, chain, same)).Status);
        Assert.Equal(403, (await Team.PushAsync(bob, chain, other)).Status);
        Assert.Equal(200, (await Team.PushAsync(cara, other)).Status);
        Assert.Equal(403, (await Team.PushAsync(cara, (chain.Item1, chain.Item2 + "title: x\n"))).Status);
        // Outside their folder, and into the name of what they don't see.
        Assert.Equal(404, (await Team.PushAsync(bob, ("new.chain.yaml", chain.Item2))).Status);
        var (status, text) = await Team.PushAsync(
            bob,
            ("sales/finance-day.chain.yaml", "chain: finance-day\nsteps:\n  w: { kind: wait, set: { for: 1s } }\n")
        );
        Assert.Equal(409, status);
        Assert.Contains("the name “finance-day” is taken", text);
        // A draft says its folder.
        var draft = new { source = "chain: d\nsteps: {}\n" };
        async Task<int> Save(object body)
        {
            using var request = new HttpRequestMessage(HttpMethod.Put, "/api/chains/d/draft")
            {
                Content = System.Net.Http.Json.JsonContent.Create(body),
            };
            request.Headers.Add("If-Match", "\"0\"");
            using var answer = await bob.SendAsync(request);
            return (int)answer.StatusCode;
        }
        Assert.Equal(404, await Save(draft));
        Assert.Equal(404, await Save(new { draft.source, area = "finance" }));
        Assert.Equal(200, await Save(new { draft.source, area = "sales" }));
    }

    [Fact]
    public async Task ASecretIsSetAndSeenByThoseOfItsFolder()
    {
        using var bob = await _team.AddAsync("bob9", "designer:sales", "keeper:sales");
        using var cara = await _team.AddAsync("cara9", "keeper:finance");
        Task<(int Status, string Text)> SetAsync(HttpClient who, string name, string? area) =>
            Team.AskAsync(who, "PUT", $"/api/secrets/{name}", new { value = "of the warehouse", area });
        Assert.Equal(204, (await SetAsync(bob, "wh9", "sales")).Status);
        Assert.Equal(204, (await SetAsync(_team.Ann, "all9", null)).Status);
        // Neither for all, nor for another folder, nor over one that is another's; where it is theirs it stays.
        Assert.Equal(404, (await SetAsync(bob, "new9", null)).Status);
        Assert.Equal(404, (await SetAsync(bob, "new9", "finance")).Status);
        Assert.Equal(422, (await SetAsync(bob, "new9", "sales/../finance")).Status);
        var (status, text) = await SetAsync(cara, "wh9", "finance");
        Assert.Equal((409, true), (status, text.Contains("the name “wh9” is taken", StringComparison.Ordinal)));
        Assert.DoesNotContain("sales", text, StringComparison.Ordinal);
        Assert.Equal(404, (await Team.AskAsync(cara, "DELETE", "/api/secrets/wh9")).Status);
        Assert.DoesNotContain("wh9", (await Team.AskAsync(cara, "GET", "/api/secrets")).Text, StringComparison.Ordinal);
        Assert.Equal(204, (await SetAsync(bob, "wh9", null)).Status);
        var seen = Team.Json((await Team.AskAsync(bob, "GET", "/api/secrets")).Text).EnumerateArray().ToList();
        Assert.Equal(
            "sales",
            seen.Single(s => s.GetProperty("name").GetString() == "wh9").GetProperty("area").GetString()
        );
        Assert.Equal(204, (await Team.AskAsync(bob, "DELETE", "/api/secrets/wh9")).Status);
    }

    [Fact]
    public async Task WhoDesignsInOneFolderPushesItAgainstWhatHoldsAround()
    {
        await Team.PushAsync(_team.Ann, ("connections.yaml", "shared: { type: sqlite, path: sales.db }\n"));
        using var bob = await _team.AddAsync("bob10", "designer:sales");
        var (status, text) = await Team.PushAsync(
            bob,
            (
                "sales/around.chain.yaml",
                "chain: around\nsteps:\n  a: { kind: sql, set: { connection: shared, query: select 1 as one } }\n"
            )
        );
        Assert.True(status == 200, text);
        Assert.DoesNotContain("error", Team.Json(text).GetProperty("problems").ToString(), StringComparison.Ordinal);
    }
}
