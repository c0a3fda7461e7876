using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Basics;

/// <summary>Where the engine works.</summary>
/// <param name="DataFolder">The service's own data: database, logs. Created when absent, for the owner only.</param>
/// <param name="WorkFolder">Where relative paths of chains start from.</param>
public sealed record EngineOptions(string DataFolder, string WorkFolder)
{
    /// <summary>
    /// Whether it is remembered how runs went, for home and history. Without, both stay empty; what ended meanwhile is
    /// made up for by the next engine that does.
    /// </summary>
    public bool KeepsHistory { get; init; } = true;

    /// <summary>Where it is told which data runs have read and written; null for nowhere.</summary>
    public LineageTarget? Lineage { get; init; }

    /// <summary>The database file.</summary>
    public string Database { get; } = Path.Combine(DataFolder, "gatechain.db");

    /// <summary>Where attempts write their logs.</summary>
    public string Logs { get; } = Path.Combine(DataFolder, "logs");

    /// <summary>Where steps keep what they need beyond an attempt.</summary>
    public string Steps { get; } = Path.Combine(DataFolder, "steps");

    /// <summary>
    /// The folders in which steps may read and write files: the work folder, and what else the service was told to
    /// allow.
    /// </summary>
    public AllowedFolders Folders { get; init; } = new(WorkFolder) { Forbidden = DataFolder };

    /// <summary>
    /// What a program of a step needs to find its way; everything else of the service's environment is kept from it.
    /// </summary>
    public static IReadOnlyList<string> UsualVariables { get; } =
    [
        "PATH",
        "HOME",
        "USER",
        "LOGNAME",
        "SHELL",
        "LANG",
        "LANGUAGE",
        "LC_ALL",
        "LC_CTYPE",
        "LC_TIME",
        "LC_NUMERIC",
        "LC_COLLATE",
        "LC_MESSAGES",
        "TZ",
        "TMPDIR",
        "SSL_CERT_FILE",
        "SSL_CERT_DIR",
    ];

    /// <summary>The user that programs of steps run as; the service's own when null.</summary>
    public ProgramUser? ProgramsAs { get; init; }

    /// <summary>The id of the service among those that it shares its store with; null when it has it alone.</summary>
    public string? Node { get; init; }

    /// <summary>Names of environment variables that programs of steps get from the service.</summary>
    public IReadOnlyList<string> PassedVariables { get; init; } = UsualVariables;

    /// <summary>
    /// The folder of the machine whose files are secrets, <c>secret:file:NAME</c>; null for none. A folder within it is
    /// that of the workspace for which they are.
    /// </summary>
    public string? SecretFiles { get; init; }

    /// <summary>The port that the service itself listens at, once it does.</summary>
    public Func<int?> OwnPort { get; init; } = () => null;

    /// <summary>The kinds that are plug-ins.</summary>
    public IReadOnlySet<string> Plugins { get; init; } = new HashSet<string>();

    /// <summary>What steps of an area may use; everything when nobody says otherwise.</summary>
    public Func<Area, AreaRules> Rules { get; init; } = _ => AreaRules.Open;

    /// <summary>How big values, runs and decisions may be.</summary>
    public Bounds Bounds { get; init; } = Bounds.Default;

    /// <summary>Where states of long runs are kept.</summary>
    public string Snapshots { get; } = Path.Combine(DataFolder, "snapshots");

    /// <summary>
    /// How many events a run has when its first snapshot is taken; the next ones follow when it has half as many
    /// again, and at its end. Default 50,000.
    /// </summary>
    public int SnapshotFrom { get; init; } = 50_000;

    /// <summary>How long attempts get to end by themselves when the service is shut down. Default 5 s.</summary>
    public TimeSpan ShutdownPatience { get; init; } = TimeSpan.FromSeconds(5);
}

/// <summary>Where events of OpenLineage go.</summary>
/// <param name="Target">An address that they are posted to, or the path of a file that gets a line each.</param>
/// <param name="Namespace">The namespace of chains and their steps.</param>
/// <param name="Version">The version of the program.</param>
public sealed record LineageTarget(string Target, string Namespace, string Version)
{
    /// <summary>The address; null for a file.</summary>
    public Uri? Address { get; } =
        Uri.TryCreate(Target, UriKind.Absolute, out var uri) && uri.Scheme is "http" or "https" ? uri : null;
}
