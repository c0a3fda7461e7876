using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Http;
using GateChain.Kinds.Machine;
using GateChain.Kinds.Notify;
using GateChain.Kinds.Remote;
using GateChain.Kinds.Sql;
using GateChain.Kinds.Tests.Servers;
using GateChain.StandIns;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;

namespace GateChain.Kinds.Tests.Web;

/// <summary>
/// The kinds <c>http</c>, <c>remote</c> and <c>notify</c>, and the probes, against Larkmoor's stand-ins.
/// </summary>
public sealed partial class WebTests : IAsyncLifetime
{
    readonly Bench _bench = new();
    World _world = null!;

    public async ValueTask InitializeAsync()
    {
        _world = await World.StartAsync();
        _bench.Secrets["lab"] = "made-up-lab-secret";
        _bench.Secrets["token"] = "made-up-lab-token";
        _bench.Secrets["mail"] = MailServer.Password;
        _bench.Connect(
            "lab",
            "http",
            ("url", $"{_world.Address}lab/"),
            ("auth", "clientCredentials"),
            ("tokenUrl", $"{_world.Address}lab/token"),
            ("user", "larkmoor"),
            ("password", "secret:lab")
        );
        _bench.Connect("open", "http", ("url", _world.Address.ToString()));
        _bench.Connect("compute", "http", ("url", $"{_world.Address}compute"));
        _bench.Connect(
            "office",
            "smtp",
            ("host", "127.0.0.1"),
            ("port", _world.MailPort),
            ("tls", "off"),
            ("user", MailServer.User),
            ("password", "secret:mail"),
            ("from", "Larkmoor nightly <nightly@larkmoor.example>")
        );
    }

    public async ValueTask DisposeAsync()
    {
        await _world.DisposeAsync();
        _bench.Dispose();
    }

    Task<AttemptResult> HttpAsync(string settings) => _bench.RunAsync(new HttpKind(), settings);

    static Value Out(AttemptResult result, string name) => result.Outputs.AsMap.Find(name) ?? Value.Null;

    [Fact]
    public async Task AnAnswerIsTakenWithATokenThatWasAskedFor()
    {
        var result = await HttpAsync(
            """{"connection": "lab", "path": "samples", "query": {"day": "2026-11-22", "size": "5"}}"""
        );
        Assert.Null(result.Error);
        Assert.Equal(200, Out(result, "status").AsInt);
        Assert.Equal(5, Out(result, "value").AsMap.Find("samples")!.Value.AsList.Count);
        // The token that was got for it is as secret as what it was got with.
        Assert.NotEmpty(Assert.Single(_bench.Hidden));
        _bench.Secrets["lab"] = "a wrong secret";
        var refused = (await HttpAsync("""{"connection": "lab", "path": "samples"}""")).Error!;
        Assert.Equal("login", refused.Code);
        Assert.DoesNotContain("a wrong secret", refused.ToString());
    }

    [Theory]
    [InlineData("""{"items": "samples", "next": "link"}""")]
    [InlineData("""{"items": "samples", "next": "field", "field": "next"}""")]
    [InlineData("""{"items": "samples", "next": "cursor", "field": "cursor", "parameter": "page"}""")]
    [InlineData("""{"items": "samples", "next": "number", "parameter": "page"}""")]
    public async Task AllPagesAreTaken(string pages)
    {
        var result = await HttpAsync(
            $$"""{"connection": "lab", "path": "samples", "query": {"day": "2026-11-22", "size": "10"}, "pages": {{pages}}}"""
        );
        Assert.Null(result.Error);
        Assert.Equal(
            47,
            Out(result, "value").AsList.Select(s => s.AsMap.Find("id")!.Value.AsString).Distinct().Count()
        );
        Assert.Equal(
            "pages",
            (
                await HttpAsync(
                    """{"connection": "lab", "path": "samples", "query": {"size": "10"}, "pages": {"items": "samples", "limit": 2}}"""
                )
            )
                .Error
                ?.Code
        );
    }

    [Fact]
    public async Task AServerThatAsksForPatienceIsGivenIt()
    {
        _world.Knobs.Set(new("lab", FailNext: 1, null, null, null, null));
        _bench.Connect("lab", "http", ("url", $"{_world.Address}lab/"), ("auth", "bearer"), ("token", "secret:token"));
        var result = await HttpAsync("""{"connection": "lab", "path": "samples"}""");
        Assert.Null(result.Error);
        Assert.Contains("note the server is busy and asks to wait for 1s", _bench.Log);
        _world.Knobs.Set(new("lab", FailNext: 9, null, null, null, null));
        var error = (await HttpAsync("""{"connection": "lab", "path": "samples"}""")).Error!;
        Assert.Equal("status", error.Code);
        Assert.Contains("503", error.Message);
        Assert.Contains("told to fail", error.Detail);
    }

