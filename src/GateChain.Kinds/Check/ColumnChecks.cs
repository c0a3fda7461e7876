using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using GateChain.Core.Expressions;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Check;

/// <summary>Columns that are nowhere empty.</summary>
sealed class FilledRows(string name, DataCheck check, RowSource source) : RowCheck(name, check)
{
    readonly (string Name, int At)[] _columns = [.. check.Filled!.Select(c => (c, Column(source, c, name)))];

    protected override Reject? Look(RowSource row)
    {
        foreach (var (column, at) in _columns)
        {
            if (Cell(row, at) is null)
                return new($"{column} is empty", column);
        }
        return null;
    }
}

/// <summary>Values that stand in one row only. Holds 16 bytes for each row.</summary>
sealed class UniqueRows(string name, DataCheck check, RowSource source) : RowCheck(name, check)
{
    readonly int[] _columns = [.. check.Unique!.Select(c => Column(source, c, name))];
    readonly string _names = string.Join(", ", check.Unique!);
    readonly HashSet<UInt128> _seen = [];
    readonly StringBuilder _text = new();

    protected override Reject? Look(RowSource row)
    {
        _text.Clear();
        foreach (var at in _columns)
        {
            if (Cell(row, at) is not { } cell)
                return null;
            var text = Cells.Text(cell);
            // With its length: a, bc is another pair than ab, c.
            _text.Append(CultureInfo.InvariantCulture, $"{text.Length}:{text}");
        }
        var hash = SHA256.HashData(Encoding.UTF8.GetBytes(_text.ToString()));
        if (_seen.Add(BitConverter.ToUInt128(hash)))
            return null;
        var value = string.Join(", ", _columns.Select(at => Cells.Text(row[at])));
        return new($"{_names} {value} stood in a row before", _names, value);
    }
}

/// <summary>A column, and what one cell of it has to be; rows in which it is empty pass.</summary>
abstract class CellRows(string name, DataCheck check, string column, RowSource source) : RowCheck(name, check)
{
    readonly int _at = Column(source, column, name);

    protected sealed override Reject? Look(RowSource row) =>
        Cell(row, _at) is { } cell && Wrong(cell) is { } reason
            ? new($"{column} {reason}", column, Cells.Text(cell))
            : null;

    /// <summary>What is wrong with a value, said of its column; null when it passes.</summary>
    protected abstract string? Wrong(object cell);
}

/// <summary>Only certain values.</summary>
sealed class OneOfRows(string name, DataCheck check, RowSource source)
    : CellRows(name, check, check.OneOf!.Column, source)
{
    readonly HashSet<string> _values = [.. check.OneOf!.Values];

    protected override string? Wrong(object cell) =>
        _values.Contains(Cells.Text(cell)) ? null : $"“{Cells.Text(cell)}” is none of {_values.Count} values";
}

/// <summary>Numbers or times in a range.</summary>
sealed class BetweenRows : CellRows
{
    readonly object? _min,
        _max;
    readonly bool _isTime;
    readonly CellValues _values;

    public BetweenRows(string name, DataCheck check, RowSource source, CellValues values)
        : base(name, check, check.Between!.Column, source)
    {
        _values = values;
        _min = check.Between!.Min is { } min ? CellValues.Bound(min, name) : null;
        _max = check.Between!.Max is { } max ? CellValues.Bound(max, name) : null;
        _isTime = (_min ?? _max) is DateTime;
        if ((_min ?? _max) is null || (_max is not null && _isTime != _max is DateTime))
            throw new StepFailedException("setting", $"check “{name}” needs min or max, both numbers or both times");
    }

    protected override string? Wrong(object cell)
    {
        var text = Cells.Text(cell);
        var value = _isTime ? CellValues.Time(cell) : (IComparable?)_values.Number(cell);
        return value is null ? $"“{text}” is no {(_isTime ? "time" : "number")}"
            : _min is not null && value.CompareTo(_min) < 0 ? $"{text} is less than {Cells.Text(Told(_min))}"
            : _max is not null && value.CompareTo(_max) > 0 ? $"{text} is more than {Cells.Text(Told(_max))}"
            : null;
    }

    static object Told(object bound) => bound is decimal number ? number.ToString(CultureInfo.InvariantCulture) : bound;
}

/// <summary>Texts that look like something.</summary>
sealed class PatternRows(string name, DataCheck check, RowSource source)
    : CellRows(name, check, check.Pattern!.Column, source)
{
    readonly Regex _pattern = Read(check.Pattern!.Matches, name);

    static Regex Read(string pattern, string check)
    {
        try
        {
            return new(pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant);
        }
        catch (Exception e) when (e is ArgumentException or NotSupportedException)
        {
            throw new StepFailedException("setting", $"the pattern of check “{check}”: {e.Message}");
        }
    }

    protected override string? Wrong(object cell) =>
        _pattern.IsMatch(Cells.Text(cell)) ? null : $"“{Cells.Text(cell)}” does not look like {_pattern}";
}

/// <summary>Values that stand in another table. Holds all of its keys.</summary>
/// <param name="keys">Them, as texts.</param>
sealed class RefersRows(string name, DataCheck check, RowSource source, IReadOnlySet<string> keys)
    : CellRows(name, check, check.RefersTo!.Column, source)
{
    protected override string? Wrong(object cell) =>
        keys.Contains(Cells.Text(cell)) ? null : $"“{Cells.Text(cell)}” is not in {Settings.RefersTo!.Table}";
}

/// <summary>An expression that is true for each row.</summary>
sealed class HoldsRows(string name, DataCheck check, RowComputer computer) : RowCheck(name, check)
{
    readonly Expression _holds = RowComputer.Read(name, check.Holds!);

    protected override Reject? Look(RowSource row) =>
        computer.Compute(_holds) switch
        {
            { Reason: { } reason } => new($"{_holds.Text}: {reason}"),
            { Value: true } => null,
            var (value, _) => new($"{_holds.Text} is {(value is null ? "nothing" : Cells.Text(value))}"),
        };
}
