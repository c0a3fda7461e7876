using GateChain.Access.Audit;
using Serilog;
using Serilog.Events;
using Serilog.Formatting.Compact;

namespace GateChain.Service.Hosting;

/// <summary>What goes into the service's log, and where it is.</summary>
static class ServiceLog
{
    /// <param name="log">Is set up.</param>
    /// <param name="dataFolder">Where its files are.</param>
    /// <param name="toConsole">Whether lines go to the standard error output too.</param>
    public static void Configure(LoggerConfiguration log, string dataFolder, bool toConsole)
    {
        log.MinimumLevel.Information()
            .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
            // Who comes and goes is told by the node itself.
            .MinimumLevel.Override("Orleans", LogEventLevel.Fatal)
            .MinimumLevel.Override("GateChain.Cluster.Calls", LogEventLevel.Warning)
            .MinimumLevel.Override("Polly", LogEventLevel.Warning)
            // What keeps it from starting is told in a sentence by who starts it.
            .MinimumLevel.Override("Microsoft.Extensions.Hosting.Internal.Host", LogEventLevel.Fatal)
            // That keys lie in a folder which only the service reads is meant so.
            .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
            .WriteTo.File(
                new CompactJsonFormatter(),
                Path.Combine(dataFolder, "service-.jsonl"),
                rollingInterval: RollingInterval.Day,
                retainedFileCountLimit: 14
            );
        if (toConsole)
        {
            // Anchors are for the file: a terminal would be full of them.
            log.WriteTo.Logger(terminal =>
                terminal
                    .Filter.ByExcluding(e =>
                        e.MessageTemplate.Text.StartsWith(AuditSealer.Anchor, StringComparison.Ordinal)
                    )
                    .WriteTo.Console(
                        outputTemplate: "{Timestamp:HH:mm:ss.fff} {Level:u3} {Message:lj}{NewLine}{Exception}",
                        standardErrorFromLevel: LogEventLevel.Verbose
                    )
            );
        }
    }
}
