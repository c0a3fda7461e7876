using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Check;

/// <summary>One check at work: it sees each row, and says at the end what came of it. Used by one thread.</summary>
abstract class RowCheck(string name, DataCheck settings)
{
    /// <summary>Its name.</summary>
    public string Name { get; } = name;

    protected DataCheck Settings { get; } = settings;

    /// <summary>Whether the step only warns.</summary>
    public bool OnlyWarns { get; } = settings.Severity == Severity.Warn;

    /// <summary>How many rows do not pass.</summary>
    public long Failing { get; private set; }

    /// <summary>The first row that does not pass, in words; null for none.</summary>
    public string? First { get; private set; }

    /// <summary>Looks at the row at hand; gives what is wrong with it.</summary>
    /// <param name="row">The source, at that row.</param>
    /// <param name="where">The row, in words.</param>
    public Reject? See(RowSource row, Func<string> where)
    {
        if (Look(row) is not { } wrong)
            return null;
        Failing++;
        First ??= $"{where()}: {wrong.Reason}";
        return wrong;
    }

    protected virtual Reject? Look(RowSource row) => null;

    /// <summary>What is wrong with all of it; null when it passes.</summary>
    public virtual string? Verdict(long rows) =>
        Failing <= Settings.Limit
            ? null
            : $"{Failing:N0} row{(Failing == 1 ? " does" : "s do")} not pass"
                + $"{(Settings.Limit > 0 ? $", and {Settings.Limit:N0} may" : "")}; {First}";

    /// <summary>What is kept for the next time; null for nothing.</summary>
    public virtual (string Name, string Text)? Keeps(long rows) => null;

    /// <summary>The place of a column.</summary>
    /// <exception cref="StepFailedException">The source has none of that name.</exception>
    protected static int Column(RowSource source, string column, string check)
    {
        var at = source.Names.ToList().IndexOf(column);
        return at >= 0
            ? at
            : throw new StepFailedException(
                "columns",
                $"{source.What} has no column “{column}”, which check “{check}” looks at",
                $"Its columns: {string.Join(", ", source.Names)}"
            );
    }

    /// <summary>A cell of the row at hand; null for nothing, and for an empty text.</summary>
    protected static object? Cell(RowSource row, int column) =>
        column < row.FieldCount && row[column] is { } cell && cell is not "" ? cell : null;
}
