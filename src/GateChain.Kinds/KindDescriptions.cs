using GateChain.Core.Chains.Kinds;
using GateChain.Kinds.Check;
using GateChain.Kinds.Clock;
using GateChain.Kinds.Command;
using GateChain.Kinds.Files;
using GateChain.Kinds.Http;
using GateChain.Kinds.Load;
using GateChain.Kinds.Machine;
using GateChain.Kinds.Notify;
using GateChain.Kinds.Remote;
using GateChain.Kinds.Sql;
using GateChain.Kinds.Transfer;

namespace GateChain.Kinds;

/// <summary>
/// What this version's kinds are called, take and give. To read, check and rehearse chains no kind is ever constructed.
/// </summary>
public static class KindDescriptions
{
    public static KindCatalogue Catalogue { get; } =
        new(
            [
                CheckKind.Described,
                CommandKind.Described,
                FileKind.Described,
                HttpKind.Described,
                LoadKind.Described,
                NotifyKind.Described,
                RemoteKind.Described,
                SqlKind.Described,
                TransferKind.Described,
            ],
            [
                ClockProbe.Described,
                FileProbe.Described,
                HttpProbe.Described,
                PortProbe.Described,
                ProcessProbe.Described,
                QueryProbe.Described,
            ]
        );
}
