using GateChain.Client;

namespace GateChain.EndToEnd.Access;

/// <summary>What steps of a folder may use is said by an admin: programs, and where they may go.</summary>
public sealed class RulesTests(TeamFixture fixture) : IClassFixture<TeamFixture>
{
    readonly Team _team = fixture.Team;

    [Fact]
    public async Task StepsDoNotCallTheServiceItselfNorHostsThatAreNotTheirs()
    {
        var own = _team.Service.Address;
        Assert.Equal(
            200,
            (
                await Team.PushAsync(
                    _team.Ann,
                    (
                        "sales/goes.chain.yaml",
                        "chain: goes\nparams: { to: { type: string } }\nsteps:\n"
                            + "  go: { kind: http, set: { path: '${params.to}' } }\n"
                    )
                )
            ).Status
        );
        using var bob = await _team.AddAsync("bob8", "designer:sales");
        async Task<string> GoAsync(string to)
        {
            var (_, begun) = await Team.AskAsync(
                bob,
                "POST",
                "/api/runs",
                new { chain = "goes", @params = new { to } }
            );
            return await Team.EndAsync(bob, Team.Json(begun).GetProperty("id").GetInt64());
        }
        foreach (var name in (string[])["127.0.0.1", "localhost", "[::ffff:127.0.0.1]", "0x7f000001", "2130706433"])
            Assert.Contains("is this service itself", await GoAsync($"http://{name}:{own.Port}/api/session"));
        await Team.AskAsync(
            _team.Ann,
            "PUT",
            "/api/access/rules",
            new AreaRulesInfo("sales", false, null, [], ["lab.larkmoor.example"])
        );
        Assert.Contains("may not go to", await GoAsync($"http://127.0.0.1:{own.Port}/api/session"));
        await Team.AskAsync(
            _team.Ann,
            "PUT",
            "/api/access/rules",
            new AreaRulesInfo("sales", false, null, [], ["127.0.0.1"])
        );
        Assert.Contains("succeeded", await GoAsync($"http://127.0.0.1:{own.Port}/api/session"));
        await Team.AskAsync(_team.Ann, "DELETE", "/api/access/rules?folder=sales");
    }

    [Fact]
    public async Task ProgramsRunOnlyWhereAnAdminLetsThem()
    {
        Assert.Equal(
            200,
            (
                await Team.PushAsync(
                    _team.Ann,
                    ("sales/shell.chain.yaml", "chain: shell\nsteps:\n  go: { kind: command, set: { shell: id } }\n"),
                    (
                        "sales/bends.chain.yaml",
                        "chain: bends\nsteps:\n  go: { kind: command, set: { run: [ls], env: { PATH: /tmp } } }\n"
                    ),
                    ("sales/lists.chain.yaml", "chain: lists\nsteps:\n  go: { kind: command, set: { run: [ls, /] } }\n")
                )
            ).Status
        );
        using var bob = await _team.AddAsync("bob7", "designer:sales");
        async Task<string> RunAsync(string chain)
        {
            var (_, begun) = await Team.AskAsync(bob, "POST", "/api/runs", new { chain });
            return await Team.EndAsync(bob, Team.Json(begun).GetProperty("id").GetInt64());
        }
        Assert.Contains("steps of “sales” may not run programs", await RunAsync("shell"));
        await Team.AskAsync(_team.Ann, "PUT", "/api/access/rules", new AreaRulesInfo("sales", true, ["ls"]));
        Assert.Contains("may run “ls” only", await RunAsync("shell"));
        Assert.Contains("may not set “PATH”", await RunAsync("bends"));
        Assert.Equal("succeeded", Team.Json(await RunAsync("lists")).GetProperty("state").GetString());
        Assert.Equal(
            403,
            (await Team.AskAsync(bob, "PUT", "/api/access/rules", new AreaRulesInfo("sales", true))).Status
        );
        await Team.AskAsync(_team.Ann, "DELETE", "/api/access/rules?folder=sales");
        Assert.Contains("may not run programs", await RunAsync("lists"));
    }
}
