using GateChain.Core.Values;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Remote;

/// <summary>Settings of <c>kind: remote</c>.</summary>
public sealed record RemoteSettings
{
    [Setting("The http connection of the service that does the work.", Required = true, Connection = "http")]
    public string Connection { get; init; } = "";

    [Setting(
        "Where the job is submitted, relative to the connection's address: by POST. "
            + "The answer says in the header Location, or in the field `at`, where to ask about it.",
        Required = true
    )]
    public string Path { get; init; } = "";

    [Setting("The job, as JSON: an expression.", Expression = true)]
    public Value Json { get; init; }

    [Setting("The field of the answer with the job's address, where there is no header Location.")]
    public string At { get; init; } = "location";

    [Setting("The field with the state of the job.")]
    public string State { get; init; } = "state";

    [Setting("States that mean success.")]
    public IReadOnlyList<string> Succeeded { get; init; } = ["succeeded"];

    [Setting("States that mean failure.")]
    public IReadOnlyList<string> Failed { get; init; } = ["failed", "cancelled"];

    [Setting(
        "The field with the job's result, or with the address it is to be got from; the whole answer when absent."
    )]
    public string? Result { get; init; }

    [Setting("The field that says why a job failed.")]
    public string Error { get; init; } = "error";

    [Setting("The field with the address of the job's log; shown with the step.")]
    public string Log { get; init; } = "log";

    [Setting("How long to wait between two questions, where the service does not say so by Retry-After.")]
    public TimeSpan Every { get; init; } = TimeSpan.FromSeconds(5);

    [Setting("Whether the job is cancelled, by DELETE, when the step is stopped.")]
    public bool Cancel { get; init; } = true;
}
