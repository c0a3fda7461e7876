using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load;

/// <summary>A stage that stands in a database.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Work">The piece of work whose mark says that it gathers there; null when no mark does.</param>
public sealed record FoundStage(string Name, string? Work);

/// <summary>
/// The stages of loads in a database, for whoever clears them. Each call opens a connection of its own. Thread-safe.
/// </summary>
public static class Stages
{
    /// <summary>Whether a connection leads to a database, where stages may be.</summary>
    public static bool MayBeIn(Connection connection) => Dialects.Find(connection.Type) is not null;

    /// <summary>Those that are there.</summary>
    /// <exception cref="StepFailedException">The database can't be reached, or does not answer.</exception>
    public static IReadOnlyList<FoundStage> Find(
        string connection,
        IConnections connections,
        ConnectionUse use,
        CancellationToken cancel
    ) =>
        In(
            connection,
            connections,
            use,
            session =>
            {
                var marks = new WorkMarks(session, "", TimeProvider.System).Begun().ToLookup(StageTable.NameOf);
                using var command = session.Command(null, session.Dialect.StagesQuery(StageTable.Prefix));
                using var reader = command.ExecuteReader();
                var found = new List<FoundStage>();
                while (reader.Read())
                {
                    // In a pattern of SQL an underscore is any letter.
                    if (reader.GetString(0) is var name && name.StartsWith(StageTable.Prefix, StringComparison.Ordinal))
                        found.Add(new(name, marks[name].FirstOrDefault()));
                }
                return found;
            },
            cancel
        );

    /// <summary>Clears one, with the mark of its work: whoever continues with that work begins again.</summary>
    /// <param name="connection">Where it is.</param>
    /// <param name="stage">Its name.</param>
    /// <param name="work">The work; null for none.</param>
    /// <param name="note">What tells of it here; null for nothing.</param>
    /// <exception cref="StepFailedException">The database can't be reached, or does not answer.</exception>
    public static void Clear(
        string connection,
        string stage,
        string? work,
        StageNote? note,
        IConnections connections,
        ConnectionUse use,
        CancellationToken cancel
    )
    {
        if (!stage.StartsWith(StageTable.Prefix, StringComparison.Ordinal))
            throw new ArgumentException($"{stage} is no stage", nameof(stage));
        In(
            connection,
            connections,
            use,
            session =>
            {
                if (work is not null)
                    new WorkMarks(session, work, TimeProvider.System).ForgetBegun();
                return session.Execute(null, $"DROP TABLE IF EXISTS {session.Dialect.Quote(stage)}");
            },
            cancel
        );
        note?.Remove();
    }

    static T In<T>(
        string connection,
        IConnections connections,
        ConnectionUse use,
        Func<Session, T> work,
        CancellationToken cancel
    )
    {
        using var session = Session.Open(connection, connections, use, _ => { }, cancel);
        try
        {
            return work(session);
        }
        catch (Exception e) when (session.Dialect.Error(e, connection) is { } error)
        {
            throw new StepFailedException(error);
        }
    }
}
