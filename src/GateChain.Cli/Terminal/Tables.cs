using Spectre.Console;
using Spectre.Console.Rendering;

namespace GateChain.Cli.Terminal;

/// <summary>A column of a table.</summary>
/// <param name="Title">What stands above it.</param>
/// <param name="IsNumber">Stands at the right.</param>
/// <param name="IsLong">Is broken into lines on a terminal that is too narrow; the others never are.</param>
sealed record Head(string Title, bool IsNumber = false, bool IsLong = false);

/// <summary>
/// Lists as tables: as wide as the terminal on one, and elsewhere one line for each row, whatever it needs.
/// </summary>
static class Tables
{
    // Wider than any line: nothing is broken for a file or another program.
    const int NoTerminal = 100_000;

    public static Table Create(params ReadOnlySpan<Head> heads)
    {
        var table = new Table().NoBorder();
        foreach (var head in heads)
        {
            table.AddColumn(
                new TableColumn(new Text(head.Title, new(decoration: Decoration.Dim)))
                {
                    Alignment = head.IsNumber ? Justify.Right : Justify.Left,
                    NoWrap = !head.IsLong,
                }
            );
        }
        return table;
    }

    /// <summary>Text in a cell; off a terminal all of it in one line.</summary>
    public static Text Cell(string? text) =>
        new(Console.IsOutputRedirected ? OneLine(Words.Plain(text ?? "")) : Words.Plain(text ?? ""));

    public static void Write(IRenderable what)
    {
        if (!Console.IsOutputRedirected)
        {
            AnsiConsole.Write(what);
            return;
        }
        var text = new StringWriter();
        var console = AnsiConsole.Create(
            new()
            {
                Ansi = AnsiSupport.No,
                ColorSystem = ColorSystemSupport.NoColors,
                Out = new AnsiConsoleOutput(text),
            }
        );
        console.Profile.Width = NoTerminal;
        console.Write(what);
        foreach (var line in text.ToString().TrimEnd('\n').Split('\n'))
            Console.WriteLine(line.TrimEnd());
    }

    static string OneLine(string text) => text.ReplaceLineEndings(" ").Replace('\t', ' ');
}
