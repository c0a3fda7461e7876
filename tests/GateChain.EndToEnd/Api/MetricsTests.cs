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

    // A receiver that keeps what it is sent.
    [Fact]
    public async Task ARunIsATraceWithASpanForEachAttempt()
    {
        await using var collector = new Receiver();
        await using var service = await Service.EmptyAsync("--otlp", collector.Address);
        await service.PushAsync(Chain);
        var run = (await service.Client.StartAsync(new("t"))).Id;
        await service.EndAsync(run);
        var traces = await collector.AwaitAsync("/v1/traces");
        // Names stand in the message as they are (protobuf, field by field).
        var text = Encoding.UTF8.GetString(traces);
        foreach (var word in (string[])["run t", "gatechain.run", "gatechain.outcome", "failed", "gatechain"])
            Assert.Contains(word, text);
        await service.TerminateAsync();
        Assert.Contains("gatechain.runs.ended", Encoding.UTF8.GetString(await collector.AwaitAsync("/v1/metrics")));
    }

    sealed class Receiver : IAsyncDisposable
    {
        readonly System.Net.HttpListener _listener = new();
        readonly Dictionary<string, TaskCompletionSource<byte[]>> _came = new()
        {
            ["/v1/traces"] = new(TaskCreationOptions.RunContinuationsAsynchronously),
            ["/v1/metrics"] = new(TaskCreationOptions.RunContinuationsAsynchronously),
        };
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

        public Task<byte[]> AwaitAsync(string path) => _came[path].Task.WaitAsync(TimeSpan.FromSeconds(60));

        async Task WorkAsync()
        {
            try
            {
                while (true)
                {
                    var context = await _listener.GetContextAsync();
                    using var body = new MemoryStream();
                    await context.Request.InputStream.CopyToAsync(body);
                    if (_came.TryGetValue(context.Request.Url!.AbsolutePath, out var came))
                        came.TrySetResult(body.ToArray());
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
