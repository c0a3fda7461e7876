using System.Diagnostics;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Http;

/// <summary>What an <c>http</c> probe asks.</summary>
public sealed record HttpProbeSettings
{
    [Setting(
        "The connection that says the address and who asks; without one, `path` is a full address.",
        Connection = "http"
    )]
    public string? Connection { get; init; }

    [Setting("The path that is appended to the connection's address.")]
    public string Path { get; init; } = "";
}

/// <summary>Sees how a service answers.</summary>
public sealed class HttpProbe : Probe<HttpProbeSettings>
{
    const int Most = 256 << 10;

    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "http",
            "Sees how a service answers a GET.",
            SettingsShape.Of<HttpProbeSettings>(),
            ProbeResult.Outputs(("status", CelType.Int), ("value", CelType.Dyn), ("took", CelType.Duration))
        )
        {
            Sample = ProbeResult.Sample(
                ("status", Value.Int(200)),
                ("value", Value.EmptyMap),
                ("took", Value.Duration(TimeSpan.FromMilliseconds(20)))
            ),
        };

    protected override async ValueTask<Value> LookAsync(
        HttpProbeSettings settings,
        ProbeContext context,
        CancellationToken cancel
    )
    {
        try
        {
            using var http = HttpConnection.Of(settings.Connection, context.Connections, context.Secrets, context.Time);
            var address = http.Address(settings.Path);
            var clock = Stopwatch.StartNew();
            using var response = await http.SendAsync(
                    () => new(HttpMethod.Get, address),
                    HttpCompletionOption.ResponseHeadersRead,
                    cancel
                )
                .ConfigureAwait(false);
            var text = response.Content.Headers.ContentLength is > Most
                ? ""
                : await HttpAnswers.BodyAsync(response, Most, cut: true, cancel).ConfigureAwait(false);
            if (text.Length > Most)
                text = "";
            var isJson =
                response.Content.Headers.ContentType?.MediaType?.EndsWith("json", StringComparison.Ordinal) == true;
            return ProbeResult.Seen(
                ("status", Value.Int((int)response.StatusCode)),
                ("value", (isJson ? ValueJson.TryParse(text) : null) ?? Value.String(text)),
                ("took", Value.Duration(clock.Elapsed))
            );
        }
        catch (MissingSecretException e)
        {
            return ProbeResult.Failed(e.Message);
        }
        catch (Exception e) when (HttpErrors.Of(e) is { } error)
        {
            return ProbeResult.Failed(error.Message);
        }
    }
}
