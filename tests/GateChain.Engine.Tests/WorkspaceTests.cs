using System.Text;
using GateChain.Core.Values;
using GateChain.Engine.Workspaces;
using GateChain.Kinds;

namespace GateChain.Engine.Tests;

public class WorkspaceTests
{
    const string Chain = "chain: t\nsteps:\n  s: { kind: sql, set: { connection: db, query: { file: q.sql } } }\n";

    static Workspace Of(params (string Name, string Text)[] files) => new(files.ToDictionary(f => f.Name, f => Encoding.UTF8.GetBytes(f.Text)), KindDescriptions.Catalogue);

    static readonly (string, string) Connections = ("connections.yaml", "db: { type: sqlite, path: a.db }\n");

    [Fact]
    public void AReleaseHoldsTheChainAndTheAttachmentsItNames()
    {
        var push = Of(("t.chain.yaml", Chain), Connections, ("q.sql", "SELECT 1"), ("readme.md", "not used")).ToPush(DateTimeOffset.UnixEpoch, "tester", null);
        var release = Assert.Single(push.Releases);
        Assert.Equal(("t", "q.sql"), (release.Chain, Assert.Single(release.Files).Key));
        Assert.Equal("connections.yaml", Assert.Single(push.Settings).Key);
    }

    [Fact]
    public void AnotherAttachmentIsAnotherRelease()
    {
        string Hash(string query, string source = Chain) => Of(("t.chain.yaml", source), Connections, ("q.sql", query)).ToPush(DateTimeOffset.UnixEpoch, "tester", null).Releases[0].Hash;
        Assert.Equal(Hash("SELECT 1"), Hash("SELECT 1"));
        Assert.NotEqual(Hash("SELECT 1"), Hash("SELECT 2"));
        Assert.NotEqual(Hash("SELECT 1"), Hash("SELECT 1", Chain + "# a comment\n"));
    }

    [Theory]
    [InlineData("connections.yaml", "db: { type: orakel }", "connections.yaml:1:7: error GC1009: there is no type of connection “orakel” (types: sqlite, postgresql, mysql, sqlserver, duckdb, http, smtp, sftp, folder)")]
    [InlineData("connections.yaml", "db: { path: x }", "connections.yaml:1:1: error GC1009: connection “db” lacks “type” (types: sqlite, postgresql, mysql, sqlserver, duckdb, http, smtp, sftp, folder)")]
    [InlineData("connections.yaml", "db: { type: sqlite, pat: x }", "connections.yaml:1:21: error GC1004: a sqlite connection has no key “pat” (did you mean “path”?)")]
    [InlineData("connections.yaml", "db: { type: sqlite }", "connections.yaml:1:1: error GC1005: connection “db” lacks “path”: the database file; it is created when it is not there")]
    [InlineData("connections.yaml", "db: { type: mysql, host: h, database: d, user: u, password: open, x: 1 }", "connections.yaml:1:51: warning GC1405: the password of connection “db” stands in the file for all to read (write secret:db, and set it: gatechain secret set db)")]
    [InlineData("connections.yaml", "- db", "connections.yaml:1:1: error GC1006: the file is a mapping, and this is a list")]
    [InlineData("profiles.yaml", "demo: 5", "profiles.yaml:1:7: error GC1006: “demo” is a mapping, and this is a text")]
    [InlineData("other.chain.yaml", "chain: t\nsteps: { a: { kind: assign } }", "t.chain.yaml:1:1: error GC1003: the chain “t” is already in other.chain.yaml (give one of them another name)")]
    public void ProblemsOfAllFilesAreTold(string name, string text, string expected)
    {
        var workspace = Of(("t.chain.yaml", "chain: t\nsteps: { a: { kind: assign } }"), (name, text));
        Assert.True(workspace.HasErrors);
        Assert.Contains(expected, workspace.Problems.Select(p => p.ToString()));
    }

    [Fact]
    public void ProfilesAreChosenByNameOrBecauseThereIsOnlyOne()
    {
        Profiles Read(string text) => Profiles.Read(text, new("profiles.yaml", text));
        var two = Read("default: { a: 1 }\nprod: { a: 2, list: [x, 1.5, true] }\n");
        Assert.Equal("{\"a\": 2, \"list\": [\"x\", 1.5, true]}", two.Choose("prod").ToString());
        Assert.Equal("{\"a\": 1}", two.Choose(null).ToString());
        Assert.Equal("{\"a\": 3}", Read("only: { a: 3 }").Choose(null).ToString());
        Assert.Equal(Value.EmptyMap, Read("{}").Choose(null));
        Assert.Equal("there is no profile “moon”; there are: default, prod", Assert.Throws<RefusedException>(() => two.Choose("moon")).Message);
    }

    [Fact]
    public async Task WithErrorsNothingIsStored()
    {
        await using var house = new House();
        await house.PushAsync("chain: t\nsteps: { a: { kind: count } }");
        var before = house.Engine.Catalogue.Latest("t")!.Hash;
        var workspace = await house.Engine.PushAsync(new Dictionary<string, byte[]>
        {
            ["t.chain.yaml"] = Encoding.UTF8.GetBytes("chain: t\nsteps: { b: { kind: count } }"), ["u.chain.yaml"] = Encoding.UTF8.GetBytes("chain: u\nsteps: { b: { kind: cuont } }"),
        }, "tester");
        Assert.True(workspace.HasErrors);
        Assert.Equal(before, house.Engine.Catalogue.Latest("t")!.Hash);
    }
}
