using System.CommandLine;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain tidy</c></summary>
static class TidyCommand
{
    static readonly Argument<string> Name = new("CONNECTION") { Description = "The connection to a database" };
    static readonly Option<string?> Area = new("--area")
    {
        Description = "The folder of the workspace that declares it, when several do",
    };
    static readonly Option<bool> DryRun = new("--dry-run")
    {
        Description = "Tell what would be cleared, and clear nothing",
    };
    static readonly Option<bool> Failed = new("--failed")
    {
        Description = "Also those of runs that failed or were stopped: a resume reads the source from the start then",
    };
    static readonly Option<bool> Unknown = new("--unknown")
    {
        Description = "Also those that this service does not know; they may be another service's",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "tidy",
            "Clears stages that loads have left in a database and no run needs",
            async (parsed, client, cancel) =>
            {
                var dry = parsed.GetValue(DryRun);
                var all = await client.TidyAsync(
                    parsed.GetValue(Name)!,
                    new TidyRequest(dry, parsed.GetValue(Failed), parsed.GetValue(Unknown)),
                    parsed.GetValue(Area),
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(all);
                    return ExitCodes.Succeeded;
                }
                if (all.Count == 0)
                    Console.WriteLine($"no load has left anything in {parsed.GetValue(Name)}");
                foreach (var s in all)
                {
                    Console.WriteLine(
                        $"{(!s.Cleared ? "kept" : dry ? "would be cleared" : "cleared"), -16}  {s.Stage}"
                            + $"{(s.Run is null ? "" : $"  run {s.Run} {s.Step}")}: {s.Why}"
                    );
                }
                return ExitCodes.Succeeded;
            },
            Name,
            Area,
            DryRun,
            Failed,
            Unknown
        );
}
