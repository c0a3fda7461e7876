using GateChain.Kinds.Check;
using GateChain.Kinds.Clock;
using GateChain.Kinds.Command;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;
using GateChain.Kinds.Http;
using GateChain.Kinds.Load;
using GateChain.Kinds.Machine;
using GateChain.Kinds.Notify;
using GateChain.Kinds.Remote;
using GateChain.Kinds.Sql;
using GateChain.Kinds.Transfer;

namespace GateChain.Kinds;

/// <summary>Every kind this version has, ready to work; <see cref="KindDescriptions"/> describes them.</summary>
public static class AllKinds
{
    public static IReadOnlyList<IStepKind> Runners { get; } =
    [
        new CheckKind(),
        new CommandKind(),
        new FileKind(),
        new HttpKind(),
        new LoadKind(),
        new NotifyKind(),
        new RemoteKind(),
        new SqlKind(),
        new TransferKind(),
    ];

    /// <summary>What guards can look at.</summary>
    public static IReadOnlyList<IProbe> Probes { get; } =
    [new ClockProbe(), new FileProbe(), new HttpProbe(), new PortProbe(), new ProcessProbe(), new QueryProbe()];
}
