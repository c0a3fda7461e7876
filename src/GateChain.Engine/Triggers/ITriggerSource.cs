using GateChain.Engine.Basics;
using GateChain.Engine.Guards;
using GateChain.Engine.Runs;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Contract;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>Waits for the occasions of one trigger, from when it is armed until it is disposed of.</summary>
interface ITriggerSource : IAsyncDisposable
{
    /// <summary>Begins to wait.</summary>
    void Arm();

    /// <summary>Ends when it sees all that comes from here on.</summary>
    Task Armed { get; }

    /// <summary>What keeps it from seeing all that it should, a sentence each; mostly none.</summary>
    IReadOnlyList<string> Troubles { get; }
}

/// <summary>What sources of triggers work with. One for all of them.</summary>
sealed class TriggerParts
{
    public required TriggerIndex Triggers { get; init; }
    public required FireService Desk { get; init; }
    public required ITriggerStore Store { get; init; }
    public required WorkspaceService Workspace { get; init; }
    public required RunStarter Starter { get; init; }
    public required SecretVault Secrets { get; init; }
    public required EngineOptions Options { get; init; }
    public required FileWatches Watches { get; init; }
    public required IReadOnlyDictionary<string, IProbe> Probes { get; init; }
    public required TimeProvider Time { get; init; }
    public required ILogger Logger { get; init; }
}
