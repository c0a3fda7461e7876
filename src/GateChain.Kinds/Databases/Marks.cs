using GateChain.Core.Datasets;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Databases;

/// <summary>The marks that work has left in databases, for whoever clears them. Thread-safe.</summary>
public static class Marks
{
    /// <summary>The connection of the database in which an attempt has left its mark; null for none.</summary>
    /// <param name="kind">The kind of its step.</param>
    /// <param name="inputs">What it was given.</param>
    public static string? ConnectionOf(string kind, SettingTexts inputs) =>
        kind switch
        {
            "load" => inputs["into.connection"],
            "sql" => inputs["connection"],
            _ => null,
        };

    /// <summary>Removes the marks of all work of some runs. Nobody works for them any more.</summary>
    /// <param name="connection">The database.</param>
    /// <param name="uids">What the runs are called beyond this service; up to some hundred.</param>
    /// <returns>How many there were.</returns>
    /// <exception cref="StepFailedException">The database can't be reached, or does not answer.</exception>
    public static int Clear(
        string connection,
        IEnumerable<string> uids,
        IConnections connections,
        ConnectionUse use,
        CancellationToken cancel
    )
    {
        try
        {
            using var session = Session.Open(connection, connections, use, _ => { }, cancel);
            return new WorkMarks(session, "", TimeProvider.System).ForgetRuns([.. uids]);
        }
        catch (Exception e) when (Dialects.Error(e, connection) is { } error)
        {
            throw new StepFailedException(error);
        }
    }
}
