using GateChain.Core.Expressions;
using GateChain.Kinds.Connections;

namespace GateChain.Kinds.Contract;

/// <summary>Finds connections for kinds, and says in the step's words what is wrong with one.</summary>
public static class NamedConnections
{
    /// <summary>The connection of a name.</summary>
    /// <param name="type">The type it must be of; null for any.</param>
    /// <exception cref="StepFailedException">There is none of that name, or it is of another type.</exception>
    public static Connection Require(this IConnections connections, string name, string? type = null)
    {
        var found = connections.Find(name)
            ?? throw new StepFailedException(
                "no-connection",
                $"there is no connection “{name}”",
                "Declare it in connections.yaml and push the workspace."
            );
        return type is null || found.Type == type
            ? found
            : throw new StepFailedException(
                "no-connection",
                $"“{name}” is {Article.Of(found.Type)} connection, not {Article.Of(type)} one"
            );
    }

    /// <summary>Its settings with the secrets in them.</summary>
    /// <exception cref="StepFailedException">It names a secret that is not there, or a setting does not
    /// fit.</exception>
    public static T Open<T>(this Connection connection, ISecrets secrets)
        where T : class, new()
    {
        try
        {
            return connection.As<T>(secrets);
        }
        catch (MissingSecretException e)
        {
            throw NoSecret(e, connection.Name);
        }
        catch (FormatException e)
        {
            throw new StepFailedException("connection", $"connection “{connection.Name}”: {e.Message}");
        }
    }

    /// <summary>What a secret that nobody has set means for a step.</summary>
    public static StepFailedException NoSecret(MissingSecretException e, string connection) =>
        new(
            "no-secret",
            $"{e.Message}, which connection “{connection}” needs",
            $"Set it: gatechain secret set {e.Name}"
        );
}
