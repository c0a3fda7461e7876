using System.Text;
using GateChain.Core.Identity;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;
using GateChain.Kinds;

namespace GateChain.Engine.Tests;

public class WorkspaceTests
{
    const string Chain = "chain: t\nsteps:\n  s: { kind: sql, set: { connection: db, query: { file: q.sql } } }\n";

    static Workspace Of(params (string Name, string Text)[] files) =>
        new(files.ToDictionary(f => f.Name, f => Encoding.UTF8.GetBytes(f.Text)), KindDescriptions.Catalogue);

    static readonly (string, string) Connections = ("connections.yaml", "db: { type: sqlite, path: a.db }\n");

    [Fact]
    public void AReleaseHoldsTheChainAndTheAttachmentsItNames()
    {
        var push = Of(("t.chain.yaml", Chain), Connections, ("q.sql", "SELECT 1"), ("readme.md", "not used"))
            .ToPush(DateTimeOffset.UnixEpoch, Ann, null);
        var release = Assert.Single(push.Releases);
        Assert.Equal(("t", "q.sql"), (release.Chain, Assert.Single(release.Files).Key));
        Assert.Equal("connections.yaml", Assert.Single(push.Files).Key);
    }

    [Fact]
    public void AnotherAttachmentIsAnotherRelease()
    {
        string Hash(string query, string source = Chain) =>
            Of(("t.chain.yaml", source), Connections, ("q.sql", query))
                .ToPush(DateTimeOffset.UnixEpoch, Ann, null)
                .Releases[0]
                .Hash;
        Assert.Equal(Hash("SELECT 1"), Hash("SELECT 1"));
        Assert.NotEqual(Hash("SELECT 1"), Hash("SELECT 2"));
        Assert.NotEqual(Hash("SELECT 1"), Hash("SELECT 1", Chain + "# a comment\n"));
    }

