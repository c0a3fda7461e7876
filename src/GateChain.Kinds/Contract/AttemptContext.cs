using System.Text;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Contract;

/// <summary>What an attempt is, and what it may use.</summary>
public sealed record AttemptContext
{
    /// <summary>The run's number.</summary>
    public required long Run { get; init; }

    /// <summary>The step's path in the run.</summary>
    public required string Step { get; init; }

    /// <summary>The number of the attempt, from 1 in each leg.</summary>
    public required int Attempt { get; init; }

    /// <summary>
    /// Names the piece of work: the same after a crash, a retry or a resume, another one once it has succeeded.
    /// </summary>
    public required WorkKey WorkKey { get; init; }

    /// <summary>The folder that relative paths in settings start from.</summary>
    public required string WorkFolder { get; init; }

    /// <summary>Holds a folder for each run's steps.</summary>
    public required string StepsFolder { get; init; }

    /// <summary>
    /// A folder for this step's own files; it survives crashes and retries. Not created before somebody needs it.
    /// </summary>
    public string StepFolder => field ??= FolderIn(StepsFolder);

    /// <summary>The folder of this step within one that holds those of many.</summary>
    internal string FolderIn(string folder) => Path.Combine(folder, Run.ToString(), Step.Replace('/', '+'));

    /// <summary>The log of the attempt; secrets in it are masked.</summary>
    public required IAttemptLog Log { get; init; }

    /// <summary>The connections of the workspace as it is now.</summary>
    public required IConnections Connections { get; init; }

    /// <summary>Values that are put in at the last moment, and never shown.</summary>
    public required ISecrets Secrets { get; init; }

    /// <summary>The content of an attachment of the chain, or null.</summary>
    public required Func<string, byte[]?> Attachment { get; init; }

    /// <summary>
    /// How far steps of the chain have got in what they read, by the name it is kept under; null for one that is new.
    /// </summary>
    public Func<string, Value?> Position { get; init; } = _ => null;

    /// <summary>The clock.</summary>
    public required TimeProvider Time { get; init; }

    /// <summary>The text of a setting, wherever it is; null when the attachment is missing.</summary>
    public string? Read(TextOrFile setting) =>
        setting.Text ?? (Attachment(setting.File!) is { } content ? Encoding.UTF8.GetString(content) : null);

    /// <summary>Where files may be read and written.</summary>
    public required AllowedFolders Folders { get; init; }

    /// <summary>
    /// Whether an entry of a setting may name a secret: it stands in the chain file as it is, or is a parameter that is
    /// a secret. What is computed from data never may.
    /// </summary>
    public Func<string, string, bool> NamesSecret { get; init; } = (_, _) => false;

    /// <summary>The user that programs run as; the service's own when null.</summary>
    public ProgramUser? ProgramsAs { get; init; }

    /// <summary>
    /// The id of the service among those that it shares its runs with; null for one that has them alone.
    /// </summary>
    public string? Node { get; init; }

    /// <summary>
    /// What the attempt shows of its trace to whom it calls, as a header <c>traceparent</c>; null for nothing.
    /// </summary>
    public string? Trace { get; init; }

    /// <summary>Names of environment variables that programs get from the service; null for all.</summary>
    public IReadOnlyList<string>? PassedVariables { get; init; }

    /// <summary>
    /// Whether nothing may be changed anywhere: somebody only looks, and what is meant to change something is refused.
    /// </summary>
    public bool ReadOnly { get; init; }

    /// <summary>
    /// An entry of a setting with the secret in it that it names; text that was computed stays as it is.
    /// </summary>
    /// <param name="setting">The setting, for example <c>headers</c>.</param>
    /// <param name="entry">The entry's name.</param>
    /// <param name="value">Its value.</param>
    /// <exception cref="MissingSecretException">It names one that is not there.</exception>
    public string WithSecret(string setting, string entry, string value) =>
        NamesSecret(setting, entry) ? SecretText.Resolve(value, Secrets) : value;

    /// <summary>What using a connection needs.</summary>
    public ConnectionUse ConnectionUse => Folders.For(WorkFolder, Secrets) with { ReadOnly = ReadOnly };

    /// <summary>
    /// Takes how far the work has got, as often as there is something to say; null when nobody looks.
    /// </summary>
    public IProgress<AttemptProgress>? Progress { get; init; }

    /// <summary>A path of the settings as a full path.</summary>
    /// <exception cref="StepFailedException">It leads out of the folders that the service may use.</exception>
    public string Resolve(string path) => Folders.Resolve(path, WorkFolder);
}

/// <summary>How far an attempt has got.</summary>
/// <param name="Rows">Rows or items dealt with.</param>
/// <param name="Bytes">Bytes read; null when that is not known.</param>
/// <param name="Share">Part of the whole, 0 to 1; null when that is not known.</param>
/// <param name="PerSecond">Rows per second since it began.</param>
public sealed record AttemptProgress(long Rows, long? Bytes, double? Share, double PerSecond);

/// <summary>Takes the lines an attempt has to say. Thread-safe, never throws.</summary>
public interface IAttemptLog
{
    /// <summary>A line of the work's own output.</summary>
    void Out(string line);

    /// <summary>A line of the work's error output.</summary>
    void Err(string line);

    /// <summary>A line from the kind itself.</summary>
    void Note(string line);
}
