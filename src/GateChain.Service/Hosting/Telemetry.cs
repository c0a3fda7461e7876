using GateChain.Core.Access;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Service.Access;
using GateChain.Service.Endpoints;
using OpenTelemetry.Exporter;
using OpenTelemetry.Metrics;
using OpenTelemetry.Resources;
using OpenTelemetry.Trace;

namespace GateChain.Service.Hosting;

/// <summary>
/// Tells a monitoring system how the service fares: as Prometheus text at <c>/metrics</c>, or by OTLP to an address. It
/// is there when somebody asks for it.
/// </summary>
static class Telemetry
{
    /// <summary>The address of the metrics.</summary>
    public const string Path = "/metrics";

    static readonly string[] Meters = [RunMeter.Name, "System.Runtime", "Microsoft.AspNetCore.Hosting"];

    /// <summary>Adds what gathers the numbers.</summary>
    public static void Add(IServiceCollection services, ServiceOptions options)
    {
        if (!options.Metrics && options.Otlp is null)
            return;
        services
            .AddOpenTelemetry()
            .ConfigureResource(r =>
                r.AddService(
                    "gatechain",
                    serviceVersion: HealthEndpoint.Version,
                    serviceInstanceId: options.Name ?? Environment.MachineName
                )
            )
            .WithMetrics(metrics =>
            {
                metrics.AddMeter(Meters);
                metrics.AddView(i =>
                    i.Meter.Name == RunMeter.Name && i.Unit == "s"
                        ? new ExplicitBucketHistogramConfiguration { Boundaries = [.. RunMeter.Durations] }
                        : null
                );
                if (options.Metrics)
                    metrics.AddPrometheusExporter(p => p.ScrapeEndpointPath = Path);
                if (options.Otlp is { } address)
                    metrics.AddOtlpExporter(o => To(o, address, "v1/metrics"));
            })
            .WithTracing(traces =>
            {
                if (options.Otlp is not { } address)
                    return;
                traces.AddSource(RunTraces.Name);
                traces.AddOtlpExporter(o => To(o, address, "v1/traces"));
            });
    }

    static void To(OtlpExporterOptions exporter, string address, string path)
    {
        exporter.Endpoint = new Uri($"{address.TrimEnd('/')}/{path}");
        exporter.Protocol = OtlpExportProtocol.HttpProtobuf;
    }

    /// <summary>Gives the numbers to whoever may see everything.</summary>
    public static void Map(WebApplication app, ServiceOptions options)
    {
        if (options.Metrics)
            app.MapPrometheusScrapingEndpoint(Path).Needs(Permission.See, Where.Everywhere);
    }
}