    [Fact]
    public async Task BodiesOfAllFormsAreSentAndAnswersSaved()
    {
        _bench.Write("body.json", """{"from": "file"}""");
        foreach (
            var body in (string[])
                [
                    "\"json\": {\"text\": \"a\"}",
                    "\"text\": \"{}\", \"contentType\": \"application/json\"",
                    "\"file\": \"body.json\", \"contentType\": \"application/json\"",
                ]
        )
        {
            Assert.Null(
                (
                    await HttpAsync(
                        $$"""{"connection": "open", "method": "post", "path": "chat/rooms/night", {{body}}}"""
                    )
                ).Error
            );
        }

        var saved = await HttpAsync(
            """{"connection": "open", "path": "chat/messages", "saveAs": "in/messages.json"}"""
        );
        Assert.Null(saved.Error);
        Assert.Contains(
            """{"from":"file"}""",
            File.ReadAllText(_bench["in/messages.json"]).Replace(": ", ":", StringComparison.Ordinal)
        );
        Assert.Equal(["messages.json"], Directory.GetFiles(_bench["in"]).Select(Path.GetFileName));
    }

    [Fact]
    public async Task TextsAndFilesAreUploadedTogether()
    {
        _bench.Write("west.csv", "a,b\n1,2\n");
        var result = await HttpAsync(
            """{"connection": "open", "method": "post", "path": "chat/files", "parts": [{"name": "depot", "text": "Süd"}, {"name": "list", "file": "west.csv", "fileName": "pickups.csv", "contentType": "text/csv"}]}"""
        );
        Assert.Null(result.Error);
        Assert.Equal(
            """{"fields": {"depot": "Süd"}, "files": [{"name": "list", "fileName": "pickups.csv", "contentType": "text/csv", "length": 8}]}""",
            Out(result, "value").ToString()
        );
        var both = await HttpAsync(
            """{"connection": "open", "method": "post", "path": "chat/files", "parts": [{"name": "a", "text": "x", "file": "west.csv"}]}"""
        );
        Assert.Equal("the part “a” needs either text or file", both.Error?.Message);
    }

    [Theory]
    [InlineData("application/json", null)]
    [InlineData("application/*", null)]
    [InlineData("text/csv", "the answer is application/json, and text/csv is expected")]
    public async Task AnAnswerOfAnotherTypeIsNone(string type, string? says)
    {
        var result = await HttpAsync(
            $$"""{"connection": "open", "path": "chat/messages", "expectType": "{{type}}", "saveAs": "in/list"}"""
        );
        Assert.Equal(says, result.Error?.Message);
        Assert.Equal(says is null, File.Exists(_bench["in/list"]));
    }

    [Theory]
    [InlineData("""{"path": "nowhere"}""", "setting", "“nowhere” is not an http address; name a connection for a path")]
    [InlineData("""{"connection": "none", "path": "x"}""", "no-connection", "there is no connection “none”")]
    [InlineData(
        """{"connection": "open", "path": "http://elsewhere.example/"}""",
        "address",
        "is another server than the connection's"
    )]
    [InlineData("""{"connection": "open", "path": "chat/", "give": "json"}""", "answer", "the answer is not JSON")]
    [InlineData(
        """{"connection": "open", "path": "chat/", "maxBytes": 10, "give": "text"}""",
        "size",
        "larger than 10 bytes"
    )]
    [InlineData("""{"connection": "open", "path": "gone"}""", "status", "answers 404 Not Found")]
    [InlineData(
        """{"connection": "open", "path": "chat/messages", "pages": {"items": "items"}}""",
        "answer",
        "page 1 holds no list in “items”"
    )]
    public async Task WhatGoesWrongIsTold(string settings, string code, string words)
    {
        var error = (await HttpAsync(settings)).Error!;
        Assert.Equal(code, error.Code);
        Assert.Contains(words, error.Message);
    }

    [Fact]
    public async Task AServerThatIsNotThereIsTold()
    {
        _bench.Connect("gone", "http", ("url", $"http://127.0.0.1:{ServerProcess.FreePort()}"));
        Assert.Equal("unreachable", (await HttpAsync("""{"connection": "gone", "path": "x"}""")).Error?.Code);
    }

    Task<AttemptResult> RemoteAsync(string more = "", string work = "w/1", CancellationToken cancel = default) =>
        _bench.RunAsync(
            new RemoteKind(),
            $$"""{"connection": "compute", "path": "jobs", "json": {"day": "2026-11-22"}, "every": "50ms", "result": "result"{{more}}}""",
            work,
            cancel
        );

    async Task<string> JobsAsync()
    {
        using var http = new HttpClient();
        return await http.GetStringAsync(new Uri(_world.Address, "compute/count"));
    }

    [Fact]
    public async Task AJobIsHandedInFollowedAndItsResultTaken()
    {
        _world.Knobs.Set(new(null, null, null, JobMs: 300, null, null));
        var result = await RemoteAsync();
        Assert.Null(result.Error);
        Assert.Equal("2026-11-22", Out(result, "value").AsMap.Find("order")!.Value.AsMap.Find("day")!.Value.AsString);
        Assert.Equal("/compute/jobs/1/log", Out(result, "log").AsString);
        _world.Knobs.Set(new(null, null, null, null, FailJobs: 1, null));
        Assert.Equal(
            "the job ended failed: the model does not converge",
            (await RemoteAsync(work: "w/2")).Error?.Message
        );
        // An end that nobody said anything about is told; to wait on for another one would be for ever.
        var unknown = (await RemoteAsync(""", "succeeded": ["well"], "failed": ["ill"]""", work: "w/3")).Error!;
        Assert.Equal(
            ("state", "the job has ended “succeeded”, and neither “succeeded” (well) nor “failed” (ill) names that"),
            (unknown.Code, unknown.Message)
        );
    }

