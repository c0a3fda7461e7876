namespace GateChain.Kinds.Databases;

/// <summary>What the values of a column are.</summary>
public enum ColumnType
{
    String,
    Int,
    Double,
    Decimal,
    Bool,
    Timestamp,
    Date,
    Time,
    Bytes,
    Uuid,
    Json,
}
