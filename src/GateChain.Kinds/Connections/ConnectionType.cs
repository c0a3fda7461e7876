using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Connections;

/// <summary>A type of connection: what it is told, and how to see whether it works.</summary>
/// <param name="Name">The word after <c>type:</c>.</param>
/// <param name="Doc">What it leads to, in a sentence.</param>
/// <param name="Settings">The shape of the entries of its own.</param>
/// <param name="LookAsync">Goes there and says what is found; throws what hinders it.</param>
/// <param name="Words">Says in a sentence what an exception of that look means; null for one that it does not
/// know.</param>
public sealed record ConnectionType(
    string Name,
    string Doc,
    SettingShape Settings,
    Func<Connection, ConnectionUse, CancellationToken, Task<string>> LookAsync,
    Func<Exception, string?> Words
)
{
    /// <summary>The entry by which any connection is kept from tries of drafts.</summary>
    public const string Tries = "tries";

    /// <summary>The shape of its entries, with what all types share; always a record.</summary>
    public SettingShape Settings { get; } =
        Settings with
        {
            Members =
            [
                .. Settings.Members,
                new(
                    Tries,
                    new(SettingForm.Bool),
                    false,
                    Value.True,
                    "Whether tries of drafts may use it, and the chains that they call."
                ),
            ],
        };
}

/// <summary>What is needed to use a connection.</summary>
/// <param name="WorkFolder">The folder that relative paths start from.</param>
/// <param name="Secrets">Where passwords come from.</param>
public sealed record ConnectionUse(string WorkFolder, ISecrets Secrets)
{
    /// <summary>
    /// Gives the full path of a file that a database may use, and throws for others; null where any may be, as offline.
    /// </summary>
    public Func<string, string>? Confine { get; init; }

    /// <summary>All that may be reached, as folders and single files; null where anything may be.</summary>
    public Func<(IReadOnlyList<string> Folders, IReadOnlyList<string> Files)>? Reach { get; init; }

    /// <summary>Where it may lead.</summary>
    public NetworkRules Network { get; init; } = NetworkRules.Open;

    /// <summary>Whether nothing may be changed.</summary>
    public bool ReadOnly { get; init; }

    /// <summary>
    /// Whether rows are carried from or to it: the driver gives every value as it is, and interprets none.
    /// </summary>
    public bool Exact { get; init; }

    /// <summary>
    /// A path of a connection as a full path; throws when it leads out of the folders that the service may use.
    /// </summary>
    public string Resolve(string path) => Confine?.Invoke(path) ?? Path.GetFullPath(path, WorkFolder);
}

/// <summary>A folder that file steps may name instead of a path.</summary>
public sealed record FolderSettings
{
    [Setting("The folder's path.", Required = true)]
    public string Path { get; init; } = "";
}
