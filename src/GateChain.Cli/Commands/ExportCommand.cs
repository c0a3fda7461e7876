using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Core.Designing;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain export DIR</c></summary>
static class ExportCommand
{
    static readonly Argument<string> Folder = new("DIR") { Description = "Where to write; made when it is not there" };

    public static Command Create() =>
        ServiceCommand.Create(
            "export",
            "Writes the workspace as files that can be pushed again: the latest releases, "
                + "their attachments, and what stands beside them",
            async (parsed, client, cancel) =>
            {
                var folder = Path.GetFullPath(parsed.GetValue(Folder)!);
                var files = await client.ExportAsync(cancel);
                foreach (var (name, content) in files)
                {
                    var path = Path.GetFullPath(Path.Combine(folder, name));
                    // A service could name a file anywhere; it is written inside the folder or not at all.
                    if (!path.StartsWith(folder + Path.DirectorySeparatorChar, StringComparison.Ordinal))
                        throw new GateChainException(422, $"“{name}” would lie outside of {folder}", null, []);
                    Directory.CreateDirectory(Path.GetDirectoryName(path)!);
                    await File.WriteAllBytesAsync(path, content, cancel);
                }
                FolderState.Write(folder, client.Address, files);
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(files.Keys);
                else
                    Console.WriteLine($"{Words.Count(files.Count, "file")} written to {folder}");
                return ExitCodes.Succeeded;
            },
            Folder
        );
}

/// <summary><c>gatechain schema</c>: offline.</summary>
static class SchemaCommand
{
    public static Command Create()
    {
        var command = new Command("schema", "Writes the JSON Schema of chain files, for editors");
        command.SetAction(_ =>
        {
            Console.WriteLine(
                ChainSchema
                    .Of(PluginFolder.Catalogue)
                    .ToJsonString(
                        new()
                        {
                            WriteIndented = true,
                            Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
                        }
                    )
            );
            return ExitCodes.Succeeded;
        });
        return command;
    }
}
