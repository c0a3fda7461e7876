using GateChain.Core.Problems;
using GateChain.Kinds.Connections;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// What stands beside the chains, read. What was wrong with a file was told when it came. Immutable.
/// </summary>
sealed record WorkspaceFiles(ConnectionsFile Connections, Profiles Profiles, LanesFile Lanes)
{
    /// <summary>There are none.</summary>
    public static WorkspaceFiles None { get; } = Read([]);

    public static WorkspaceFiles Read(IReadOnlyList<WorkspaceFile> files)
    {
        T Of<T>(string path, Func<string, ProblemList, T> read)
        {
            var text = files.FirstOrDefault(f => f.Path == path)?.Content ?? "{}";
            return read(text, new ProblemList(path, text));
        }
        return new(
            Of(Workspace.ConnectionsName, Workspace.ReadConnections),
            Of(Workspace.ProfilesName, Profiles.Read),
            Of(Workspace.LanesName, LanesFile.Read)
        );
    }
}
