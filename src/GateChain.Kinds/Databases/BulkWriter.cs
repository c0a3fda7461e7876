using System.Data.Common;

namespace GateChain.Kinds.Databases;

/// <summary>A database's own way in for many rows at once. Used by one thread.</summary>
interface IBulkWriter
{
    /// <summary>Brings rows into the table.</summary>
    /// <exception cref="NotTakenException">The database did not take all of them just so; what it took has to be taken
    /// back.</exception>
    void Write(DbTransaction transaction, IEnumerable<object?[]> rows);
}

/// <summary>Rows that a database did not take just so when they came many at once: they may go one by one.</summary>
sealed class NotTakenException(string message) : Exception(message);
