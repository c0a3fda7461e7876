using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain lanes</c></summary>
static class LanesCommand
{
    public static Command Create() =>
        ServiceCommand.Create(
            "lanes",
            "Shows the lanes: which steps are in them, and which wait",
            async (parsed, client, cancel) =>
            {
                var lanes = await client.LanesAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(lanes);
                    return ExitCodes.Succeeded;
                }
                if (lanes.Count == 0)
                    Console.WriteLine("there are no lanes; declare them in lanes.yaml");
                foreach (var lane in lanes)
                {
                    Console.WriteLine(
                        $"{lane.Name}: {lane.Holders.Count} of {lane.Width} taken"
                            + $"{(lane.Waiting.Count > 0 ? $", {lane.Waiting.Count} waiting" : "")}"
                    );
                    foreach (var seat in lane.Holders)
                        Console.WriteLine($"  in       run {seat.Run}  {seat.Step}");
                    foreach (var seat in lane.Waiting)
                        Console.WriteLine($"  waiting  run {seat.Run}  {seat.Step}");
                }
                return ExitCodes.Succeeded;
            }
        );
}
