using System.CommandLine;
using GateChain.Kinds.Command;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain guard</c>: started by a node beside itself, not by people.</summary>
static class GuardCommand
{
    static readonly Argument<string> Node = new("NODE") { Description = "The id of the node" };

    public static Command Create()
    {
        var command = new Command("guard", "Ends the programs of a node that can't; started by the node itself")
        {
            Node,
        };
        command.Hidden = true;
        command.SetAction(
            async (parsed, _) =>
            {
                await ProgramGuard.WatchAsync(parsed.GetValue(Node)!, Console.In, ProgramGuard.Patience, count =>
                    Console.Error.WriteLine($"ended {count} processes of a node that could not")
                );
                return ExitCodes.Succeeded;
            }
        );
        return command;
    }
}
