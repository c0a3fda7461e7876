namespace GateChain.Kinds.Load.Modes;

/// <summary>What became of rows beside those that were written.</summary>
/// <param name="Unchanged">Rows of the source that stood in the table just so.</param>
/// <param name="Superseded">Rows of the source that a later one with the same key replaced.</param>
/// <param name="Gone">Rows of the table that the source does not have any more, and that were dealt with.</param>
readonly record struct RowCounts(long Unchanged, long Superseded, long Gone);
