using Spectre.Console;

namespace GateChain.Cli.Terminal;

/// <summary>Numbered lines: the number at the right, a name that is not broken, and text.</summary>
static class NumberedGrid
{
    public static Grid Create()
    {
        var grid = new Grid { Expand = false };
        grid.AddColumns(
            new GridColumn
            {
                NoWrap = true,
                Alignment = Justify.Right,
                Padding = new(2, 0, 2, 0),
            },
            new GridColumn { NoWrap = true, Padding = new(0, 0, 2, 0) },
            new GridColumn()
        );
        return grid;
    }
}
