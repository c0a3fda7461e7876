using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain push DIR</c></summary>
static class PushCommand
{
    static readonly Argument<string> Folder = new("DIR")
    {
        Description =
            "A workspace: chain files, connections.yaml, profiles.yaml, lanes.yaml, attachments, also in folders",
    };

    static readonly Option<string?> Note = new("--note", "-m") { Description = "What the releases are for" };

    static readonly Option<bool> Over = new("--over")
    {
        Description =
            "Overwrites also what was changed in the service since this folder last had what is there, and breaks "
            + "chains that the folder does not have",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "push",
            "Checks a workspace and brings it to the service, where each chain that changed gets a new "
                + "release; with errors nothing is stored",
            async (parsed, client, cancel) =>
            {
                var folder = parsed.GetValue(Folder)!;
                if (!Directory.Exists(folder))
                    throw new GateChainException(422, $"the folder {folder} is not there", null, []);
                var files = WorkspaceFolder.ReadForPush(folder);
                if (files.Count == 0)
                {
                    throw new GateChainException(
                        422,
                        $"there is nothing to push in {folder}: no chain files (*.chain.yaml), "
                            + "connections.yaml, profiles.yaml or lanes.yaml",
                        null,
                        []
                    );
                }
                var result = await client.PushAsync(
                    files,
                    parsed.GetValue(Note),
                    FolderState.Read(folder, client.Address),
                    parsed.GetValue(Over),
                    cancel
                );
                FolderState.Write(folder, client.Address, files);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(result);
                }
                else
                {
                    foreach (var problem in result.Problems)
                        ProblemLines.Write(problem, Console.Out);
                    foreach (var chain in result.Chains)
                        Console.WriteLine($"pushed {chain.Name}  {chain.Release[..12]}");
                }
                return ExitCodes.Succeeded;
            },
            Folder,
            Note,
            Over
        );
}
