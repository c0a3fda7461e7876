using GateChain.Core.Running.State;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Contract;

/// <summary>What an attempt is, and what it may use.</summary>
public sealed record AttemptContext
{
    public required long Run { get; init; }

    /// <summary>The step's path in the run.</summary>
    public required string Step { get; init; }

    public required int Attempt { get; init; }

    /// <summary>Names the piece of work: the same after a crash, a retry or a resume, another one once it has succeeded.</summary>
    public required WorkKey WorkKey { get; init; }

    /// <summary>The folder that relative paths in settings start from.</summary>
    public required string WorkFolder { get; init; }

    /// <summary>Holds a folder for each run's steps.</summary>
    public required string StepsFolder { get; init; }

    /// <summary>A folder for this step's own files; it survives crashes and retries. Not created before somebody needs it.</summary>
    public string StepFolder => field ??= Path.Combine(StepsFolder, Run.ToString(), Step.Replace('/', '+'));

    public required IAttemptLog Log { get; init; }
    public required IConnections Connections { get; init; }

    /// <summary>Values that are put in at the last moment, and never shown.</summary>
    public required ISecrets Secrets { get; init; }

    /// <summary>The text of an attachment of the chain, or null.</summary>
    public required Func<string, string?> Attachment { get; init; }

    public required TimeProvider Time { get; init; }

    /// <summary>The text of a setting, wherever it is; null when the attachment is missing.</summary>
    public string? Read(TextOrFile setting) => setting.Text ?? Attachment(setting.File!);

    /// <summary>A path of the settings as a full path.</summary>
    public string Resolve(string path) => Path.GetFullPath(path, WorkFolder);
}

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
