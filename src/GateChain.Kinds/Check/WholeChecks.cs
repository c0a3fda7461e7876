using System.Globalization;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Check;

/// <summary>How many rows there are, by bounds and by how many there were before.</summary>
/// <param name="before">What was kept of the looks before; null for nothing.</param>
sealed class RowNumber(string name, DataCheck check, string? before) : RowCheck(name, check)
{
    const int Looks = 30,
        Enough = 4;

    readonly RowsCheck _rows = check.Rows!;
    readonly long[] _before =
    [
        .. (before ?? "")
            .Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Select(n => long.TryParse(n, CultureInfo.InvariantCulture, out var rows) ? rows : 0),
    ];

    public override string? Verdict(long rows)
    {
        // Whoever asks for nothing asks for some.
        var min = _rows is { Min: null, Max: null, Usual: null } ? 1 : _rows.Min;
        if (rows < min)
            return $"{rows:N0} rows are fewer than {min:N0}";
        if (rows > _rows.Max)
            return $"{rows:N0} rows are more than {_rows.Max:N0}";
        if (_rows.Usual is not { } share || _before.Length < Enough)
            return null;
        var usual = _before.Order().ElementAt(_before.Length / 2);
        return Math.Abs(rows - usual) <= usual * share
            ? null
            : string.Create(
                CultureInfo.InvariantCulture,
                $"{rows:N0} rows are {(rows < usual ? "fewer" : "more")} than usual: {usual:N0} in the middle of "
                    + $"{_before.Length} looks, and {share:P0} off are allowed"
            );
    }

    public override (string Name, string Text)? Keeps(long rows) =>
        _rows.Usual is null
            ? null
            : (
                KeptAs(Name, _rows),
                string.Join(
                    ' ',
                    _before.Append(rows).TakeLast(Looks).Select(n => n.ToString(CultureInfo.InvariantCulture))
                )
            );

    /// <summary>The name that the numbers are kept under.</summary>
    public static string KeptAs(string check, RowsCheck rows) => rows.Keep ?? check;
}

/// <summary>How long ago the latest time is.</summary>
sealed class FreshRows(string name, DataCheck check, RowSource source, DateTimeOffset now) : RowCheck(name, check)
{
    readonly int _at = Column(source, check.Fresh!.Column, name);
    DateTime? _latest;

    protected override Reject? Look(RowSource row)
    {
        if (Cell(row, _at) is { } cell && CellValues.Time(cell) is { } at && !(at <= _latest))
            _latest = at;
        return null;
    }

    public override string? Verdict(long rows)
    {
        if (_latest is not { } latest)
            return $"no row has a time in {Settings.Fresh!.Column}";
        var age = now.UtcDateTime - latest;
        return age <= Settings.Fresh!.Within
            ? null
            : $"the latest {Settings.Fresh.Column} is "
                + latest.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)
                + $" UTC, {TimeText.Brief(age)} ago, and may be {TimeText.Setting(Settings.Fresh.Within)}";
    }
}

/// <summary>Whether a sum is that of another source.</summary>
/// <param name="other">The other sum.</param>
sealed class SumOfRows(string name, DataCheck check, RowSource source, CellValues values, decimal other)
    : RowCheck(name, check)
{
    readonly int _at = Column(source, check.Sum!.Column, name);
    decimal _sum;

    protected override Reject? Look(RowSource row)
    {
        if (Cell(row, _at) is not { } cell)
            return null;
        if (values.Number(cell) is not { } number)
            return new($"{Settings.Sum!.Column} is no number", Settings.Sum!.Column, Data.Cells.Text(cell));
        _sum += number;
        return null;
    }

    public override string? Verdict(long rows) =>
        base.Verdict(rows)
        ?? (
            Math.Abs(_sum - other) <= (decimal)Settings.Sum!.Tolerance
                ? null
                : string.Create(
                    CultureInfo.InvariantCulture,
                    $"{Settings.Sum!.Column} adds up to {_sum}, and {Settings.Sum.Connection} says {other}"
                )
        );
}
