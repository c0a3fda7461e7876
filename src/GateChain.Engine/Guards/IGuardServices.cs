using GateChain.Engine.Basics;
using GateChain.Engine.Secrets;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Guards;

/// <summary>What guards need from the engine around them.</summary>
interface IGuardServices
{
    TimeProvider Time { get; }
    EngineOptions Options { get; }
    SecretVault Secrets { get; }
    FileWatches Watches { get; }

    IProbe ProbeOf(string name);
}