    async Task HandedInAsync()
    {
        while (!_bench.Log.Any(l => l.StartsWith("note handed in", StringComparison.Ordinal)))
            await Task.Delay(5);
    }

    [Fact]
    public async Task AfterACrashTheJobUnderWayIsFollowed()
    {
        _world.Knobs.Set(new(null, null, null, JobMs: 1_000, null, null));
        using var cut = new CancellationTokenSource();
        // Not cancelled at the service, as a kill would leave it.
        var first = RemoteAsync(""", "cancel": false""", cancel: cut.Token);
        await HandedInAsync();
        await cut.CancelAsync();
        Assert.Equal("stopped", (await first).Error?.Code);
        Assert.Null((await RemoteAsync()).Error);
        Assert.Contains(_bench.Log, l => l.StartsWith("note the job is under way already", StringComparison.Ordinal));
        Assert.Equal("1", await JobsAsync());
        // Even when only the service knows of it: the same work has the same name.
        Assert.Null((await RemoteAsync()).Error);
        Assert.Equal("1", await JobsAsync());
        Assert.Null((await RemoteAsync(work: "w/2")).Error);
        Assert.Equal("2", await JobsAsync());
    }

    [Fact]
    public async Task ALostJobIsToldAndHandedInAgain()
    {
        _world.Knobs.Set(new(null, null, null, JobMs: 300, null, LoseJobs: 1));
        Assert.Equal("lost", (await RemoteAsync()).Error?.Code);
        Assert.Null((await RemoteAsync()).Error);
        Assert.Equal("2", await JobsAsync());
    }

    [Fact]
    public async Task StoppingCancelsTheJob()
    {
        _world.Knobs.Set(new(null, null, null, JobMs: 60_000, null, null));
        using var stop = new CancellationTokenSource();
        var job = RemoteAsync(cancel: stop.Token);
        await HandedInAsync();
        await stop.CancelAsync();
        Assert.Equal("ended early; the job was cancelled", (await job).Error?.Message);
        using var http = new HttpClient();
        Assert.Contains("cancelled", await http.GetStringAsync(new Uri(_world.Address, "compute/jobs/1")));
    }

    [Fact]
    public async Task RedirectionsAreFollowedWithinTheServerOnly()
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        builder.Logging.ClearProviders();
        await using var other = builder.Build();
        other.MapPost("/form", () => Results.Redirect("/there"));
        other.MapPut("/kept", () => Results.Redirect("/there", preserveMethod: true));
        other.MapMethods(
            "/there",
            ["GET", "PUT"],
            (HttpRequest request) =>
                // A key that belongs to what was sent before the redirection must not come with the asking.
                $"{request.Method} {request.Headers["X-Key"]}"
                + (request.Method == "GET" && request.Headers.ContainsKey("Idempotency-Key") ? " with a key" : "")
        );
        other.MapGet("/away", () => Results.Redirect($"{_world.Address}lab/"));
        other.MapGet("/round", () => Results.Redirect("/round"));
        await other.StartAsync();
        _bench.Secrets["key"] = "made-up-key";
        _bench.Connections["moved"] = new(
            "moved",
            "http",
            new Dictionary<string, Value>
            {
                ["url"] = Value.String(other.Urls.First()),
                ["headers"] = Value.Map(("X-Key", Value.String("secret:key"))),
            }
        );
        Assert.Equal(
            "GET made-up-key",
            Out(
                await HttpAsync("""{"connection": "moved", "path": "form", "method": "post", "json": {"a": 1}}"""),
                "value"
            ).AsString
        );
        Assert.Equal(
            "PUT made-up-key",
            Out(
                await HttpAsync("""{"connection": "moved", "path": "kept", "method": "put", "text": "a"}"""),
                "value"
            ).AsString
        );
        Assert.Contains(
            "is redirected to another server",
            (await HttpAsync("""{"connection": "moved", "path": "away"}""")).Error!.Message
        );
        Assert.Contains(
            "is redirected again and again",
            (await HttpAsync("""{"connection": "moved", "path": "round"}""")).Error!.Message
        );
    }

    [Fact]
    public async Task ATokenThatIsNotToBeHadForAMomentIsWaitedFor()
    {
        _world.Knobs.Set(new("lab", 2, null, null, null, null));
        Assert.Null((await HttpAsync("""{"connection": "lab", "path": "samples"}""")).Error);
        _world.Knobs.Set(new("lab", 9, null, null, null, null));
        Assert.Equal("status", (await HttpAsync("""{"connection": "lab", "path": "samples"}""")).Error!.Code);
    }
}
