using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Access;

/// <summary>
/// Requests that nobody should send, made after the OpenAPI document: no internal error, no hang, no growth. 20,000 of
/// them; <c>GATECHAIN_FUZZ=50</c> makes a million.
/// </summary>
public sealed class FuzzTests
{
    const int Each = 20_000;

    // What would end the test itself: it removes who asks.
    static readonly HashSet<string> Left = ["removePerson", "setDisabled", "setRoles", "revokeToken", "endSessionsOf"];

    sealed record Operation(string Method, string Path, IReadOnlyList<string> Query, JsonNode? Body);

    sealed class Made(JsonNode document, Random random)
    {
        static readonly string[] Texts =
        [
            "",
            "x",
            "milk-intake",
            "sales-day",
            "ann",
            "1",
            "-1",
            "0",
            "999999999999999999999999",
            "1e400",
            "NaN",
            "../../etc/passwd",
            "..%2f..%2f",
            "%00",
            "\0",
            "\u202e\u0000",
            "a/b/c",
            "null",
            "true",
            "[]",
            "{}",
            "'; DROP TABLE runs; --",
            "%",
            "_",
            "*",
            "\ud83d\ude00",
            "ſ",
            "2026-13-45T99:99:99Z",
            "0001-01-01T00:00:00Z",
            "9999-12-31T23:59:59Z",
            "PT1S",
            "${params.x}",
            "[1, 2",
            "- - - -",
            "&a [*a, *a]",
            "!!binary x",
            new('a', 5_000),
            new('[', 2_000),
        ];

        public string Text() =>
            random.Next(4) == 0
                ? new([.. Enumerable.Range(0, random.Next(30)).Select(_ => (char)random.Next(1, 0xd7ff))])
                : Texts[random.Next(Texts.Length)];

        public JsonNode? Any(int depth = 0) =>
            random.Next(depth > 3 ? 6 : 9) switch
            {
                0 => null,
                1 => random.Next(2) == 0,
                2 => random.NextInt64(),
                3 => random.NextDouble() * Math.Pow(10, random.Next(300)),
                4 => JsonNode.Parse("1e300"),
                5 => Text(),
                6 => new JsonArray([.. Enumerable.Range(0, random.Next(4)).Select(_ => Any(depth + 1))]),
                _ => Map(depth),
            };

        JsonObject Map(int depth)
        {
            var map = new JsonObject();
            for (var i = random.Next(4); i > 0; i--)
                map[Text()] = Any(depth + 1);
            return map;
        }

        /// <summary>Mostly as the schema says, and somewhere not.</summary>
        public JsonNode? Of(JsonNode? schema, int depth = 0)
        {
            if (schema is null || depth > 6 || random.Next(12) == 0)
                return Any(depth);
            if (schema["$ref"]?.GetValue<string>() is { } reference)
            {
                var at = document;
                foreach (var part in reference.Split('/').Skip(1))
                    at = at[part]!;
                return Of(at, depth + 1);
            }
            if ((schema["oneOf"] ?? schema["anyOf"]) is JsonArray { Count: > 0 } choices)
                return Of(choices[random.Next(choices.Count)], depth + 1);
            if (schema["properties"] is JsonObject members)
            {
                var map = new JsonObject();
                foreach (var (name, member) in members)
                {
                    if (random.Next(10) > 0)
                        map[name] = Of(member, depth + 1);
                }
                return map;
            }
            var type = schema["type"] is JsonArray types ? types[random.Next(types.Count)] : schema["type"];
            return type?.ToString() switch
            {
                "string" => Text(),
                "integer" => random.Next(-3, 30),
                "number" => random.NextDouble(),
                "boolean" => random.Next(2) == 0,
                "array" => new JsonArray([
                    .. Enumerable.Range(0, random.Next(3)).Select(_ => Of(schema["items"], depth + 1)),
                ]),
                "object" => Map(depth),
                _ => Any(depth),
            };
        }

