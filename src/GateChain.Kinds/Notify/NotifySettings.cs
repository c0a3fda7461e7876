using GateChain.Core.Values;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Notify;

/// <summary>Settings of <c>kind: notify</c>.</summary>
public sealed record NotifySettings
{
    [Setting(
        "An smtp connection for a mail, an http connection for a message to a chat or an event.",
        Required = true,
        Connection = "smtp http"
    )]
    public string Connection { get; init; } = "";

    [Setting("Mail: who gets it.")]
    public IReadOnlyList<string> To { get; init; } = [];

    [Setting("Mail: who gets a copy.")]
    public IReadOnlyList<string> Cc { get; init; } = [];

    [Setting("Mail: who gets a copy without the others seeing it.")]
    public IReadOnlyList<string> Bcc { get; init; } = [];

    [Setting("Mail: its subject.")]
    public string? Subject { get; init; }

    [Setting(
        "Values that `${bind.name}` stands for in a text or HTML that is an attachment; in HTML they are escaped.",
        Expression = true
    )]
    public IReadOnlyDictionary<string, Value> Bind { get; init; } = new Dictionary<string, Value>();

    [Setting("Mail: its text, or `{file: name}`.")]
    public TextOrFile? Text { get; init; }

    [Setting(
        "Mail: the same as HTML, or `{file: name}`. Values in it are escaped; "
            + "a setting that is one `${…}` and nothing else is taken as HTML.",
        Html = true
    )]
    public TextOrFile? Html { get; init; }

    [Setting("Mail: paths or patterns of files that go with it; a pattern that no file is like fails the step.")]
    public IReadOnlyList<string> Attach { get; init; } = [];

    [Setting("Message: the path that is appended to the connection's address.")]
    public string Path { get; init; } = "";

    [Setting(
        "Message: what is sent, as JSON: an expression, for example `{\"text\": \"the run failed\"}`.",
        Expression = true
    )]
    public Value Json { get; init; }

    [Setting("Event: a CloudEvents 1.0 event is sent.")]
    public NotifyEvent? Event { get; init; }
}

/// <summary>An event.</summary>
/// <remarks>Source: CloudEvents 1.0, HTTP binding, structured mode.</remarks>
public sealed record NotifyEvent
{
    [Setting("What has happened, for example `example.larkmoor.night.closed`.", Required = true)]
    public string Type { get; init; } = "";

    [Setting("Where it happened.")]
    public string Source { get; init; } = "/gatechain";

    [Setting("What it is about.")]
    public string? Subject { get; init; }

    [Setting("What there is to know: an expression.", Expression = true)]
    public Value Data { get; init; }
}
