namespace GateChain.Kinds.Databases;

/// <summary>What the values of a column are.</summary>
public enum ColumnType { String, Int, Double, Bool, Timestamp }
