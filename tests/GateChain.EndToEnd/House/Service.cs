using System.Diagnostics;
using GateChain.Client;
using Microsoft.Data.Sqlite;

namespace GateChain.EndToEnd.House;

/// <summary>The real service in a process of its own, with data and work folders of its own.</summary>
sealed class Service : IAsyncDisposable
{
    readonly TempFolder _folder;

    Service(TempFolder? folder = null) => _folder = folder ?? new();

    Process? _process;
    string _listen = "http://127.0.0.1:0";

    static string Workspace => Path.Combine(Place.Root, "demo/workspace");

    /// <summary>Options of <c>serve</c> beside the usual ones.</summary>
    public IReadOnlyList<string> Options { get; set; } = [];

    /// <summary>A work folder that it shares with others; its own when null.</summary>
    public string? SharedWork { get; init; }

    public string Work => SharedWork ?? _folder["work"];
    public string Data => _folder["data"];
    public Uri Address { get; private set; } = null!;
    public GateChainClient Client { get; private set; } = null!;

    /// <summary>A service with the demo's data and workspace.</summary>
    public static async Task<Service> WithDemoAsync()
    {
        var service = new Service();
        Directory.CreateDirectory(service.Work);
        await Place.CopyDemoDataAsync(service.Work);
        if (Environment.GetEnvironmentVariable("GATECHAIN_TEST_CLUSTER") is not null)
            await service.BesideOwnerAsync();
        await service.StartAsync();
        // Tests that want a trigger to fire let it: by themselves they would start runs in the middle of others.
        await service.Client.HoldAsync(new(true, "", "a test"));
        await service.PushFolderAsync(Workspace);
        return service;
    }

    PostgreSqlServer? _database;
    Service? _owner;
    (string Name, string Value)[] _key = [];

    /// <summary>Makes it a node that owns no run: whatever it shows is another one's.</summary>
    async Task BesideOwnerAsync()
    {
        _database = PostgreSqlServer.Start();
        await File.WriteAllTextAsync(_folder["key"], Convert.ToBase64String(new byte[32]));
        _key = [("GATECHAIN_SECRET_KEY_FILE", _folder["key"])];
        _owner = Node("owner", _database.To("larkmoor"), Work);
        await _owner.StartAsync(_key);
        Options = ["--database", _database.To("larkmoor"), "--join", "127.0.0.1:0", "--name", "asked", "--worker"];
    }

    /// <summary>Pushes a folder.</summary>
    /// <param name="change">Changes a file on its way: its name and text.</param>
    public async Task PushFolderAsync(string folder, Func<string, string, string>? change = null)
    {
        var files = Directory
            .EnumerateFiles(folder, "*", SearchOption.AllDirectories)
            .ToDictionary(f => Path.GetRelativePath(folder, f), File.ReadAllBytes);
        if (change is not null)
        {
            files = files.ToDictionary(
                f => f.Key,
                f => System.Text.Encoding.UTF8.GetBytes(change(f.Key, System.Text.Encoding.UTF8.GetString(f.Value)))
            );
        }
        var result = await Client.PushAsync(files, over: true);
        Assert.True(
            result.Problems.All(p => p.Severity != "error"),
            string.Join("\n", result.Problems.Select(p => $"{p.File}: {p.Message}"))
        );
    }

    /// <summary>A service on a copy of a data and a work folder, not started yet.</summary>
    /// <param name="place">Where the copy lies.</param>
    public static async Task<Service> FromFolderAsync(string folder, string place)
    {
        var service = new Service(new TempFolder(place));
        var (exit, _, err) = await Place.RunAsync("cp", folder, null, "-r", folder + "/.", place);
        Assert.True(exit == 0, err);
        return service;
    }

    /// <summary>A node of those that share a database, not started yet.</summary>
    public static Service Node(string name, string database, string work, params IReadOnlyList<string> more) =>
        new()
        {
            SharedWork = work,
            Options = ["--database", database, "--join", "127.0.0.1:0", "--name", name, .. more],
        };

    /// <summary>A service with nothing yet, not even a data folder; not started.</summary>
    public static Service Nothing()
    {
        var service = new Service();
        Directory.CreateDirectory(service.Work);
        return service;
    }

    /// <summary>The process.</summary>
    public int ProcessId => _process!.Id;

