using System.Text;
using GateChain.EndToEnd.House;
using GateChain.StandIns;

namespace GateChain.EndToEnd.Kinds;

/// <summary>
/// A secret is planted, used by everything that can use one, told by programs and servers alike, and then looked for
/// everywhere.
/// </summary>
public class SecretTests
{
    const string Secret = "planted \"made-up\" secret/ß+1";

    // As it stands in texts, JSON, addresses, and base64.
    static readonly string[] Forms =
    [
        Secret,
        System.Text.Json.JsonSerializer.Serialize(Secret)[1..^1],
        Secret.Replace("\"", "\\\"", StringComparison.Ordinal),
        Uri.EscapeDataString(Secret),
        Convert.ToBase64String(Encoding.UTF8.GetBytes(Secret)),
    ];

    const string Chain = """
        chain: t
        vars: { told: { type: any, initial: "" } }
        steps:
          program:
            kind: command
            ifFails: absorb
            set: { shell: "echo out $S; echo err $S >&2; printf %s \"$S\" | base64 -w0; exit 3", env: { S: "secret:planted" } }
          value:
            kind: command
            set: { shell: "printf '%s' \"$S\"", env: { S: "secret:planted" } }
            assign: { vars.told: result.value }
          json:
            kind: command
            set: { run: [node, -e, "console.log(JSON.stringify({ [process.env.S]: [process.env.S] }))"], env: { S: "secret:planted" }, output: json }
          call:
            kind: http
            ifFails: absorb
            set: { connection: lab, path: samples, headers: { X-Key: "secret:planted" }, query: { key: "secret:planted" } }
          database:
            kind: sql
            ifFails: absorb
            set: { connection: gone, query: "SELECT 1" }
          mail:
            kind: notify
            ifFails: absorb
            set: { connection: mail, to: [a@larkmoor.example], text: x }
            guard:
              probes: { lab: { kind: http, connection: lab, path: "" }, db: { kind: query, connection: gone, query: "SELECT 1" } }
              otherwise: { verdict: proceed }
        outputs: { told: vars.told, all: steps.json.value }
        """;

    [Fact]
    public async Task ASecretIsNowhereToBeFound()
    {
        await using var service = await Service.EmptyAsync();
        await using var world = await World.StartAsync();
        await service.Client.SetSecretAsync("planted", Secret);
        await service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["t.chain.yaml"] = Encoding.UTF8.GetBytes(Chain),
                ["connections.yaml"] = Encoding.UTF8.GetBytes(
                    $"lab: {{ type: http, url: \"{world.Address}lab/\", auth: basic, user: u, password: "
                        + $"\"secret:planted\", headers: {{ X-Other: \"secret:planted\" }} }}\ngone: {{ type: "
                        + "postgresql, host: 127.0.0.1, port: 1, database: d, user: u, password: "
                        + $"\"secret:planted\" }}\nmail: {{ type: smtp, host: 127.0.0.1, port: "
                        + $"{world.MailPort}, tls: off, user: u, password: \"secret:planted\", from: "
                        + $"a@larkmoor.example }}\n"
                ),
            }
        );
        var run = (await service.Client.StartAsync(new("t"))).Id;
        var ended = await service.EndAsync(run);
        Assert.Equal("succeeded", ended.State);
        // It was there to be hidden.
        Assert.Contains("••••••", ended.Outputs.GetProperty("told").ToString());

        using var http = new HttpClient { BaseAddress = service.Address };
        var answers = new List<(string Where, string Text)>();
        foreach (
            var path in (string[])
                [
                    "runs",
                    $"runs/{run}",
                    $"runs/{run}/progress",
                    "secrets",
                    "connections",
                    "profiles",
                    "chains",
                    "chains/t",
                    "openapi.json",
                    .. ended.Steps.SelectMany(s =>
                        new[] { $"runs/{run}/step?path={s.Path}", $"runs/{run}/log?path={s.Path}" }
                    ),
                ]
        )
        {
            answers.Add((path, await http.GetStringAsync($"api/{path}")));
        }

        foreach (var name in (string[])["lab", "gone", "mail"])
        {
            answers.Add(
                (
                    $"check {name}",
                    await (await http.PostAsync($"api/connections/{name}/check", null)).Content.ReadAsStringAsync()
                )
            );
        }
        foreach (
            var command in (string[][])
                [
                    ["show", "1"],
                    ["why", "1", "program"],
                    ["log", "1", "program"],
                    ["log", "1", "value"],
                    ["secret", "list"],
                    ["connections", "--check"],
                    ["runs", "--json"],
                    ["export", "out"],
                ]
        )
        {
            var (_, output, error) = await service.CliAsync(command);
            answers.Add((string.Join(' ', command), output + error));
        }
        Assert.Contains(answers, a =>
            a.Where.StartsWith("log", StringComparison.Ordinal) && a.Text.Contains("••••••", StringComparison.Ordinal)
        );
        await service.TerminateAsync();
        foreach (
            var file in Directory
                .EnumerateFiles(service.Data, "*", SearchOption.AllDirectories)
                .Concat(Directory.EnumerateFiles(service.Work, "*", SearchOption.AllDirectories))
        )
        {
            // Byte for byte, so that no encoding of a file hides it.
            answers.Add((file, Encoding.Latin1.GetString(File.ReadAllBytes(file))));
        }
        var latin = Forms
            .Concat(Forms.Select(f => Encoding.Latin1.GetString(Encoding.UTF8.GetBytes(f))))
            .Distinct()
            .ToList();
        Assert.Empty(
            answers.Where(a => latin.Exists(f => a.Text.Contains(f, StringComparison.Ordinal))).Select(a => a.Where)
        );
        Assert.Contains(answers, a => a.Where.EndsWith("gatechain.db", StringComparison.Ordinal));
    }
}
