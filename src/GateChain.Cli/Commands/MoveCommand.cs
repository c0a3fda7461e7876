using System.CommandLine;
using System.Globalization;
using GateChain.Service.Hosting;
using GateChain.Storage;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain move</c></summary>
static class MoveCommand
{
    static readonly Option<string> From = new("--from")
    {
        Description = "Where everything is: a data folder, or how a PostgreSQL database is reached (Host=…)",
        Required = true,
    };
    static readonly Option<string> To = new("--to")
    {
        Description = "Where it is to be: the same; has to be empty",
        Required = true,
    };

    public static Command Create()
    {
        var command = new Command(
            "move",
            "Takes everything from the file of a data folder to a PostgreSQL database, or back, while no service runs"
        )
        {
            From,
            To,
        };
        command.SetAction(
            async (parsed, cancel) =>
            {
                try
                {
                    var rows = 0L;
                    await Stores.MoveAsync(
                        parsed.GetValue(From)!,
                        parsed.GetValue(To)!,
                        moved =>
                        {
                            rows += moved.Rows;
                            if (moved.Rows > 0)
                                Console.WriteLine(Line(moved.Table, moved.Rows));
                        },
                        cancel
                    );
                    Console.WriteLine(Line("in all", rows));
                    Console.WriteLine(
                        "The source stays as it was. Logs and keys are in the data folder: serve with both."
                    );
                    return ExitCodes.Succeeded;
                }
                catch (StorageException e)
                {
                    Console.Error.WriteLine($"nothing was moved: {e.Message}");
                    return ExitCodes.Refused;
                }
            }
        );
        return command;
    }

    static string Line(string what, long rows) =>
        string.Create(CultureInfo.InvariantCulture, $"{what, -18} {rows, 12:N0}");
}
