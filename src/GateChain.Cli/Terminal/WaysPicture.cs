using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Terminal;

/// <summary>Lists the ways through a chain: what leads there, how it ends, what is passed over.</summary>
static class WaysPicture
{
    public static void Write(RehearsalResult result, IAnsiConsole console)
    {
        console.Write(
            new Markup(
                $"[bold]rehearsal[/]  {Markup.Escape(result.Run.Title ?? result.Run.Chain)}  "
                    + $"{Words.Count(result.Ways.Count, "way")} through it"
                    + $"{(result.MoreWays ? ", and there are more (--most lists more)" : "")}  [dim]nothing was "
                    + "done[/]\n\n"
            )
        );
        var grid = NumberedGrid.Create();
        for (var i = 0; i < result.Ways.Count; i++)
        {
            var way = result.Ways[i];
            var dim = new Style(decoration: Decoration.Dim);
            grid.AddRow(
                new Text($"{i + 1}", dim),
                States.Text(way.State),
                new Text(
                    way.Failing.Count == 0
                        ? "everything succeeds"
                        : $"{string.Join(" and ", way.Failing)} fail{(way.Failing.Count == 1 ? "s" : "")}"
                )
            );
            // What is said already is not said again.
            if (
                way is { Message: { } why, State: "failed" }
                && !way.Failing.Any(f => why == $"{f}: made to fail by the rehearsal")
            )
            {
                Add(why);
            }
            foreach (var (state, verb) in ((string, string)[])[("skipped", "passes over"), ("stopped", "stops")])
            {
                var steps = way.Steps.Where(s => s.State == state).Select(s => s.Step).ToList();
                if (steps.Count > 0)
                    Add($"{verb} {string.Join(", ", steps)}");
            }
            foreach (var mixed in way.Steps.Where(s => s.State.Contains('+', StringComparison.Ordinal)))
                Add($"{mixed.Step}: {mixed.State.Replace("+", " and ", StringComparison.Ordinal)}");

            void Add(string text) => grid.AddRow(new Text(""), new Text(""), new Text(text, dim));
        }
        console.Write(grid);
    }
}
