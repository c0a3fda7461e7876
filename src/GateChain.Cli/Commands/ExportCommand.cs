using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Core.Designing;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain export DIR</c></summary>
static class ExportCommand
{
    static readonly Argument<string> Folder = new("DIR") { Description = "Where to write; made when it is not there" };

    static readonly Option<bool> Over = new("--over")
    {
        Description = "Overwrites also files that were changed in the folder since it last had what is there",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "export",
            "Writes the workspace as files that can be pushed again: the latest releases, "
                + "their attachments, and what stands beside them",
            async (parsed, client, cancel) =>
            {
                var folder = Path.GetFullPath(parsed.GetValue(Folder)!);
                var files = await client.ExportAsync(cancel);
                var paths = files.ToDictionary(f => f.Key, f => PathIn(folder, f.Key));
                var edited = FolderState.Edited(folder, client.Address, files);
                if (edited.Count > 0 && !parsed.GetValue(Over))
                {
                    throw new GateChainException(
                        409,
                        $"nothing was written: {string.Join(", ", edited.Take(MostNamed))}"
                            + $"{(edited.Count > MostNamed ? $" and {edited.Count - MostNamed} more" : "")} "
                            + $"{(edited.Count == 1 ? "was" : "were")} changed in this folder and would be lost; "
                            + "export to another folder and compare, or overwrite with --over",
                        null,
                        []
                    );
                }
                foreach (var (name, content) in files)
                {
                    Directory.CreateDirectory(Path.GetDirectoryName(paths[name])!);
                    await File.WriteAllBytesAsync(paths[name], content, cancel);
                }
                FolderState.Write(folder, client.Address, files);
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(files.Keys);
                else
                    Console.WriteLine($"{Words.Count(files.Count, "file")} written to {folder}");
                return ExitCodes.Succeeded;
            },
            Folder,
            Over
        );

    const int MostNamed = 5;

    // A service could name a file anywhere; it is written inside the folder or not at all.
    static string PathIn(string folder, string name) =>
        Path.GetFullPath(Path.Combine(folder, name)) is var path
        && path.StartsWith(folder + Path.DirectorySeparatorChar, StringComparison.Ordinal)
            ? path
            : throw new GateChainException(422, $"“{name}” would lie outside of {folder}", null, []);
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
