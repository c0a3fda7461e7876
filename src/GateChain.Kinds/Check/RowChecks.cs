using System.Data.Common;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Check;

/// <summary>Makes the checks of the settings ready to work, with what they ask of other sources.</summary>
static class RowChecks
{
    /// <summary>All of them, in their order.</summary>
    /// <exception cref="StepFailedException">One can't be done: a column, a table or a number is not there.</exception>
    public static IReadOnlyList<RowCheck> Of(
        CheckSettings settings,
        RowSource source,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var values = new CellValues(NumberMarks.Of(settings.Of.Text));
        var computer = new RowComputer(source, settings.Bind, NumberRule.Exact);
        return [.. settings.Checks.Select(c => Of(c.Key, c.Value))];

        RowCheck Of(string name, DataCheck check) =>
            check switch
            {
                { Rows: { } rows } => new RowNumber(
                    name,
                    check,
                    context.Position(RowNumber.KeptAs(name, rows)) is { Kind: ValueKind.String } kept
                        ? kept.AsString
                        : null
                ),
                { Filled: not null } => new FilledRows(name, check, source),
                { Unique: not null } => new UniqueRows(name, check, source),
                { OneOf: not null } => new OneOfRows(name, check, source),
                { Between: not null } => new BetweenRows(name, check, source, values),
                { Pattern: not null } => new PatternRows(name, check, source),
                { RefersTo: { } refers } => new RefersRows(
                    name,
                    check,
                    source,
                    Keys(name, refers, settings.Of.Connection, context, cancel)
                ),
                { Fresh: not null } => new FreshRows(name, check, source, context.Time.GetUtcNow()),
                { Sum: { } sum } => new SumOfRows(name, check, source, values, Other(name, sum, context, cancel)),
                { Holds: not null } => new HoldsRows(name, check, computer),
                _ => throw new StepFailedException("setting", $"check “{name}” does not say what has to hold"),
            };
    }

    static HashSet<string> Keys(
        string check,
        RefersCheck refers,
        string? usual,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var connection = refers.Connection
            ?? usual
            ?? throw new StepFailedException("setting", $"check “{check}” needs the connection of {refers.Table}");
        var keys = new HashSet<string>();
        Read(
            connection,
            dialect => $"SELECT {dialect.Quote(refers.Key ?? refers.Column)} FROM {dialect.QuoteTable(refers.Table)}",
            cell =>
            {
                if (cell is not null)
                    keys.Add(Cells.Text(cell));
            },
            context,
            cancel
        );
        return keys;
    }

    static decimal Other(string check, SumCheck sum, AttemptContext context, CancellationToken cancel)
    {
        object? first = null;
        Read(sum.Connection, _ => sum.Query, cell => first ??= cell, context, cancel);
        return first is null
            ? 0
            : new CellValues(null).Number(first)
                ?? throw new StepFailedException(
                    "setting",
                    $"the query of check “{check}” gives “{Cells.Text(first)}”, which is no number"
                );
    }

    // The first column of each row.
    static void Read(
        string connection,
        Func<Dialect, string> query,
        Action<object?> take,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        using var session = Session.OpenForRows(connection, context, cancel);
        try
        {
            using var command = session.Command(null, query(session.Dialect));
            session.Dialect.BeforeRead(command);
            using var interrupt = session.InterruptOn(command);
            using var reader = command.ExecuteReader();
            var cell = session.Dialect.Cell(reader);
            while (reader.Read())
                take(cell(0));
        }
        catch (DbException e) when (session.Dialect.Error(e, connection) is { } error)
        {
            throw new StepFailedException(error);
        }
    }
}
