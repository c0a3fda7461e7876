using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Api;

/// <summary>What a monitoring system is told.</summary>
public sealed partial class MetricsTests
{
    [GeneratedRegex(
        """^(?<name>[a-zA-Z_:][a-zA-Z0-9_:]*)(\{(?<labels>([a-zA-Z_][a-zA-Z0-9_]*="([^"\\\n]|\\["\\n])*",?)*)\})? (?<value>\S+)( \d+)?$"""
    )]
    private static partial Regex Sample { get; }

    const string Chain =
        "chain: t\nsteps:\n  a: { kind: command, set: { run: ['true'] } }\n"
        + "  b: { kind: command, set: { run: ['false'] } }\ngates: [ { from: a, to: b } ]";

    /// <summary>The samples of a text, each with its labels; fails when a line is none of the format.</summary>
    static Dictionary<string, double> Read(string text)
    {
        var found = new Dictionary<string, double>();
        var types = new Dictionary<string, string>();
        Assert.EndsWith("\n", text);
        foreach (var line in text.Split('\n', StringSplitOptions.RemoveEmptyEntries))
        {
            if (line.StartsWith("# TYPE ", StringComparison.Ordinal))
            {
                var parts = line.Split(' ');
                Assert.True(types.TryAdd(parts[2], parts[3]), $"{parts[2]} is told twice");
                Assert.Contains(parts[3], (string[])["counter", "gauge", "histogram", "unknown", "untyped", "info"]);
                continue;
            }
            if (line[0] == '#')
                continue;
            var sample = Sample.Match(line);
            Assert.True(sample.Success, line);
            var value = sample.Groups["value"].Value;
            found.Add(
                $"{sample.Groups["name"].Value}{{{sample.Groups["labels"].Value}}}",
                value is "+Inf" or "-Inf" or "NaN" ? 0 : double.Parse(value, CultureInfo.InvariantCulture)
            );
        }
        return found;
    }

    static double Of(Dictionary<string, double> samples, string name, params string[] labels) =>
        samples
            .Where(s =>
                s.Key.StartsWith(name + "{", StringComparison.Ordinal)
                && labels.All(l => s.Key.Contains(l, StringComparison.Ordinal))
            )
            .Sum(s => s.Value);

    [Fact]
    public async Task RunsStepsAndAttemptsAreCounted()
    {
        await using var service = await Service.EmptyAsync("--metrics");
        await service.PushAsync(Chain);
        for (var i = 0; i < 3; i++)
            await service.EndAsync((await service.Client.StartAsync(new("t"))).Id);
        using var http = new HttpClient { BaseAddress = service.Address };
        Dictionary<string, double> samples = [];
        for (var tries = 0; tries < 100; tries++)
        {
            samples = Read(await http.GetStringAsync("metrics", TestContext.Current.CancellationToken));
            if (Of(samples, "gatechain_run_duration_seconds_count") == 3)
                break;
            await Task.Delay(50, TestContext.Current.CancellationToken);
        }
        Assert.Equal(3, Of(samples, "gatechain_runs_started_total", "chain=\"t\""));
        Assert.Equal(3, Of(samples, "gatechain_runs_ended_total", "chain=\"t\"", "outcome=\"failed\""));
        Assert.Equal(3, Of(samples, "gatechain_steps_ended_total", "outcome=\"succeeded\""));
        Assert.Equal(3, Of(samples, "gatechain_steps_ended_total", "outcome=\"failed\""));
        Assert.Equal(6, Of(samples, "gatechain_attempt_duration_seconds_count", "kind=\"command\""));
        Assert.Equal(3, Of(samples, "gatechain_run_duration_seconds_count"));
        Assert.Equal(0, Of(samples, "gatechain_runs_in_flight"));
        Assert.Equal(0, Of(samples, "gatechain_store_trouble"));
        Assert.Contains(samples, s => s.Key.StartsWith("dotnet_", StringComparison.Ordinal));
    }

    // Of a name that is changed in the program the dashboard is not told by anybody else.
    [Fact]
    public void TheDashboardShowsWhatIsTold()
    {
        var text = File.ReadAllText(Path.Combine(Place.Root, "deploy/dashboard.json"));
        var docs = File.ReadAllText(Path.Combine(Place.Root, "docs/operating.md"));
        Assert.NotNull(System.Text.Json.Nodes.JsonNode.Parse(text)!["panels"]);
        var names = GeneratedName.Matches(text).Select(m => m.Value).Distinct().ToList();
        Assert.True(names.Count > 8);
        Assert.All(names, n => Assert.Contains($"`{n}`", docs));
    }

    [GeneratedRegex("gatechain_[a-z_]+?(?=_bucket|[^a-z_])")]
    private static partial Regex GeneratedName { get; }

