using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load.Targets;

/// <summary>The columns that a load writes, and their types for a target that is made for them. Immutable.</summary>
sealed class TargetColumns(LoadSettings settings, RowSource source)
{
    readonly IReadOnlyDictionary<string, LoadColumn> _rules = RowReader.Wanted(settings, source);

    /// <summary>Their names, in order.</summary>
    public IReadOnlyList<string> Names => field ??= [.. _rules.Keys];

    /// <summary>What the settings say a column is, else what its source says; null when neither does.</summary>
    public CellType? TypeOf(string column) =>
        _rules[column] is { Type: { } said } rule ? Of(said, rule.Scale) : FromSource(column);

    /// <summary>The type of a column of a table that is created: as the settings say, else as the source has it, else
    /// a text.</summary>
    public string TypeIn(Dialect dialect, string column, bool isKey)
    {
        var rule = _rules[column];
        if (rule.Type is null && Place(column) is { } at && source.OwnTypeOf(at, dialect.Type) is { } own)
            return own;
        return rule.Type is not ColumnType.Timestamp && TypeOf(column) is { } known
            ? dialect.TypeOf(known, isKey)
            : dialect.TypeOf(rule.Type, isKey);
    }

    static CellType? Of(ColumnType type, int? scale) =>
        type switch
        {
            ColumnType.Int => new(CellKind.Int),
            ColumnType.Double => new(CellKind.Double),
            ColumnType.Decimal => scale is { } digits ? new(CellKind.Decimal, 38, digits) : new(CellKind.Decimal),
            ColumnType.Bool => new(CellKind.Bool),
            ColumnType.Timestamp => new(CellKind.Timestamp),
            ColumnType.Date => new(CellKind.Date),
            ColumnType.Time => new(CellKind.Time),
            ColumnType.Bytes => new(CellKind.Bytes),
            ColumnType.Uuid => new(CellKind.Uuid),
            ColumnType.Json => new(CellKind.Json),
            ColumnType.String => new(CellKind.Text),
            _ => null,
        };

    CellType? FromSource(string column) => Place(column) is { } at ? source.TypeOf(at) : null;

    // Where a column stands in the source as it is; null for one that is computed.
    int? Place(string column)
    {
        var rule = _rules[column];
        var at = rule.Value is not null ? -1 : source.Names.ToList().IndexOf(rule.From ?? column);
        return at < 0 ? null : at;
    }
}
