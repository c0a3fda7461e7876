using System.Diagnostics;
using System.Net.Sockets;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Machine;

/// <summary>Where a <c>port</c> probe knocks.</summary>
public sealed record PortProbeSettings
{
    [Setting("The machine's name or address.", Required = true)]
    public string Host { get; init; } = "";

    [Setting("The port, 1 to 65,535.", Required = true, Min = 1, Max = 65_535)]
    public int Port { get; init; }

    [Setting("How long to wait for an answer.")]
    public TimeSpan Timeout { get; init; } = TimeSpan.FromSeconds(5);
}

/// <summary>Sees whether something listens at a port.</summary>
public sealed class PortProbe : Probe<PortProbeSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "port",
            "Sees whether something listens at a TCP port.",
            SettingsShape.Of<PortProbeSettings>(),
            ProbeResult.Outputs(("open", CelType.Bool), ("took", CelType.Duration))
        )
        {
            Sample = ProbeResult.Sample(("open", Value.True), ("took", Value.Duration(TimeSpan.FromMilliseconds(1)))),
        };

    protected override async ValueTask<Value> LookAsync(
        PortProbeSettings settings,
        ProbeContext context,
        CancellationToken cancel
    )
    {
        if (settings.Port is < 1 or > 65535)
            return ProbeResult.Failed($"a port is 1 to 65535, and this is {settings.Port}");
        if (context.Connections.Network.Refusal(settings.Host) is { } refusal)
            return ProbeResult.Failed(refusal);
        using var client = new TcpClient();
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        patience.CancelAfter(settings.Timeout);
        var clock = Stopwatch.StartNew();
        try
        {
            await client.ConnectAsync(settings.Host, settings.Port, patience.Token).ConfigureAwait(false);
            return ProbeResult.Seen(("open", Value.True), ("took", Value.Duration(clock.Elapsed)));
        }
        catch (SocketException e)
            when (e.SocketErrorCode is SocketError.HostNotFound or SocketError.NoData or SocketError.TryAgain)
        {
            return ProbeResult.Failed($"there is no machine “{settings.Host}”");
        }
        catch (SocketException)
        {
            return Shut();
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return Shut();
        }

        Value Shut() => ProbeResult.Seen(("open", Value.False), ("took", Value.Duration(clock.Elapsed)));
    }
}
