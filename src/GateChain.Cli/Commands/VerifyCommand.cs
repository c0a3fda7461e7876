using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Service.Backup;
using GateChain.Service.Hosting;
using GateChain.Storage;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain verify</c></summary>
static class VerifyCommand
{
    static readonly Argument<string?> Backup = new("FILE")
    {
        Description = "A backup; without it the data folder is read",
        Arity = ArgumentArity.ZeroOrOne,
    };
    static readonly Option<string> Data = new("--data")
    {
        Description = "Folder of the service's own data; the service must not be running on it",
        DefaultValueFactory = _ => "gatechain-data",
    };
    static readonly Option<bool> Rebuild = new("--rebuild")
    {
        Description = "Forget what is remembered of runs, and make it again from the journal",
    };

    public static Command Create()
    {
        var command = new Command(
            "verify",
            "Reads the journal of every run, and compares what is remembered of it; of a backup every byte, too. "
                + "Offline"
        )
        {
            Backup,
            Data,
            Rebuild,
            ServiceCommand.Json,
        };
        command.SetAction(
            async (parsed, cancel) =>
            {
                try
                {
                    return parsed.GetValue(Backup) is { } file
                        ? await BackupAsync(parsed, file, cancel)
                        : await FolderAsync(parsed, parsed.GetValue(Data)!, parsed.GetValue(Rebuild), cancel);
                }
                catch (Exception e) when (e is StorageException or IOException)
                {
                    Console.Error.WriteLine(e.Message);
                    return ExitCodes.NoService;
                }
            }
        );
        return command;
    }

    // What is in it is laid out as a restore does, and read there.
    static async Task<int> BackupAsync(ParseResult parsed, string file, CancellationToken cancel)
    {
        if (!File.Exists(file))
        {
            Console.Error.WriteLine($"the file {file} is not there");
            return ExitCodes.Usage;
        }
        var place = Directory.CreateTempSubdirectory("gatechain-verify-").FullName;
        try
        {
            BackupAbout about;
            try
            {
                about = await DataBackup.RestoreAsync(file, place, null, _ => { }, cancel);
            }
            catch (StorageException e)
            {
                Console.Error.WriteLine(e.Message);
                return ExitCodes.Failed;
            }
            if (!parsed.GetValue(ServiceCommand.Json))
            {
                Console.WriteLine(
                    $"made {Words.At(about.Made)} by version {about.Program}; every byte is as it was written; "
                        + $"{(about.Keys ? "with" : "without")} the keys of secrets, "
                        + $"{(about.Logs ? "with" : "without")} logs"
                );
            }
            return await FolderAsync(parsed, place, rebuild: false, cancel);
        }
        finally
        {
            if (Directory.Exists(place))
                Directory.Delete(place, recursive: true);
        }
    }

    static async Task<int> FolderAsync(ParseResult parsed, string folder, bool rebuild, CancellationToken cancel)
    {
        if (!Directory.Exists(folder))
        {
            Console.Error.WriteLine($"the folder {folder} is not there");
            return ExitCodes.Usage;
        }
        var found = await GateChainService.VerifyAsync(
            new() { DataFolder = folder, WorkFolder = "." },
            rebuild,
            cancel
        );
        if (parsed.GetValue(ServiceCommand.Json))
            ServiceCommand.WriteJson(found);
        else
            Tell(found, rebuild);
        return found.IsSound ? ExitCodes.Succeeded : ExitCodes.Failed;
    }

    static void Tell(DataVerdict found, bool rebuilt)
    {
        Console.WriteLine(
            $"{Words.Count(found.Runs, "run")} read, {Words.Count(found.Legs, "ended leg")}"
                + $"{(rebuilt ? " remembered anew" : "")}"
        );
        if (found.Missing.Count > 0)
        {
            Console.WriteLine(
                $"{Words.Count(found.Missing.Count, "run")} not remembered yet: the next start of the service does so"
            );
        }
        if (found.Wrong.Count > 0)
        {
            Console.WriteLine(
                $"{Words.Count(found.Wrong.Count, "run")} remembered otherwise than the journal says: "
                    + $"{List(found.Wrong)}; gatechain verify --rebuild makes it again"
            );
        }
        if (found.Unreadable.Count > 0)
            Console.WriteLine($"{Words.Count(found.Unreadable.Count, "run")} can't be read: {List(found.Unreadable)}");
        foreach (var damage in found.Damages)
            Console.WriteLine($"the database file is damaged: {damage}");
    }

    static string List(IReadOnlyList<long> runs) =>
        string.Join(", ", runs.Take(20)) + (runs.Count > 20 ? $" and {runs.Count - 20:N0} more" : "");
}
