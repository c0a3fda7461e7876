using GateChain.Core.Identity;
using GateChain.Engine.Basics;
using GateChain.Engine.Children;
using GateChain.Engine.Guards;
using GateChain.Engine.Live;
using GateChain.Engine.Logs;
using GateChain.Engine.Reading;
using GateChain.Engine.Secrets;
using GateChain.Engine.Slots;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>What the mailboxes of runs work with. One for all of them.</summary>
sealed class RunServices : IGuardServices
{
    public required EngineOptions Options { get; init; }
    public required TimeProvider Time { get; init; }
    public required IJournal Journal { get; init; }
    public required SnapshotFiles Snapshots { get; init; }
    public required AttemptLogs Logs { get; init; }
    public required SecretVault Secrets { get; init; }
    public required FileWatches Watches { get; init; }
    public required ISlots Slots { get; init; }
    public required RunWaiters Ends { get; init; }
    public required ProgressBoard Progress { get; init; }
    public required RunFeed Feed { get; init; }
    public required RunMeter Meter { get; init; }

    /// <summary>
    /// Is cancelled when the service is being shut down: attempts that are ended for it count as lost, not as failed.
    /// </summary>
    public required CancellationToken Ending { get; init; }

    /// <summary>Whether runs may go on in other services.</summary>
    public bool IsShared { get; init; }

    public required IReadOnlyDictionary<string, IStepKind> Kinds { get; init; }
    public required IReadOnlyDictionary<string, IProbe> Probes { get; init; }

    /// <summary>The connections that the chains of a folder can name now; those for tries when the second is true.
    /// </summary>
    public required Func<Area, bool, IConnections> Connections { get; init; }

    /// <summary>The files that lie beside the chain of a release, by name.</summary>
    public required Func<string, Task<IReadOnlyDictionary<string, byte[]>>> Attachments { get; init; }

    /// <summary>What chains keep from run to run.</summary>
    public required KeptValueService Kept { get; init; }

    /// <summary>How far steps have got in what they read.</summary>
    public required PositionService Positions { get; init; }

    /// <summary>Starts and ends the runs that runs call. Put in last: it starts runs itself.</summary>
    public ChildRuns Children { get; set; } = null!;

    /// <summary>Takes a run over from its mailbox. Put in last: it makes mailboxes itself.</summary>
    public IRunKeeper Keeper { get; set; } = null!;

    /// <summary>Has attempts done on other nodes; null where there are none. Put in last.</summary>
    public FarAttempts? Far { get; set; }

    public IStepKind KindOf(string name) => Kinds[name];

    public IProbe ProbeOf(string name) => Probes[name];
}

/// <summary>Who takes a run over when its mailbox is through with it.</summary>
interface IRunKeeper
{
    /// <summary>The run has ended, and that is on disk.</summary>
    void Settled(RunActor actor);

    /// <summary>The run has been given up: its mailbox is not needed any more.</summary>
    /// <param name="actor">The mailbox.</param>
    /// <param name="why">What somebody has to ensure; null when the run continues by itself.</param>
    void Gone(RunActor actor, string? why);

    /// <summary>
    /// A run that was given up is read from the disk again and continues with the input whose decision could not be
    /// stored.
    /// </summary>
    void RecoverFromDisk(RunActor before, Core.Running.UnstorableInput input);

    /// <summary>The machine, or a kind, gave an exception.</summary>
    /// <param name="step">The step that it happened in; null for none.</param>
    void Broken(long run, Exception exception, string? step = null);
}
