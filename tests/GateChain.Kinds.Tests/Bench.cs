using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using Microsoft.Data.Sqlite;

namespace GateChain.Kinds.Tests;

/// <summary>A folder, a database and a log for one kind to work with.</summary>
sealed class Bench : IDisposable, IConnections, ISecrets, IAttemptLog
{
    readonly TempFolder _folder = new();

    readonly List<string> _lines = [];

    /// <summary>The lines so far; kinds may be adding more meanwhile.</summary>
    public IReadOnlyList<string> Log
    {
        get
        {
            lock (_lines)
            {
                return [.. _lines];
            }
        }
    }

    public void ClearLog()
    {
        lock (_lines)
        {
            _lines.Clear();
        }
    }

    public string this[string name] => _folder[name];
    public string Folder => _folder.Path;

    public void Write(string name, string text) => _folder.Write(name, text);

    /// <summary>Connections beside <c>db</c>, a SQLite file.</summary>
    public Dictionary<string, Connection> Connections { get; } = [];
    public Dictionary<string, string> Secrets { get; } = [];
    public Dictionary<string, string> Attachments { get; } = new() { ["query.sql"] = "SELECT 42 AS n" };

    /// <summary>How far steps have got, as a run would keep it: what a step gives is taken over by the test.</summary>
    public Dictionary<string, Value> Positions { get; } = [];

    /// <summary>What kinds told of how far they got.</summary>
    public List<AttemptProgress> Progress { get; } = [];

    public Connection? Find(string name) =>
        name == "db"
            ? new(
                "db",
                "sqlite",
                new Dictionary<string, Value>
                {
                    ["path"] = Value.String("db.sqlite"),
                    ["busyTimeout"] = Value.String("1s"),
                }
            )
            : Connections.GetValueOrDefault(name);

    /// <summary>What kinds had hidden while they worked.</summary>
    public List<string> Hidden { get; } = [];

    void ISecrets.Hide(string value) => Hidden.Add(value);

    string? ISecrets.Find(string name) => Secrets.GetValueOrDefault(name);

    /// <summary>Puts a connection to the others.</summary>
    public void Connect(string name, string type, params ReadOnlySpan<(string Key, object Value)> settings)
    {
        var values = new Dictionary<string, Value>();
        foreach (var (key, value) in settings)
        {
            values[key] = value switch
            {
                int n => Value.Int(n),
                bool b => Value.Bool(b),
                _ => Value.String((string)value),
            };
        }
        Connections[name] = new(name, type, values);
    }

    // Programs and rows are told by the key of their work, on the machine and in the databases that all tests share.
    readonly string _own = Guid.NewGuid().ToString("N")[..8];

    public AttemptContext Context(string work = "w/1") =>
        new()
        {
            Run = 1,
            Step = "s",
            Attempt = 1,
            WorkKey = new($"{_own}/{work}", "s", 0),
            WorkFolder = Folder,
            Folders = new(Folder),
            Progress = new Told(Progress.Add),
            StepsFolder = this["steps"],
            Log = this,
            Connections = this,
            Secrets = this,
            NamesSecret = (_, _) => true,
            Attachment = name =>
                Attachments.TryGetValue(name, out var text) ? System.Text.Encoding.UTF8.GetBytes(text) : null,
            Position = name => Positions.TryGetValue(name, out var at) ? at : null,
            Time = TimeProvider.System,
        };

    /// <summary>Takes progress at once, on the thread that tells it.</summary>
    public sealed class Told(Action<AttemptProgress> take) : IProgress<AttemptProgress>
    {
        public void Report(AttemptProgress value) => take(value);
    }

    /// <summary>Runs a kind with settings as JSON.</summary>
    public Task<AttemptResult> RunAsync(
        IStepKind kind,
        string settings,
        string work = "w/1",
        CancellationToken cancel = default
    ) => kind.RunAsync(ValueJson.TryParse(settings)!.Value, Context(work), cancel).AsTask();

    public SqliteConnection Open()
    {
        var connection = new SqliteConnection($"Data Source={this["db.sqlite"]};Pooling=False;Default Timeout=1");
        connection.Open();
        return connection;
    }

    public void Sql(string sql)
    {
        using var connection = Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    public string Ask(string sql)
    {
        using var connection = Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return command.ExecuteScalar()?.ToString() ?? "";
    }

    void IAttemptLog.Out(string line) => Add("out " + line);

    void IAttemptLog.Err(string line) => Add("err " + line);

    void IAttemptLog.Note(string line) => Add("note " + line);

    void Add(string line)
    {
        lock (_lines)
        {
            _lines.Add(line);
        }
    }

    public void Dispose() => _folder.Dispose();
}
