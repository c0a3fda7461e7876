using System.CommandLine;
using System.CommandLine.Help;
using System.CommandLine.Invocation;

namespace GateChain.Cli.Commands;

/// <summary>Commands that one comes for together.</summary>
/// <param name="Title">What for, in a word or two.</param>
sealed record CommandGroup(string Title, IReadOnlyList<Command> Commands);

/// <summary>Help for all of the command line, in groups; that of a single command is the library's.</summary>
sealed class GroupedHelp(SynchronousCommandLineAction single, IReadOnlyList<CommandGroup> groups)
    : SynchronousCommandLineAction
{
    // Where nobody can say how wide the terminal is, it goes to a file or another program.
    const int UsualWidth = 110;
    const int Narrowest = 60;

    /// <summary>Puts it in the place of the library's.</summary>
    public static void Install(RootCommand root, IReadOnlyList<CommandGroup> groups)
    {
        var option = root.Options.OfType<HelpOption>().First();
        option.Action = new GroupedHelp((SynchronousCommandLineAction)option.Action!, groups);
    }

    /// <summary>Who asks for help need not give what a command needs.</summary>
    public override bool ClearsParseErrors => true;

    public override int Invoke(ParseResult parseResult)
    {
        if (parseResult.CommandResult.Command is not RootCommand root)
            return single.Invoke(parseResult);
        var width = Math.Max(Narrowest, Console.IsOutputRedirected ? UsualWidth : Console.WindowWidth - 1);
        Console.WriteLine($"{root.Description}\n\nUsage: gatechain COMMAND … (gatechain COMMAND --help tells more)");
        var room = groups.SelectMany(g => g.Commands).Max(c => Name(c).Length) + 4;
        foreach (var group in groups)
        {
            Console.WriteLine($"\n{group.Title}");
            foreach (var command in group.Commands)
                Console.WriteLine($"  {Name(command).PadRight(room - 2)}{Wrapped(command.Description!, room, width)}");
        }
        Console.WriteLine("\nOptions");
        foreach (var option in root.Options)
        {
            var names = string.Join(", ", option.Aliases.Prepend(option.Name).Where(n => n.StartsWith('-')));
            Console.WriteLine($"  {names.PadRight(room - 2)}{Wrapped(option.Description!, room, width)}");
        }
        return 0;
    }

    static string Name(Command command) => string.Join(' ', command.Arguments.Select(Written).Prepend(command.Name));

    static string Written(Argument argument) =>
        argument.Arity.MinimumNumberOfValues == 0 ? $"[{argument.Name}]" : argument.Name;

    // Further lines begin below the first.
    static string Wrapped(string text, int indent, int width)
    {
        var lines = new List<string> { "" };
        foreach (var word in text.Split(' '))
        {
            if (lines[^1].Length + word.Length + 1 > width - indent && lines[^1].Length > 0)
                lines.Add("");
            lines[^1] += lines[^1].Length == 0 ? word : $" {word}";
        }
        return string.Join($"\n{new string(' ', indent)}", lines);
    }
}
