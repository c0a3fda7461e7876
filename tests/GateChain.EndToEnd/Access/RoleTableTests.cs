using System.Text;
using System.Text.Json;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Access;

/// <summary>
/// Every endpoint says who may use it; every role is played against every endpoint; the docs have the same table.
/// </summary>
public sealed class RoleTableTests
{
    // Written down once more, apart from the service's own: the two have to agree.
    static readonly Dictionary<string, string[]> Roles = new()
    {
        ["viewer"] = ["see"],
        ["operator"] = ["see", "operate"],
        ["designer"] = ["see", "operate", "design"],
        ["keeper"] = ["see", "keep"],
        ["admin"] = ["see", "operate", "design", "keep", "administer"],
    };

    sealed record Operation(string Name, string Method, string Path, string Permission, string Where, string Summary)
    {
        public override string ToString() => $"{Method} {Path}";
    }

    static IReadOnlyList<Operation> Read(JsonElement document)
    {
        var found = new List<Operation>();
        foreach (var path in document.GetProperty("paths").EnumerateObject())
        {
            foreach (var method in path.Value.EnumerateObject())
            {
                var needs = method.Value.GetProperty("x-needs");
                found.Add(
                    new(
                        method.Value.GetProperty("operationId").GetString()!,
                        method.Name.ToUpperInvariant(),
                        path.Name,
                        needs.TryGetProperty("permission", out var p) ? p.GetString()! : "open",
                        needs.TryGetProperty("where", out var w)
                            ? w.GetString()!
                            : needs.GetProperty("open").GetString()!,
                        method.Value.GetProperty("summary").GetString()!
                    )
                );
            }
        }
        return found;
    }

    static async Task<JsonElement> DocumentAsync() =>
        Team.Json(await File.ReadAllTextAsync(Path.Combine(Place.Root, "docs/openapi.json")));

    [Fact]
    public async Task TheTableOfTheDocsIsTheServices()
    {
        var table = new StringBuilder("| operation | viewer | operator | designer | keeper | admin | where |\n");
        table.Append("| --- | --- | --- | --- | --- | --- | --- |\n");
        foreach (var o in Read(await DocumentAsync()))
        {
            var marks = Roles.Values.Select(may =>
                o.Permission is "open" or "sign-in" || may.Contains(o.Permission) ? " ✓ " : "   "
            );
            var where = o.Permission switch
            {
                "open" => $"anybody: {o.Where}",
                "sign-in" => "who has signed in",
                _ => o.Where switch
                {
                    "somewhere" => "shows or takes what lies in their folders",
                    "everywhere" => "for the whole workspace",
                    "chain" or "newchain" => "in the folder of the chain",
                    "run" => "in the folder of the run",
                    "trigger" or "backfill" => "in the folder of the trigger",
                    _ => "in the folder of the file",
                },
            };
            table.Append($"| `{o.Method} {o.Path}` |{string.Join('|', marks)}| {where} |\n");
        }
        var docs = Path.Combine(Place.Root, "docs/access.md");
        var text = await File.ReadAllTextAsync(docs);
        const string begin = "<!-- roles: made by RoleTableTests -->\n",
            end = "<!-- end of roles -->";
        var (from, to) = (
            text.IndexOf(begin, StringComparison.Ordinal) + begin.Length,
            text.IndexOf(end, StringComparison.Ordinal)
        );
        if (Environment.GetEnvironmentVariable("GATECHAIN_WRITE_DOCS") is not null)
            await File.WriteAllTextAsync(docs, text[..from] + table + text[to..]);
        else
            Assert.Equal(text[from..to], table.ToString());
    }

    [Fact]
    public async Task EveryRoleIsPlayedAgainstEveryEndpoint()
    {
        await using var team = await Team.NewAsync();
        var operations = Read(await DocumentAsync());
        Assert.True(operations.Count > 100);
        var wrong = new List<string>();

        // Stays out of the way of the others: what a signed-in person does to themselves has tests of its own.
        string[] left = ["signOut", "signIn", "setMyPassword"];
        string PathOf(Operation o, string area) =>
            o.Path.Replace("{id}", o.Path.Contains("/runs/") ? team.Runs[area].ToString() : "none")
                .Replace(
                    "{name}",
                    o.Where switch
                    {
                        "trigger" => $"{area}-nightly",
                        "chain" or "newchain" => $"{area}-day",
                        _ => "none",
                    }
                )
                .Replace("{number}", "1")
                .Replace("{action}", "pause")
                .Replace("{code}", "AAAA-AAAA")
            + (
                o.Where == "file" ? $"?path={area}/{area}.sql"
                : o.Name is "getStep" or "getLog" ? "?path=say"
                : ""
            );

        async Task Play(HttpClient who, Operation o, string area, Func<int, bool> isRight, string expected)
        {
            var (status, text) = await Team.AskAsync(who, o.Method, PathOf(o, area), o.Method == "GET" ? null : "{}");
            if (!isRight(status))
                wrong.Add($"{o}: {expected}, and it is {status} {text[..Math.Min(text.Length, 120)]}");
        }

        using var stranger = team.Http();
        foreach (var o in operations.Where(o => o.Permission != "open"))
            await Play(stranger, o, "sales", s => s == 401, "a stranger is 401");

        foreach (var (role, may) in Roles)
        {
            var where = role == "admin" ? "" : ":sales";
            using var person = await team.AddAsync($"of-{role}", role + where);
            using var program = team.WithToken(await Team.TokenAsync(person, role + where));
            foreach (var o in operations.Where(o => o.Permission is not "open" && !left.Contains(o.Name)))
            {
                var allowed = o.Permission == "sign-in" || may.Contains(o.Permission);
                if (o.Where == "everywhere" && where != "")
                    allowed = false;
                // There is no backfill, which only who sees everything is told by the endpoint: both say 404.
                var gone = o.Where == "backfill";
                await Play(
                    program,
                    o,
                    "sales",
                    s => gone && s == 404 || (allowed ? s is not (401 or 403 or 500) : s == 403),
                    $"{role}{where} {(allowed ? "may" : "may not")}"
                );
                if (where != "" && o.Where is "chain" or "newchain" or "run" or "trigger" or "file")
                {
                    await Play(
                        program,
                        o,
                        "finance",
                        s => s == 404 || role == "admin",
                        $"{role}{where} finds nothing elsewhere"
                    );
                }
            }
        }
        Assert.True(wrong.Count == 0, string.Join("\n", wrong));
    }
}