    /// <summary>Whether it has ended, and how.</summary>
    public int? ExitCode => _process is { HasExited: true } ended ? ended.ExitCode : null;

    /// <summary>Sends its process a signal, for example <c>STOP</c>.</summary>
    public async Task SignalAsync(string signal) =>
        Assert.Equal(0, (await Place.RunAsync("kill", Path.GetTempPath(), null, $"-{signal}", $"{ProcessId}")).Exit);

    /// <summary>A service without anything.</summary>
    public static async Task<Service> EmptyAsync(params IReadOnlyList<string> options)
    {
        var service = new Service { Options = options };
        Directory.CreateDirectory(service.Work);
        await service.StartAsync();
        return service;
    }

    /// <summary>How much of the processors the process has used.</summary>
    public TimeSpan ProcessorTime => _process!.TotalProcessorTime;

    /// <summary>The bytes of memory that the process has.</summary>
    public long Memory
    {
        get
        {
            _process!.Refresh();
            return _process.WorkingSet64;
        }
    }

    /// <summary>Starts the process; it answers then.</summary>
    /// <param name="environment">Variables of that process alone: tests run side by side.</param>
    public async Task StartAsync(params IReadOnlyList<(string Name, string Value)> environment)
    {
        var start = new ProcessStartInfo(
            Place.Program,
            ["serve", "--listen", _listen, "--data", Data, "--work", Work, .. Options]
        )
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var (name, value) in environment.Concat(_key))
            start.Environment[name] = value;
        _process = Process.Start(start)!;
        var said = new System.Collections.Concurrent.ConcurrentQueue<string?>();
        _process.ErrorDataReceived += (_, e) =>
        {
            said.Enqueue(e.Data);
            if (said.Count > 50)
                said.TryDequeue(out var _);
        };
        _process.BeginErrorReadLine();
        var line = await _process.StandardOutput.ReadLineAsync().WaitAsync(TimeSpan.FromMinutes(2));
        Assert.True(line?.StartsWith("Gate Chain listens at ", StringComparison.Ordinal), string.Join('\n', said));
        Address = new(line!["Gate Chain listens at ".Length..]);
        _listen = Address.ToString().TrimEnd('/');
        Client?.Dispose();
        Client = new(Address, "test");
        await Client.HealthAsync();
    }

    /// <summary>SIGKILL: no chance to tidy up.</summary>
    public async Task KillAsync()
    {
        _process!.Kill();
        await _process.WaitForExitAsync();
    }

    public async Task TerminateAsync()
    {
        (await Place.RunAsync("kill", Work, null, "-TERM", _process!.Id.ToString())).ToString();
        await _process.WaitForExitAsync().WaitAsync(TimeSpan.FromMinutes(2));
    }

    public Task<(int Exit, string Out, string Err)> CliAsync(params string[] arguments) =>
        Place.RunAsync(
            Place.Program,
            Work,
            new Dictionary<string, string> { ["GATECHAIN_SERVICE"] = Address.ToString() },
            arguments
        );

    /// <summary>Pushes one chain file.</summary>
    public Task<PushResult> PushAsync(string yaml) =>
        Client.PushAsync(
            new Dictionary<string, byte[]> { ["t.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(yaml) },
            over: true
        );

    public async Task<RunDetail> EndAsync(long run)
    {
        for (var i = 0; i < 1200; i++)
        {
            var detail = await Client.RunAsync(run);
            if (detail.Ended is not null)
                return detail;
            await Task.Delay(25);
        }
        throw new TimeoutException($"run {run} does not end");
    }

    /// <summary>Asks the demo's warehouse.</summary>
    public string Warehouse(string sql) => Ask("warehouse.db", sql);

    /// <summary>Asks a SQLite file in the work folder.</summary>
    public string Ask(string file, string sql)
    {
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(Work, file)};Mode=ReadOnly;Pooling=False"
        );
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return command.ExecuteScalar()?.ToString() ?? "";
    }

    public async ValueTask DisposeAsync()
    {
        Client?.Dispose();
        if (_process is { HasExited: false })
            await KillAsync();
        _process?.Dispose();
        if (_owner is not null)
            await _owner.DisposeAsync();
        _database?.Dispose();
        _folder.Dispose();
    }
}
