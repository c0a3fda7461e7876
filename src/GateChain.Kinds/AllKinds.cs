using GateChain.Core.Chains.Kinds;
using GateChain.Kinds.Command;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds;

/// <summary>Every kind this version has.</summary>
public static class AllKinds
{
    public static IReadOnlyList<IStepKind> Runners { get; } = [new CommandKind(), new FileKind(), new LoadKind(), new SqlKind()];

    public static KindCatalogue Catalogue { get; } = new(Runners.Select(r => r.Description));
}
