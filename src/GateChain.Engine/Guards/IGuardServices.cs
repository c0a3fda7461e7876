using GateChain.Engine.Basics;
using GateChain.Engine.Secrets;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Guards;

/// <summary>What guards need from the engine around them.</summary>
interface IGuardSurroundings
{
    TimeProvider Time { get; }
    EngineOptions Options { get; }
    SecretBook Secrets { get; }
    FileWatches Watches { get; }

    IProbe ProbeOf(string name);
}
