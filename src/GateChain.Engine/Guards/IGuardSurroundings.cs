using GateChain.Engine.Basics;
using GateChain.Engine.Secrets;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Guards;

/// <summary>What guards need from the engine around them.</summary>
interface IGuardSurroundings
{
    TimeProvider Time { get; }
    EngineOptions Options { get; }
    IConnections Connections { get; }
    SecretBook Secrets { get; }
    FileWatches Watches { get; }

    IProbe ProbeOf(string name);
}