        public HttpRequestMessage Request(Operation operation)
        {
            var path = string.Join('/', operation.Path.Split('/').Select(p => p.StartsWith('{') ? Escaped(Text()) : p));
            var query = string.Join(
                '&',
                operation.Query.Where(_ => random.Next(3) > 0).Select(q => $"{q}={Escaped(Text())}")
            );
            string[] methods = ["GET", "POST", "PUT", "DELETE", "PATCH", "HEAD", "OPTIONS", "TRACE", "LOCK"];
            var method = random.Next(20) == 0 ? methods[random.Next(methods.Length)] : operation.Method;
            var request = new HttpRequestMessage(new(method), query.Length == 0 ? path : $"{path}?{query}");
            if (operation.Body is not null || random.Next(10) == 0)
                request.Content = Content(operation);
            if (random.Next(3) == 0)
            {
                string[] names =
                [
                    "If-Match",
                    "Accept",
                    "Origin",
                    "X-Forwarded-For",
                    "Authorization",
                    "Cookie",
                    "Range",
                ];
                request.Headers.TryAddWithoutValidation(names[random.Next(names.Length)], Plain(Text()));
            }
            return request;
        }

        // What a header can't hold is not sent by this client at all.
        static string Plain(string text) => new([.. text.Where(c => c is > ' ' and < (char)127)]);

        string Escaped(string text) =>
            random.Next(6) == 0 && text.All(c => c is > ' ' and < (char)127 and not ('?' or '#'))
                ? text
                : Uri.EscapeDataString(text);

        ByteArrayContent Content(Operation operation)
        {
            var text = Of(operation.Body)?.ToJsonString() ?? "null";
            var bytes = Encoding.UTF8.GetBytes(text);
            switch (random.Next(12))
            {
                case 0:
                    bytes = bytes[..random.Next(bytes.Length + 1)];
                    break;
                case 1:
                    random.NextBytes(bytes.AsSpan(random.Next(bytes.Length)));
                    break;
                case 2:
                    bytes = Encoding.UTF8.GetBytes(new string('[', 3_000) + text);
                    break;
                case 3:
                    bytes = [.. Encoding.UTF8.Preamble, .. bytes];
                    break;
            }
            var content = new ByteArrayContent(bytes);
            string[] types =
            [
                "application/json",
                "text/plain",
                "application/json; charset=utf-16",
                "multipart/form-data",
                "x",
            ];
            content.Headers.TryAddWithoutValidation(
                "Content-Type",
                random.Next(8) == 0 ? types[random.Next(types.Length)] : "application/json"
            );
            return content;
        }
    }

    static List<Operation> Read(JsonNode document)
    {
        var found = new List<Operation>();
        foreach (var (path, methods) in document["paths"]!.AsObject())
        {
            foreach (var (method, operation) in methods!.AsObject())
            {
                if (Left.Contains(operation!["operationId"]!.GetValue<string>()))
                    continue;
                found.Add(
                    new(
                        method.ToUpperInvariant(),
                        path,
                        [
                            .. (operation["parameters"]?.AsArray() ?? [])
                                .Where(p => p!["in"]!.GetValue<string>() == "query")
                                .Select(p => p!["name"]!.GetValue<string>()),
                        ],
                        operation["requestBody"]?["content"]?["application/json"]?["schema"]
                    )
                );
            }
        }
        return found;
    }

