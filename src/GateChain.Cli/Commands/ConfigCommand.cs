using System.CommandLine;
using GateChain.Cli.Terminal;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain config</c></summary>
static class ConfigCommand
{
    /// <param name="serve">The command whose options it is about.</param>
    public static Command Create(Command serve)
    {
        var command = new Command(
            "config",
            "Shows what holds for serve, and from where: an option, the environment, the configuration's file"
        );
        foreach (var option in serve.Options)
            command.Options.Add(option);
        command.Options.Add(ServiceCommand.Json);
        command.SetAction(parsed =>
        {
            try
            {
                var all = ServeSettings.Of(parsed);
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(all);
                else
                    Write(all);
                return ExitCodes.Succeeded;
            }
            catch (FormatException e)
            {
                Console.Error.WriteLine(e.Message);
                return ExitCodes.Usage;
            }
        });
        return command;
    }

    static void Write(IReadOnlyList<ServeSetting> all)
    {
        var table = Tables.Create(new("option"), new("holds", IsLong: true), new("from"), new("variable"));
        foreach (var setting in all)
        {
            table.AddRow(
                Tables.Cell(setting.Name),
                Tables.Cell(Shown(setting)),
                Tables.Cell(setting.From.Length == 0 && setting.Values.Count > 0 ? "default" : setting.From),
                Tables.Cell(ServeSettings.VariableOf(setting.Name))
            );
        }
        Tables.Write(table);
    }

    // How a database is reached may have a password in it.
    static string Shown(ServeSetting setting) =>
        setting is { From.Length: > 0, Values.Count: 0 } ? "yes"
        : setting.Name == "database" && string.Join(' ', setting.Values) is { Length: > 0 } text
            ? System.Text.RegularExpressions.Regex.Replace(
                text,
                "(?i)(password|pwd)\\s*=\\s*[^;]*",
                "$1=…",
                System.Text.RegularExpressions.RegexOptions.None,
                TimeSpan.FromSeconds(1)
            )
        : string.Join(", ", setting.Values);
}
