using GateChain.Kinds.Clock;
using GateChain.Kinds.Command;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds;

/// <summary>Every kind this version has, ready to work; <see cref="KindDescriptions"/> describes them.</summary>
public static class AllKinds
{
    public static IReadOnlyList<IStepKind> Runners { get; } = [new CommandKind(), new FileKind(), new LoadKind(), new SqlKind()];

    /// <summary>What guards can look at.</summary>
    public static IReadOnlyList<IProbe> Probes { get; } = [new ClockProbe(), new FileProbe()];
}