    [Fact]
    public async Task NothingThatIsSentBreaksTheService()
    {
        var times = int.Parse(
            Environment.GetEnvironmentVariable("GATECHAIN_FUZZ") ?? "1",
            CultureInfo.InvariantCulture
        );
        var document = JsonNode.Parse(
            await File.ReadAllTextAsync(
                Path.Combine(Place.Root, "docs/openapi.json"),
                TestContext.Current.CancellationToken
            )
        )!;
        var operations = Read(document);
        await using var service = await Service.WithDemoAsync();
        // While there are no accounts everything is reached; then by tokens, and by strangers.
        await RunAsync(service, document, operations, Each * times * 3 / 4, 1, null);
        var added = await service.Client.AddPersonAsync(new("zoe", ["admin"]));
        var tokens = new List<string?> { null, "gct_none" };
        using (var http = new HttpClient { BaseAddress = service.Address })
        {
            http.DefaultRequestHeaders.Add("X-Gatechain", "active");
            var link = added.Link[(added.Link.IndexOf('#') + 1)..];
            // So many strangers have asked that this one waits, too.
            async Task Enter(string path, object body)
            {
                for (var i = 0; ; i++)
                {
                    var (status, text) = await Team.AskAsync(http, "POST", path, body);
                    if (status is 200 or 204)
                        return;
                    Assert.True(status == 429 && i < 60, $"{path}: {status} {text}");
                    await Task.Delay(500);
                }
            }
            await Enter("/api/links/password", new LinkPasswordRequest(link, Team.Password));
            await Enter("/api/session", new SignInRequest("zoe", Team.Password));
            tokens.Add(await Team.TokenAsync(http, "designer"));
            tokens.Add(await Team.TokenAsync(http, "admin"));
        }
        await RunAsync(service, document, operations, Each * times / 4, 2, tokens);
        using var after = new HttpClient { BaseAddress = service.Address };
        Assert.Equal(HttpStatusCode.OK, (await after.GetAsync("/health")).StatusCode);
    }

    static async Task RunAsync(
        Service service,
        JsonNode document,
        List<Operation> operations,
        int count,
        int seed,
        List<string?>? tokens
    )
    {
        var wrong = new List<string>();
        var statuses = new SortedDictionary<int, int>();
        var grown = new List<long>();
        const int lines = 6;
        await Task.WhenAll(
            Enumerable
                .Range(0, lines)
                .Select(line =>
                    Task.Run(async () =>
                    {
                        var random = new Random(seed * 1000 + line);
                        // A schema is read by one at a time.
                        var made = new Made(JsonNode.Parse(document.ToJsonString())!, random);
                        var own = Read(JsonNode.Parse(document.ToJsonString())!);
                        using var http = new HttpClient(
                            new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false }
                        )
                        {
                            BaseAddress = service.Address,
                            Timeout = TimeSpan.FromSeconds(60),
                        };
                        for (var i = 0; i < count / lines; i++)
                        {
                            using var request = made.Request(own[random.Next(own.Count)]);
                            if (tokens?[random.Next(tokens.Count)] is { } token)
                                request.Headers.TryAddWithoutValidation("Authorization", $"Bearer {token}");
                            var told = $"{request.Method} {request.RequestUri}";
                            try
                            {
                                using var answer = await http.SendAsync(
                                    request,
                                    HttpCompletionOption.ResponseHeadersRead
                                );
                                var status = (int)answer.StatusCode;
                                var isStream = answer.Content.Headers.ContentType?.MediaType == "text/event-stream";
                                var text = isStream ? "" : await answer.Content.ReadAsStringAsync();
                                lock (statuses)
                                {
                                    statuses[status] = statuses.GetValueOrDefault(status) + 1;
                                    if (status is 500 or 502 || text.Contains("   at GateChain"))
                                        wrong.Add($"{status} {told}");
                                }
                            }
                            catch (HttpRequestException e) when (e.InnerException is IOException)
                            {
                                // The service has closed a connection on which something was sent that is no HTTP.
                            }
                            catch (Exception e)
                            {
                                lock (statuses)
                                    wrong.Add($"{e.GetType().Name} {told}: {e.Message}");
                            }
                            if (line == 0 && i % Math.Max(1, count / lines / 4) == 0)
                            {
                                lock (grown)
                                    grown.Add(service.Memory);
                            }
                        }
                    })
                )
        );
        Assert.True(
            wrong.Count == 0,
            $"{wrong.Count} of {count}:\n{string.Join('\n', wrong.Take(20).Select(w => w[..Math.Min(w.Length, 300)]))}"
        );
        TestContext.Current.TestOutputHelper?.WriteLine(
            $"{count}: {string.Join(", ", statuses.Select(s => $"{s.Key} × {s.Value}"))}; "
                + $"memory {string.Join(", ", grown.Select(g => $"{g >> 20} MiB"))}"
        );
        // The first quarter warms it up.
        Assert.InRange(grown[^1] >> 20, 0, (grown[1] >> 20) + 300);
    }
}