    [Fact]
    public async Task ProbesAreAnswered()
    {
        await using var service = await Service.EmptyAsync();
        using var http = new HttpClient { BaseAddress = service.Address };
        var cancel = TestContext.Current.CancellationToken;
        Assert.Equal("live\n", await http.GetStringAsync("health/live", cancel));
        Assert.Equal("ready\n", await http.GetStringAsync("health/ready", cancel));
    }

    [Fact]
    public async Task NobodyIsToldWhoMayNotSeeEverythingOrHasNotAsked()
    {
        await using var quiet = await Service.EmptyAsync();
        using var http = new HttpClient();
        var answer = await http.GetAsync(new Uri(quiet.Address, "metrics"), TestContext.Current.CancellationToken);
        // The console answers every address that is not the API's.
        Assert.DoesNotContain(
            "gatechain_",
            await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)
        );
    }

    // From who called the hook, through a run and its child, to whom a step of the child calls: one trace.
    [Fact]
    public async Task ATraceLeadsFromTheCallerOfAHookToWhomAStepCalls()
    {
        await using var collector = new Receiver();
        await using var service = await Service.EmptyAsync("--otlp", collector.Address);
        await service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["top.chain.yaml"] = Encoding.UTF8.GetBytes(
                    "chain: top\nsteps:\n  loop: { kind: each, over: \"[1, 2]\", "
                        + "steps: { go: { kind: call, chain: below } } }"
                ),
                ["below.chain.yaml"] = Encoding.UTF8.GetBytes(
                    "chain: below\nsteps:\n"
                        + $"  ask: {{ kind: http, set: {{ path: '{collector.Address}/asked', method: post }} }}\n"
                        + "  show: { kind: command, set: { run: [sh, -c, 'echo $TRACEPARENT'] } }\n"
                        + "gates: [ { from: ask, to: show } ]"
                ),
                ["triggers.yaml"] = "call: { chain: top, hook: { path: in, open: true } }"u8.ToArray(),
            }
        );
        using var http = new HttpClient { BaseAddress = service.Address };
        using var call = new HttpRequestMessage(HttpMethod.Post, "hooks/in");
        const string trace = "4bf92f3577b34da6a3ce929d0e0e4736",
            caller = "00f067aa0ba902b7";
        call.Headers.Add("traceparent", $"00-{trace}-{caller}-01");
        var answer = await http.SendAsync(call, TestContext.Current.CancellationToken);
        Assert.True(answer.IsSuccessStatusCode, await answer.Content.ReadAsStringAsync());
        foreach (var run in (long[])[1, 2, 3])
            await service.EndAsync(run);
        var (_, log, _) = await service.CliAsync("log", "2", "show");
        await service.TerminateAsync();
        var spans = collector.Spans();
        Assert.Contains(spans, s =>
            s.Name == "show" && log.Contains($"00-{trace}-{s.Id}-01", StringComparison.Ordinal)
        );
        Assert.All(spans, s => Assert.Equal(trace, s.Trace));
        Assert.All(spans, s => Assert.True(s.Start > 0 && s.End >= s.Start));
        Assert.Equal(spans.Count, spans.Select(s => s.Id).Distinct().Count());
        var byId = spans.ToDictionary(s => s.Id);
        var top = Assert.Single(spans, s => s.Name == "run top");
        Assert.Equal(caller, top.Above);
        foreach (var asked in spans.Where(s => s.Name == "ask"))
        {
            Assert.Equal("run below", byId[asked.Above].Name);
            var go = byId[byId[asked.Above].Above];
            Assert.Matches(@"^loop\[[01]\]/go$", go.Name);
            Assert.Equal(("loop", "run top"), (byId[go.Above].Name, byId[byId[go.Above].Above].Name));
        }
        // What was shown is the span of the attempt.
        Assert.Equal(2, collector.Shown.Count);
        foreach (var shown in collector.Shown)
            Assert.Contains(spans, s => s.Name == "ask" && shown == $"00-{trace}-{s.Id}-01");
    }

    [Fact]
    public async Task ARunIsATraceWithASpanForEachAttempt()
    {
        await using var collector = new Receiver();
        await using var service = await Service.EmptyAsync("--otlp", collector.Address);
        await service.PushAsync(Chain);
        var run = (await service.Client.StartAsync(new("t"))).Id;
        await service.EndAsync(run);
        await service.TerminateAsync();
        var spans = collector.Spans();
        Assert.Equal(["a", "b", "run t"], spans.Select(s => s.Name).Order());
        Assert.Equal(1, spans.Select(s => s.Trace).Distinct().Count());
        // 2 is an error.
        Assert.Equal((0, 2, 2), (Of("a").Status, Of("b").Status, Of("run t").Status));
        Assert.Equal("failed", Of("run t").Tags["gatechain.outcome"]);
        Assert.Equal(Of("run t").Id, Of("a").Above);
        Assert.Contains("gatechain.runs.ended", Encoding.UTF8.GetString(await collector.AwaitAsync("/v1/metrics")));

        Span Of(string name) => spans.Single(s => s.Name == name);
    }

    /// <summary>A span, as the protocol has it.</summary>
    sealed record Span(
        string Trace,
        string Id,
        string Above,
        string Name,
        ulong Start,
        ulong End,
        int Status,
        IReadOnlyDictionary<string, string> Tags
    );

    /// <summary>A message of protobuf, field by field. Source: its encoding, and opentelemetry-proto 1.</summary>
    sealed class Message
    {
        readonly List<(int Number, ulong Value, byte[] Bytes)> _fields = [];

        public Message(byte[] bytes)
        {
            for (var at = 0; at < bytes.Length; )
            {
                var tag = Varint(bytes, ref at);
                switch (tag & 7)
                {
                    case 0:
                        _fields.Add(((int)(tag >> 3), Varint(bytes, ref at), []));
                        break;
                    case 1:
                        _fields.Add(((int)(tag >> 3), BitConverter.ToUInt64(bytes, at), []));
                        at += 8;
                        break;
                    case 2:
                        var length = (int)Varint(bytes, ref at);
                        _fields.Add(((int)(tag >> 3), 0, bytes[at..(at + length)]));
                        at += length;
                        break;
                    case 5:
                        _fields.Add(((int)(tag >> 3), BitConverter.ToUInt32(bytes, at), []));
                        at += 4;
                        break;
                    default:
                        throw new FormatException($"wire type {tag & 7}");
                }
            }
        }

        static ulong Varint(byte[] bytes, ref int at)
        {
            ulong value = 0;
            for (var shift = 0; ; shift += 7)
            {
                value |= (ulong)(bytes[at] & 0x7f) << shift;
                if (bytes[at++] < 0x80)
                    return value;
            }
        }

        public IEnumerable<Message> Under(int number) =>
            _fields.Where(f => f.Number == number).Select(f => new Message(f.Bytes));

        public string Hex(int number) => Convert.ToHexStringLower(Bytes(number));

        public string Text(int number) => Encoding.UTF8.GetString(Bytes(number));

        public ulong Value(int number) => _fields.FirstOrDefault(f => f.Number == number).Value;

        byte[] Bytes(int number) => _fields.FirstOrDefault(f => f.Number == number).Bytes ?? [];
    }

    sealed class Receiver : IAsyncDisposable
    {
        readonly System.Net.HttpListener _listener = new();
        readonly System.Collections.Concurrent.ConcurrentQueue<(string Path, byte[] Body)> _came = [];
        readonly Task _work;

        public Receiver()
        {
            var port = ServerProcess.FreePort();
            Address = $"http://127.0.0.1:{port}";
            _listener.Prefixes.Add($"{Address}/");
            _listener.Start();
            _work = Task.Run(WorkAsync);
        }

        public string Address { get; }

        /// <summary>What requests showed of their trace.</summary>
        public System.Collections.Concurrent.ConcurrentQueue<string> Shown { get; } = [];

        public async Task<byte[]> AwaitAsync(string path)
        {
            for (var tries = 0; tries < 1_200; tries++)
            {
                if (_came.FirstOrDefault(c => c.Path == path).Body is { } body)
                    return body;
                await Task.Delay(50);
            }
            throw new TimeoutException($"nothing came to {path}");
        }

        public IReadOnlyList<Span> Spans() =>
            [
                .. _came
                    .Where(c => c.Path == "/v1/traces")
                    .SelectMany(c => new Message(c.Body).Under(1))
                    .SelectMany(resource => resource.Under(2))
                    .SelectMany(scope => scope.Under(2))
                    .Select(s => new Span(
                        s.Hex(1),
                        s.Hex(2),
                        s.Hex(4),
                        s.Text(5),
                        s.Value(7),
                        s.Value(8),
                        (int)(s.Under(15).FirstOrDefault()?.Value(3) ?? 0),
                        s.Under(9).ToDictionary(t => t.Text(1), t => t.Under(2).First().Text(1))
                    )),
            ];

        async Task WorkAsync()
        {
            try
            {
                while (true)
                {
                    var context = await _listener.GetContextAsync();
                    using var body = new MemoryStream();
                    await context.Request.InputStream.CopyToAsync(body);
                    _came.Enqueue((context.Request.Url!.AbsolutePath, body.ToArray()));
                    if (context.Request.Url.AbsolutePath == "/asked")
                        Shown.Enqueue(context.Request.Headers["traceparent"] ?? "");
                    context.Response.ContentType = "application/x-protobuf";
                    context.Response.Close();
                }
            }
            catch (Exception e) when (e is System.Net.HttpListenerException or ObjectDisposedException)
            {
                // It has been closed.
            }
        }

        public async ValueTask DisposeAsync()
        {
            _listener.Close();
            await _work;
        }
    }
}
