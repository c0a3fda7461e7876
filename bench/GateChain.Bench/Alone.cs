using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;

namespace GateChain.Bench;

/// <summary>What a kind needs to work without a service.</summary>
static class Alone
{
    /// <param name="folder">Where all of it is.</param>
    /// <param name="connection">The one that every name means; null for none.</param>
    public static AttemptContext In(string folder, Connection? connection = null)
    {
        var one = new One(connection);
        return new()
        {
            Run = 1,
            Step = "load",
            Attempt = 1,
            WorkKey = new(Guid.NewGuid().ToString("N"), "load", 0),
            WorkFolder = folder,
            StepsFolder = folder,
            Folders = new(folder),
            Log = one,
            Connections = one,
            Secrets = one,
            Attachment = _ => null,
            Time = TimeProvider.System,
        };
    }

    sealed class One(Connection? connection) : IConnections, ISecrets, IAttemptLog
    {
        public Connection? Find(string name) => connection;

        string? ISecrets.Find(string name) => null;

        public void Out(string line) { }

        public void Err(string line) { }

        public void Note(string line) { }
    }
}
