using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Service.Backup;
using GateChain.Service.Hosting;
using GateChain.Storage;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain backup</c> and <c>restore</c></summary>
static class BackupCommands
{
    static readonly Argument<string> BackupFile = new("FILE") { Description = "The backup" };
    static readonly Argument<string> Folder = new("DIR")
    {
        Description = "The data folder that it becomes; must not be there, or be empty",
    };
    static readonly Option<string> Data = new("--data")
    {
        Description = "Folder of the service's own data; the service may be running on it",
        DefaultValueFactory = _ => "gatechain-data",
    };
    static readonly Option<string?> Database = new("--database")
    {
        Description =
            $"How the PostgreSQL database is reached that takes the place of the file; {Stores.Variable} when absent",
    };
    static readonly Option<bool> WithoutKeys = new("--without-keys")
    {
        Description = "Leave the keys of secrets out: who has the backup can't use them",
    };
    static readonly Option<bool> Logs = new("--logs") { Description = "With the logs of attempts and of the service" };

    public static Command Backup()
    {
        var command = new Command(
            "backup",
            "Writes all that a service must not lose into one file, as it is at one moment, while it goes on"
        )
        {
            BackupFile,
            Data,
            Database,
            WithoutKeys,
            Logs,
        };
        command.SetAction((parsed, cancel) => ToldAsync("no backup was made", async () =>
                {
                    var file = parsed.GetValue(BackupFile)!;
                    var size = await DataBackup.MakeAsync(
                        parsed.GetValue(Data)!,
                        DatabaseOf(parsed),
                        file,
                        new(!parsed.GetValue(WithoutKeys), parsed.GetValue(Logs)),
                        typeof(BackupCommands).Assembly.GetName().Version?.ToString(3) ?? "0",
                        Console.WriteLine,
                        cancel
                    );
                    Console.WriteLine(
                        $"{file}, {Words.Size(size)}"
                            + (
                                parsed.GetValue(WithoutKeys)
                                    ? ""
                                    : "; the keys of secrets are in it: keep it as you keep them"
                            )
                    );
                }));
        return command;
    }

    public static Command Restore()
    {
        var command = new Command(
            "restore",
            "Makes a data folder of a backup; it starts held: no trigger starts anything, and no run goes on, before "
                + "gatechain hold off"
        )
        {
            BackupFile,
            Folder,
            Database,
        };
        command.SetAction((parsed, cancel) => ToldAsync("nothing was restored", async () =>
                {
                    await DataBackup.RestoreAsync(
                        parsed.GetValue(BackupFile)!,
                        parsed.GetValue(Folder)!,
                        DatabaseOf(parsed),
                        Console.WriteLine,
                        cancel
                    );
                    Console.WriteLine(
                        "A service that is started on it holds all triggers, and runs that had not ended wait. When "
                            + "nobody else works with the same data any more: gatechain hold off"
                    );
                }));
        return command;
    }

    static string? DatabaseOf(ParseResult parsed) =>
        parsed.GetValue(Database)
        ?? Environment.GetEnvironmentVariable(Stores.Variable) switch
        {
            { Length: > 0 } said => said,
            _ => null,
        };

    static async Task<int> ToldAsync(string undone, Func<Task> work)
    {
        try
        {
            await work();
            return ExitCodes.Succeeded;
        }
        catch (Exception e) when (e is StorageException or IOException or UnauthorizedAccessException)
        {
            Console.Error.WriteLine($"{undone}: {e.Message}");
            return ExitCodes.Refused;
        }
    }
}
