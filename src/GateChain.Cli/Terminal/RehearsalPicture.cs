using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Terminal;

/// <summary>Draws a rehearsal: how the steps fared, and below it what happened, in order.</summary>
static class RehearsalPicture
{
    public static void Write(RehearsalResult result, IAnsiConsole console)
    {
        var run = result.Run;
        console.Write(
            new Markup(
                $"[bold]rehearsal[/]  {Markup.Escape(run.Title ?? run.Chain)}  "
                    + $"{Markup.Escape($"{States.Mark(run.State)} {run.State}")}  [dim]nothing was done, "
                    + "outcomes are made up[/]\n"
            )
        );
        console.Write(RunPicture.Steps(run));
        foreach (var child in result.Children)
            WriteChild(child, child.Call, console);
        console.Write(new Markup("\n[bold]what happened[/]\n"));
        var grid = NumberedGrid.Create();
        for (var i = 0; i < result.Trace.Count; i++)
        {
            var line = result.Trace[i];
            grid.AddRow(
                new Text($"{i + 1}", new(decoration: Decoration.Dim)),
                new Text(line.Path),
                new Text($"{Mark(line)}{line.Text}", Style(line))
            );
        }
        console.Write(grid);
        if (
            result.Trace.Any(l =>
                l.Text.Contains("can't be decided", StringComparison.Ordinal)
                || l.Text.Contains("setting “", StringComparison.Ordinal)
                || l.Text.Contains("no such key", StringComparison.Ordinal)
            )
        )
        {
            console.Write(
                new Markup(
                    "\n[dim]Made-up outputs need not look like the real ones; "
                        + "give others with --give STEP.output=value, for example --give "
                        + "ask.value='{\"state\": \"ready\"}'.[/]\n"
                )
            );
        }

        foreach (var warning in run.Warnings)
            console.Write(new Text($"warning: {warning}\n"));
    }

    static void WriteChild(ChildRehearsal child, string path, IAnsiConsole console)
    {
        console.Write(
            new Markup(
                $"[bold]  {Markup.Escape(path)}[/]  "
                    + Markup.Escape(
                        $"{child.Run.Title ?? child.Run.Chain}  {States.Mark(child.Run.State)} {child.Run.State}"
                    )
                    + "\n"
            )
        );
        console.Write(new Padder(RunPicture.Steps(child.Run), new(2, 0, 0, 0)));
        foreach (var inner in child.Children)
            WriteChild(inner, $"{path}/{inner.Call}", console);
    }

    // A gate is a bar: parted when it opens, whole when it stays shut.
    static string Mark(TraceInfo line) =>
        (line.What, line.Outcome) switch
        {
            ("gate", "open") => "╎ ",
            ("gate", _) => "┃ ",
            (_, { } outcome) when line.What is "step" or "loop" or "run" => $"{States.Mark(outcome)} ",
            _ => "  ",
        };

    static Style Style(TraceInfo line) =>
        line.Outcome switch
        {
            "failed" or "cut" => new(Color.Red),
            "paused" => new(Color.Fuchsia),
            _ when line.What is "gate" or "note" => new(decoration: Decoration.Dim),
            _ => Spectre.Console.Style.Plain,
        };
}
