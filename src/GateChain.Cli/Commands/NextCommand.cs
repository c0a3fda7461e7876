using System.CommandLine;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary>What to type after a refusal: what is there instead, or how the run stands.</summary>
static class NextCommand
{
    // By what the service says is missing.
    static readonly (string Missing, string Command)[] Lists =
    [
        ("there is no run", "gatechain runs"),
        ("there is no chain", "gatechain chains"),
        ("there is no trigger", "gatechain triggers"),
        ("there is no backfill", "gatechain backfills"),
        ("there is no connection", "gatechain connections"),
        ("there is no lane", "gatechain lanes"),
        ("there is no kind", "gatechain kinds"),
        ("there is no account", "gatechain user"),
        ("there is no token", "gatechain token"),
    ];

    /// <summary>The command, with what it is for; null when nothing helps.</summary>
    public static string? After(GateChainException refused, ParseResult parsed)
    {
        if (refused.Status == 401)
            return "Sign in: gatechain sign-in";
        var listed = Lists.FirstOrDefault(l => refused.Message.StartsWith(l.Missing, StringComparison.Ordinal));
        if (listed.Command is { } list)
            return $"What there is: {list}";
        var ofRun = parsed.CommandResult.Command.Arguments.Contains(ServiceCommand.Run);
        return ofRun && refused.Status is (404 or 409) && parsed.GetValue(ServiceCommand.Run) is > 0 and var run
            ? $"How it stands: gatechain show {run}"
            : null;
    }
}
