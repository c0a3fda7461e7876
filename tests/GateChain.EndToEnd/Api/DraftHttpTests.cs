using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Api;

/// <summary>Drafts over plain HTTP: what keeps two people from overwriting each other.</summary>
public sealed class DraftHttpTests : IAsyncLifetime
{
    const string Chain = "chain: t\nsteps: { a: { kind: wait, set: { for: 0s } } }\n";

    Service _service = null!;
    HttpClient _http = null!;

    public async ValueTask InitializeAsync()
    {
        _service = await Service.EmptyAsync();
        await _service.PushAsync(Chain);
        _http = new() { BaseAddress = _service.Address };
    }

    public async ValueTask DisposeAsync()
    {
        _http.Dispose();
        await _service.DisposeAsync();
    }

    async Task<(HttpStatusCode Status, JsonElement Body, string? Tag)> SendAsync(
        HttpMethod method,
        string path,
        object? body = null,
        string? seen = null
    )
    {
        using var request = new HttpRequestMessage(method, path)
        {
            Content = body is null ? null : JsonContent.Create(body),
        };
        if (seen is not null)
            request.Headers.TryAddWithoutValidation("If-Match", seen);
        using var response = await _http.SendAsync(request);
        var text = await response.Content.ReadAsStringAsync();
        return (
            response.StatusCode,
            text.Length == 0 ? default : JsonDocument.Parse(text).RootElement,
            response.Headers.ETag?.Tag
        );
    }

    [Fact]
    public async Task ASaveNamesTheVersionItIsMadeFrom()
    {
        var first = await SendAsync(HttpMethod.Get, "/api/chains/t/draft");
        Assert.Equal(
            (HttpStatusCode.OK, "\"0\"", 1),
            (first.Status, first.Tag, first.Body.GetProperty("latest").GetInt32())
        );
        Assert.Equal(
            (HttpStatusCode)428,
            (await SendAsync(HttpMethod.Put, "/api/chains/t/draft", new { source = Chain })).Status
        );
        var saved = await SendAsync(
            HttpMethod.Put,
            "/api/chains/t/draft",
            new { source = Chain + "# mine\n" },
            "\"0\""
        );
        Assert.Equal((HttpStatusCode.OK, "\"1\""), (saved.Status, saved.Tag));
        var late = await SendAsync(HttpMethod.Put, "/api/chains/t/draft", new { source = Chain + "# late\n" }, "\"0\"");
        Assert.Equal(
            (HttpStatusCode.PreconditionFailed, Chain + "# mine\n"),
            (late.Status, late.Body.GetProperty("current").GetProperty("source").GetString())
        );
        Assert.Equal(
            HttpStatusCode.PreconditionFailed,
            (await SendAsync(HttpMethod.Post, "/api/chains/t/releases", new { note = "late" }, "\"0\"")).Status
        );
        var made = await SendAsync(HttpMethod.Post, "/api/chains/t/releases", new { note = "first" }, "\"1\"");
        Assert.Equal((HttpStatusCode.Created, 2), (made.Status, made.Body.GetProperty("number").GetInt32()));
        // It is gone with its release, and a new one does not begin at a version somebody has seen.
        Assert.Equal("\"0\"", (await SendAsync(HttpMethod.Get, "/api/chains/t/draft")).Tag);
        Assert.Equal(
            "\"3\"",
            (await SendAsync(HttpMethod.Put, "/api/chains/t/draft", new { source = Chain }, "\"0\"")).Tag
        );
    }

    [Theory]
    [InlineData("/api/chains/nothing/draft", 404, "there is no chain “nothing”")]
    [InlineData("/api/chains/t/releases/7", 404, "“t” has no release 7; it has only 1")]
    public async Task WhatIsNotThereIsSaid(string path, int status, string detail)
    {
        var (code, body, _) = await SendAsync(HttpMethod.Get, path);
        Assert.Equal((status, detail), ((int)code, body.GetProperty("detail").GetString()));
    }

    [Fact]
    public async Task BadInputIsRefusedInWords()
    {
        Assert.Equal(
            422,
            (int)(await SendAsync(HttpMethod.Put, "/api/chains/no%20name/draft", new { source = "" }, "\"0\"")).Status
        );
        await SendAsync(
            HttpMethod.Put,
            "/api/chains/t/draft",
            new { source = "chain: other\nsteps: { a: { kind: wait, set: { for: 1s } } }\n" },
            "\"0\""
        );
        Assert.Equal(
            "the file says “chain: other”, and this is the draft of “t”",
            (await SendAsync(HttpMethod.Post, "/api/chains/t/releases", new { }, "\"1\""))
                .Body.GetProperty("detail")
                .GetString()
        );
        await SendAsync(HttpMethod.Put, "/api/chains/t/draft", new { source = ": : no yaml [" }, "\"1\"");
        var broken = await SendAsync(HttpMethod.Post, "/api/chains/t/releases", new { }, "\"2\"");
        Assert.Equal(
            (422, "the draft has 1 error; fix it first"),
            ((int)broken.Status, broken.Body.GetProperty("detail").GetString())
        );
        Assert.Equal("GC1001", broken.Body.GetProperty("problems")[0].GetProperty("code").GetString());
        Assert.Equal(
            422,
            (int)(await SendAsync(HttpMethod.Post, "/api/chains/t/try", new { source = Chain, part = "some" })).Status
        );
        Assert.Equal(
            422,
            (int)
                (
                    await SendAsync(
                        HttpMethod.Post,
                        "/api/design/expression",
                        new
                        {
                            chain = "t",
                            source = Chain,
                            step = "a",
                            place = "nowhere",
                            text = "1",
                        }
                    )
                ).Status
        );
    }

    [Fact]
    public async Task TheWorkspaceComesBackAsItWasBrought()
    {
        var files = (await _service.Client.ExportAsync()).ToDictionary(
            f => f.Key,
            f => System.Text.Encoding.UTF8.GetString(f.Value)
        );
        Assert.Equal(new Dictionary<string, string> { ["t.chain.yaml"] = Chain }, files);
        using var zip = new System.IO.Compression.ZipArchive(await _http.GetStreamAsync("/api/workspace/zip"));
        Assert.Equal("t.chain.yaml", Assert.Single(zip.Entries).FullName);
    }
}
