using GateChain.Core.Chains.Kinds;
using GateChain.Kinds.Clock;
using GateChain.Kinds.Command;
using GateChain.Kinds.Files;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds;

/// <summary>What this version's kinds are called, take and give. To read, check and rehearse chains no kind is ever constructed.</summary>
public static class KindDescriptions
{
    public static KindCatalogue Catalogue { get; } = new(
        [CommandKind.Described, FileKind.Described, LoadKind.Described, SqlKind.Described],
        [ClockProbe.Described, FileProbe.Described]);
}
