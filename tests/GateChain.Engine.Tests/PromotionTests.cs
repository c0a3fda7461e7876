using System.Text;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;
using GateChain.Kinds;

namespace GateChain.Engine.Tests;

/// <summary>Chains with what they need, on their way to another workspace.</summary>
public class PromotionTests
{
    static Dictionary<string, byte[]> Files(params (string Path, string Text)[] files) =>
        files.ToDictionary(f => f.Path, f => Encoding.UTF8.GetBytes(f.Text));

    static readonly Dictionary<string, byte[]> Here = Files(
        (
            "a.chain.yaml",
            "chain: a\nsteps:\n  s: { kind: sql, lane: narrow, set: { connection: db, query: { file: sql/q.sql } } }\n"
                + "  c: { kind: call, chain: b }\n"
        ),
        ("b.chain.yaml", "chain: b\nsteps: { h: { kind: http, set: { connection: lab, path: x } } }\n"),
        ("other.chain.yaml", "chain: other\nsteps: { w: { kind: wait, set: { for: 1s } } }\n"),
        ("sql/q.sql", "SELECT 1"),
        (
            "connections.yaml",
            "# ours\ndb:\n  type: sqlite\n  path: here.db # mine\n\nlab: { type: http, url: 'http://lab/', "
                + "auth: bearer, token: secret:lab }\nunused: { type: folder, path: x }\n"
        ),
        ("lanes.yaml", "narrow: { width: 1 }\nwide: { width: 9 }\n"),
        ("profiles.yaml", "default: { x: 1 }\n"),
        ("triggers.yaml", "t: { chain: a, schedule: { every: day, at: '06:00' } }\n")
    );

    static Promotion Of(Dictionary<string, byte[]> to, params string[] chains) =>
        Promotion.Of(Here, to, chains, KindDescriptions.Catalogue);

    static string Text(Promotion plan, string path) => Encoding.UTF8.GetString(plan.Files[path]);

    static string Words(Promotion plan) =>
        string.Join(", ", plan.Things.Select(t => $"{t.State.ToString().ToLowerInvariant()} {t.What}"));

    [Fact]
    public void AnEmptyPlaceGetsAllThatIsNeededAndNothingElse()
    {
        var plan = Of([], "a");
        Assert.Equal(
            "new chain a, new file sql/q.sql, new connection db, new lane narrow, new file profiles.yaml, new chain b, "
                + "new connection lab",
            Words(plan)
        );
        Assert.Equal(
            ["a.chain.yaml", "b.chain.yaml", "connections.yaml", "lanes.yaml", "profiles.yaml", "sql/q.sql"],
            plan.Files.Keys.Order(StringComparer.Ordinal)
        );
        Assert.Equal(
            "db:\n  type: sqlite\n  path: here.db # mine\nlab: { type: http, url: 'http://lab/', auth: bearer, "
                + "token: secret:lab }\n",
            Text(plan, "connections.yaml")
        );
        Assert.Equal("narrow: { width: 1 }\n", Text(plan, "lanes.yaml"));
        Assert.Equal(["lab"], plan.Secrets);
        Assert.False(new Workspace(plan.Files, KindDescriptions.Catalogue).HasErrors);
    }

    [Fact]
    public void WhatBelongsToThePlaceStays()
    {
        var there = Files(
            ("connections.yaml", "db: { type: sqlite, path: there.db }"),
            ("lanes.yaml", "narrow: { width: 7 }\n"),
            ("profiles.yaml", "prod: { x: 2 }\n"),
            ("sales/a.chain.yaml", "chain: a\nsteps: { w: { kind: wait, set: { for: 1s } } }\n")
        );
        var plan = Of(there, "a");
        Assert.Equal(
            "db: { type: sqlite, path: there.db }\nlab: { type: http, url: 'http://lab/', auth: bearer, "
                + "token: secret:lab }\n",
            Text(plan, "connections.yaml")
        );
        Assert.DoesNotContain("lanes.yaml", plan.Files.Keys);
        Assert.DoesNotContain("profiles.yaml", plan.Files.Keys);
        // It lies in another folder there, and stays there.
        Assert.Contains("sales/a.chain.yaml", plan.Files.Keys);
        Assert.DoesNotContain("a.chain.yaml", plan.Files.Keys);
        Assert.StartsWith("changed chain a", Words(plan), StringComparison.Ordinal);
    }

    [Fact]
    public void WhatIsThereAlreadyIsNotBroughtAgain()
    {
        var plan = Of(Here, "a");
        Assert.Empty(plan.Files);
        Assert.All(plan.Things, t => Assert.Equal(PromotedState.Same, t.State));
    }

    [Fact]
    public void AConnectionOfAnotherTypeIsTold()
    {
        var plan = Of(Files(("connections.yaml", "db: { type: duckdb, path: x }\n")), "a");
        Assert.Contains("type duckdb there and sqlite here", plan.Things.First(t => t.What == "connection db").Note);
    }

    [Fact]
    public void AChainThatIsNotThereIsRefused() =>
        Assert.Equal("there is no chain “nope” here", Assert.Throws<RefusedException>(() => Of([], "nope")).Message);
}
