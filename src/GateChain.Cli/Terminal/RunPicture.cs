using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Values;
using Spectre.Console;
using Spectre.Console.Rendering;

namespace GateChain.Cli.Terminal;

/// <summary>Draws a run: a line for each step, inner ones below their container.</summary>
static class RunPicture
{
    sealed record Line(int Depth, string Name, string State, string Took, string Message, DateTimeOffset? Began = null);

    /// <param name="run">The run.</param>
    /// <param name="now">For times that still continue.</param>
    /// <param name="height">The most lines to draw; null for all.</param>
    /// <param name="whole">With how long after the start each step began, and when that was.</param>
    public static Rows Of(RunDetail run, DateTimeOffset now, int? height, bool whole = false)
    {
        var lines = Lines(run, now);
        var hidden = 0;
        if (height is { } most && lines.Count > most)
        {
            // What is continuing or went wrong matters; what waits and what is done can be left out.
            var kept = lines
                .Where(l =>
                    l.State is "running" or "resting" or "failed" or "stopped" or "held" or "paused" or "queued"
                )
                .Take(most)
                .ToHashSet();
            foreach (var line in lines)
            {
                if (kept.Count < most)
                    kept.Add(line);
            }
            hidden = lines.Count - kept.Count;
            lines = [.. lines.Where(kept.Contains)];
        }
        var grid = new Grid { Expand = false };
        grid.AddColumns(
            new GridColumn { NoWrap = true, Padding = new(0, 0, 2, 0) },
            new GridColumn { NoWrap = true, Padding = new(0, 0, 2, 0) },
            Number(),
            Number(),
            new GridColumn()
        );
        foreach (var line in lines)
        {
            var began = whole && line.Began is { } at ? $"+{TimeText.Brief(at - run.Started)}" : "";
            grid.AddRow(
                new Text(new string(' ', 2 + line.Depth * 2) + Words.Plain(line.Name)),
                line.State.Length == 0 ? new Text("") : States.Text(line.State),
                new Text(began, new(decoration: Decoration.Dim)),
                new Text(line.Took, new(decoration: Decoration.Dim)),
                Tables.Cell(line.Message)
            );
        }

        var rows = new List<IRenderable> { Head(run, now) };
        if (whole)
            rows.Add(new Text($"  {Start(run, now)}", new(decoration: Decoration.Dim)));
        rows.Add(grid);
        if (hidden > 0)
            rows.Add(new Text($"  … and {hidden} more steps", new(decoration: Decoration.Dim)));
        return new(rows);
    }

    /// <summary>The steps alone, without times.</summary>
    public static Grid Steps(RunDetail run)
    {
        var grid = new Grid { Expand = false };
        grid.AddColumns(
            new GridColumn { NoWrap = true, Padding = new(0, 0, 2, 0) },
            new GridColumn { NoWrap = true, Padding = new(0, 0, 2, 0) },
            new GridColumn()
        );
        foreach (var line in Lines(run, run.Started))
        {
            grid.AddRow(
                new Text(new string(' ', 2 + line.Depth * 2) + Words.Plain(line.Name)),
                line.State.Length == 0 ? new Text("") : States.Text(line.State),
                new Text(Words.Plain(line.Message))
            );
        }

        return grid;
    }

    static GridColumn Number() =>
        new()
        {
            NoWrap = true,
            Alignment = Justify.Right,
            Padding = new(0, 0, 2, 0),
        };

    // When and by whom it was started, and what called it.
    static string Start(RunDetail run, DateTimeOffset now) =>
        $"started {Words.Ago(run.Started, now)}, at {Words.At(run.Started)}, "
        + (
            run.Parent is { } parent ? $"called by run {parent.Run}, {Words.Plain(parent.Step)}"
            : run.Fire is { } fire ? $"by trigger {fire.Trigger}"
            : $"by {Words.Plain(run.By)}"
        );

    static Markup Head(RunDetail run, DateTimeOffset now)
    {
        var leg = run.Leg > 1 ? $", leg {run.Leg}" : "";
        return new(
            $"[bold]run {run.Id}[/]  "
                + $"{Markup.Escape(Words.Plain(run.Title is { } title ? $"{title} ({run.Chain})" : run.Chain))} "
                + " "
                + Markup.Escape(
                    $"{States.Mark(run.State)} {run.State}{leg}  {Words.Took(run.Started, run.Ended ?? now)}"
                        + $"  {Words.Content(run.Number, run.Release)}"
                )
        );
    }

    static List<Line> Lines(RunDetail run, DateTimeOffset now)
    {
        var lines = new List<Line>();
        var iterations = run.Iterations.ToLookup(i => i.Step);
        var steps = run.Steps.ToLookup(s => new StepPath(s.Path).Scope.Text);
        Add("", 0);
        foreach (var handler in run.Handlers)
        {
            lines.Add(
                new(
                    0,
                    $"on {handler.Occasion}{(run.Leg > 1 ? $" (leg {handler.Leg})" : "")}",
                    "",
                    "",
                    handler.Message ?? ""
                )
            );
            Add(handler.Path, 1);
        }
        return lines;

        void Add(string scope, int depth)
        {
            foreach (var step in steps[scope])
            {
                var message = Words.Doing(step);
                lines.Add(
                    new(
                        depth,
                        Shorten.Text(new StepPath(step.Path).Last, 48),
                        step.State,
                        Words.Took(step.Started, step.Ended ?? (step.Started is null ? null : now)),
                        step.Absorbed ? $"absorbed: {message}" : message,
                        step.State == "skipped" ? null : step.Started
                    )
                );
                foreach (var iteration in iterations[step.Path])
                {
                    lines.Add(
                        new(
                            depth + 1,
                            iteration.Item.StartsWith("round ", StringComparison.Ordinal)
                                ? iteration.Item
                                : $"[{iteration.Index}] {Shorten.Text(iteration.Item, 30)}",
                            iteration.State,
                            Words.Took(iteration.Started, iteration.Ended ?? now),
                            iteration.Message ?? "",
                            iteration.Started
                        )
                    );
                    Add(iteration.Path, depth + 2);
                }
                if (step.Hidden > 0)
                    lines.Add(new(depth + 1, $"… and {step.Hidden:N0} more that succeeded", "", "", ""));
                if (!iterations[step.Path].Any())
                    Add(step.Path, depth + 1);
            }
        }
    }
}
