using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary>Says why the service refused.</summary>
static class Failures
{
    public static int Tell(GateChainException e, ParseResult parsed)
    {
        var json = parsed.GetValue(ServiceCommand.Json);
        if (json)
        {
            ServiceCommand.WriteJson(
                new
                {
                    error = e.Message,
                    status = e.Status,
                    detail = e.Detail,
                    problems = e.Problems,
                }
            );
        }
        foreach (var problem in json ? [] : e.Problems)
            ProblemLines.Write(problem, Console.Error);
        if (!json)
            Console.Error.WriteLine(Words.Plain(e.Detail is null ? e.Message : $"{e.Message}\n{e.Detail}"));
        if (!json && NextCommand.After(e, parsed) is { } next)
            Console.Error.WriteLine(next);
        return e.Status switch
        {
            401 => ExitCodes.NotSignedIn,
            403 => ExitCodes.NotAllowed,
            0 or >= 500 => ExitCodes.NoService,
            422 or 400 => ExitCodes.Usage,
            _ => ExitCodes.Refused,
        };
    }
}
