namespace GateChain.Storage;

/// <summary>
/// Everything that a service must not lose, in one database. A write is on disk when it ends. Thread-safe; to dispose
/// of it writes what was handed over, and closes the database.
/// </summary>
public interface IStore : IAsyncDisposable
{
    /// <summary>What runs have decided.</summary>
    IJournal Journal { get; }

    /// <summary>News of runs, for those who must not miss any.</summary>
    IOutbox Outbox { get; }

    /// <summary>Which runs there are.</summary>
    IRunStore Runs { get; }

    /// <summary>What is remembered of runs that have ended.</summary>
    IHistory History { get; }

    /// <summary>How long runs are kept that have ended.</summary>
    IRetention Retention { get; }

    /// <summary>Who may continue with a run.</summary>
    IRunOwnership Ownership { get; }

    /// <summary>The chains that were released.</summary>
    ICatalogue Catalogue { get; }

    /// <summary>The chains that are being designed.</summary>
    IDrafts Drafts { get; }

    /// <summary>What stands beside the chains.</summary>
    IFileStore Files { get; }

    /// <summary>What chains keep from run to run.</summary>
    IKeptValues Kept { get; }

    /// <summary>What is known of triggers.</summary>
    ITriggerStore Triggers { get; }

    /// <summary>Due times that are made up for.</summary>
    IBackfills Backfills { get; }

    /// <summary>What nobody is shown.</summary>
    ISecretStore Secrets { get; }

    /// <summary>Who may use the service.</summary>
    IAccessStore Access { get; }

    /// <summary>Who has changed what.</summary>
    IAuditLog Audit { get; }
}
