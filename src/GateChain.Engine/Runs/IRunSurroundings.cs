using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Children;
using GateChain.Engine.Guards;
using GateChain.Engine.Lanes;
using GateChain.Engine.Live;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Storage;
using GateChain.Storage.Logs;
using GateChain.Storage.Snapshots;

namespace GateChain.Engine.Runs;

/// <summary>What a run's mailbox needs from the engine around it.</summary>
interface IRunSurroundings : IGuardSurroundings
{
    IJournal Journal { get; }
    AttemptLogs Logs { get; }

    /// <summary>
    /// Whether the service is being shut down: attempts that were ended for it count as lost, not as failed.
    /// </summary>
    bool IsSuspending { get; }

    IStepKind KindOf(string name);

    SnapshotFiles Snapshots { get; }

    LaneDesk Lanes { get; }

    ChildRuns Children { get; }

    EndWatch Ends { get; }

    ProgressBoard Progress { get; }

    byte[]? Attachment(string release, string name);

    /// <summary>A decision is on disk.</summary>
    void Changed(RunChanged change);

    /// <summary>The run has ended, and that is on disk.</summary>
    void Settled(RunActor actor, RunState state);

    /// <summary>The run has been let go: its mailbox is not needed any more.</summary>
    /// <param name="actor">The mailbox.</param>
    /// <param name="why">What somebody has to see to; null when the run goes on by itself.</param>
    void Gone(RunActor actor, string? why);

    /// <summary>
    /// A run that was let go is read from the disk again and goes on with the input whose decision could not be stored.
    /// </summary>
    void GoOnFromDisk(RunActor before, UnstorableInput input);

    /// <summary>The machine gave an exception.</summary>
    void Broken(long run, Exception exception);
}