    [Theory]
    [InlineData(
        "connections.yaml",
        "db: { type: orakel }",
        "connections.yaml:1:7: error GC1009: there is no type of connection “orakel” (types: sqlite, "
            + "postgresql, mysql, sqlserver, duckdb, http, smtp, sftp, ftp, s3, azure, folder)"
    )]
    [InlineData(
        "connections.yaml",
        "db: { path: x }",
        "connections.yaml:1:1: error GC1009: connection “db” needs “type” (types: sqlite, postgresql, "
            + "mysql, sqlserver, duckdb, http, smtp, sftp, ftp, s3, azure, folder)"
    )]
    [InlineData(
        "connections.yaml",
        "db: { type: sqlite, pat: x }",
        "connections.yaml:1:21: error GC1004: a sqlite connection has no key “pat” (did you mean “path”?)"
    )]
    [InlineData(
        "connections.yaml",
        "db: { type: sqlite }",
        "connections.yaml:1:1: error GC1005: connection “db” needs “path”: the database file; "
            + "it is created when it is not there"
    )]
    [InlineData(
        "connections.yaml",
        "db: { type: mysql, host: h, database: d, user: u, password: open, x: 1 }",
        "connections.yaml:1:51: warning GC1405: the password of connection “db” stands in the file for "
            + "all to read (write secret:db, and set it: gatechain secret set db)"
    )]
    [InlineData(
        "connections.yaml",
        "- db",
        "connections.yaml:1:1: error GC1006: the file is a mapping, and this is a list"
    )]
    [InlineData("profiles.yaml", "demo: 5", "profiles.yaml:1:7: error GC1006: “demo” is a mapping, and this is a text")]
    [InlineData(
        "other.chain.yaml",
        "chain: t\nsteps: { a: { kind: assign } }",
        "t.chain.yaml:1:1: error GC1003: the chain “t” is already in other.chain.yaml (give one of them another name)"
    )]
    [InlineData(
        "connections.yaml",
        "db: { type: http, url: 'https://x', headers: { X-Api-Key: abc } }\ny: 1",
        "connections.yaml:1:37: warning GC1405: a secret in the headers of connection “db” stands in the "
            + "file for all to read (write secret:db, and set it: gatechain secret set db)"
    )]
    [InlineData(
        "connections.yaml",
        "db: { type: http, url: 'https://me:abc@x' }\ny: 1",
        "connections.yaml:1:19: warning GC1405: a secret in the url of connection “db” stands in the "
            + "file for all to read (write it to a key of its own, such as password: secret:db, and set it: "
            + "gatechain secret set db)"
    )]
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
        Assert.Equal(
            "there is no profile “moon”; there are: default, prod",
            Assert.Throws<RefusedException>(() => two.Choose("moon")).Message
        );
    }

    [Theory]
    [InlineData("dev: { inbox: in }\nprod: { inbox: /data }", "profile.inbox", null)]
    [InlineData(
        "dev: { inbox: in }\nprod: { outbox: /data }",
        "profile.inbox",
        "4:19: warning GC1407: the profile “prod” has no “inbox” (declare it there; under it this would fail)"
    )]
    [InlineData("dev: { inbox: in }\nprod: { outbox: /data }", "has(profile.inbox) ? profile.inbox : ''", null)]
    [InlineData("dev: { inbox: in }\nprod: { outbox: /data }", "profile.?inbox.orValue('')", null)]
    [InlineData(
        "dev: { inbox: in }",
        "profile.inbx",
        "4:19: error GC1406: no profile has “inbx” (did you mean “inbox”?)"
    )]
    [InlineData(null, "profile.inbox", "4:19: error GC1406: there is no profile in profiles.yaml that has “inbox”")]
    [InlineData("dev: { most: 5 }", "profile.most + 'x'", "error GC1202: “+” does not work")]
    public void ValuesThatAProfileLacksAreTold(string? profiles, string expression, string? problem)
    {
        var files = new List<(string, string)>
        {
            (
                "t.chain.yaml",
                $"chain: t\nvars: {{ v: {{ type: any, initial: 0 }} }}\nsteps:\n  s: {{ kind: wait, set: "
                    + $"{{ for: 0s }}, assign: {{ vars.v: \"{expression}\" }} }}\n"
            ),
        };
        if (profiles is not null)
            files.Add(("profiles.yaml", profiles));
        var told = Of([.. files])
            .Problems.Select(p => p.ToString())
            .Where(p => !p.Contains(": hint ", StringComparison.Ordinal))
            .ToList();
        if (problem is null)
        {
            Assert.Empty(told);
        }
        else
        {
            Assert.Contains(
                problem[(problem.IndexOf(' ', StringComparison.Ordinal) + 1)..],
                Assert.Single(told),
                StringComparison.Ordinal
            );
        }
    }

    [Fact]
    public void AValueOfAnotherTypeInAnotherProfileIsTold() =>
        Assert.Equal(
            "profiles.yaml:2:9: warning GC1408: “most” is a text here, and a number in “dev”",
            Assert
                .Single(Of(("profiles.yaml", "dev: { most: 5, x: 1 }\nprod: { most: many, x: 1.5 }")).Problems)
                .ToString()
        );

    [Fact]
    public void AttachmentsAreFoundWhereverTheyStand()
    {
        const string chain =
            "chain: t\nsteps:\n  l: { kind: load, set: { from: { connection: db, query: { file: "
            + "q.sql } }, into: { csv: out.csv } } }\n  c: { kind: command, set: { script: a.sh, files: "
            + "[b.txt, c.txt] } }\n";
        var files = new[]
        {
            ("t.chain.yaml", chain),
            Connections,
            ("q.sql", ""),
            ("a.sh", ""),
            ("b.txt", ""),
            ("c.txt", ""),
        };
        Assert.Equal(["a.sh", "b.txt", "c.txt", "q.sql"], Of(files).Attachments.Order(StringComparer.Ordinal));
        Assert.Contains(
            "GC1402: there is no file “b.txt” beside the chain",
            string.Join("\n", Of([.. files.Where(f => f.Item1 != "b.txt")]).Problems),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task WithErrorsNothingIsStored()
    {
        await using var house = new House();
        await house.PushAsync("chain: t\nsteps: { a: { kind: count } }");
        var before = (await house.Store.Catalogue.LatestAsync("t"))!.Hash;
        var workspace = await house.Engine.Workspace.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["t.chain.yaml"] = Encoding.UTF8.GetBytes("chain: t\nsteps: { b: { kind: count } }"),
                ["u.chain.yaml"] = Encoding.UTF8.GetBytes("chain: u\nsteps: { b: { kind: cuont } }"),
            },
            Ann
        );
        Assert.True(workspace.HasErrors);
        Assert.Equal(before, (await house.Store.Catalogue.LatestAsync("t"))!.Hash);
    }

    [Fact]
    public void SecretsThatNobodyHasSetAreToldWhereTheyAreKnown()
    {
        var files = new Dictionary<string, byte[]>
        {
            ["connections.yaml"] =
                """
                api: { type: http, url: 'https://api.larkmoor.example', headers: { X-Key: secret:api-key } }
                db: { type: mysql, host: localhost, database: d, user: u, password: secret:db }
                """u8.ToArray(),
            ["t.chain.yaml"] =
                "chain: t\nsteps: { a: { kind: command, set: { run: [x], env: { T: secret:tool } } } }"u8.ToArray(),
        };
        IEnumerable<string> Told(Func<string, Area, bool>? isSet) =>
            new Workspace(files, KindDescriptions.Catalogue, null, isSet).Problems.Select(p => p.ToString());
        Assert.Equal(
            [
                "connections.yaml:1:57: warning GC1409: there is no secret “api-key”, "
                    + "which connection “api” needs (set it: gatechain secret set api-key)",
                "t.chain.yaml:2:57: warning GC1409: there is no secret “tool” (set it: gatechain secret set tool)",
            ],
            Told((name, _) => name == "db")
        );
        Assert.Empty(Told(null));
        Assert.Empty(Told((_, _) => true));
    }
}
