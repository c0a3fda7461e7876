namespace GateChain.Kinds.Databases;

/// <summary>What a database says of a row that it does not take.</summary>
/// <param name="Reason">In a sentence.</param>
/// <param name="Column">The column that it is about; null when the database does not say.</param>
/// <param name="Nth">Which row of those that were sent together, from 1; null when the database does not say. A hint:
/// it is looked at, never believed.</param>
sealed record RowRefusal(string Reason, string? Column = null, int? Nth = null);
