using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text;
using Dapper;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds;
using GateChain.Kinds.Contract;
using GateChain.Storage;
using GateChain.Storage.Sql;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;
using Microsoft.Extensions.Time.Testing;

namespace GateChain.Engine.Tests;

/// <summary>Turns texts round: enough to see that what is stored is not the text.</summary>
sealed class PlainCipher : GateChain.Storage.ISecretCipher
{
    public string Encrypt(string value) => new([.. value.Reverse()]);

    public string Decrypt(string cipher) => new([.. cipher.Reverse()]);
}

/// <summary>
/// An engine on a folder of its own, with a kind <c>count</c> whose effects are counted and whose outcome the test
/// chooses.
/// </summary>
sealed class House : IAsyncDisposable
{
    readonly TempFolder _folder = new();
    readonly List<(ChainEngine Engine, SqlStore Store)> _engines = [];

    readonly Bounds _bounds;

    public House(
        Func<IJournal, IJournal>? cut = null,
        int snapshotFrom = 50_000,
        Bounds? bounds = null,
        DateTimeOffset? at = null
    )
    {
        Clock = new(at ?? new(2026, 11, 23, 6, 0, 0, TimeSpan.Zero));
        _bounds = bounds ?? Bounds.Default;
        Directory.CreateDirectory(_folder["data"]);
        Start(cut, snapshotFrom);
    }

    public ChainEngine Engine => _engines[^1].Engine;
    public SqlStore Store => _engines[^1].Store;
    public CountKind Count { get; } = new();
    public ChainCheck Check { get; private set; } = null!;

    /// <summary>The engines' clock; it stands still until it is turned.</summary>
    public FakeTimeProvider Clock { get; }

    public string Work => _folder.Path;

    /// <summary>The folder of the machine whose files are secrets.</summary>
    public string SecretFiles => _folder["secrets"];

    /// <summary>Starts another engine on the same data, as a new process would. The old one is not told.</summary>
    /// <param name="cut">What to do with the journal's appends; null to pass them on.</param>
    /// <param name="snapshotFrom">How many events a run has when its first snapshot is taken.</param>
    public void Start(Func<IJournal, IJournal>? cut = null, int snapshotFrom = 50_000)
    {
        var store = TestStore.Open(_folder);
        IStepKind[] kinds = [.. AllKinds.Runners, Count];
        Check = new(new KindCatalogue(kinds.Select(k => k.Description), AllKinds.Probes.Select(p => p.Description)));
        _engines.Add(
            (
                new(
                    new(_folder["data"], _folder.Path)
                    {
                        SnapshotFrom = snapshotFrom,
                        Bounds = _bounds,
                        SecretFiles = SecretFiles,
                    },
                    store,
                    kinds,
                    AllKinds.Probes,
                    new PlainCipher(),
                    Check,
                    Clock,
                    NullLogger<ChainEngine>.Instance,
                    cut?.Invoke(store.Journal)
                ),
                store
            )
        );
        // SQLite does not wait.
        var loading = Engine.LoadAsync();
        Assert.True(TestStore.IsPostgres || loading.IsCompletedSuccessfully);
        loading.GetAwaiter().GetResult();
    }

    /// <summary>Pushes chains, one a file; the first is “t”.</summary>
    public async Task PushAsync(params string[] yaml)
    {
        var files = yaml.Select((y, i) => (Name: i == 0 ? "t" : $"child{i}", Text: y))
            .ToDictionary(f => f.Name + ".chain.yaml", f => Encoding.UTF8.GetBytes(f.Text));
        files["lanes.yaml"] = "narrow: { width: 1 }\nwide: { width: 3 }"u8.ToArray();
        var workspace = await Engine.Workspace.PushAsync(files, Ann);
        Assert.False(workspace.HasErrors, string.Join("\n", workspace.Problems));
    }

    public async Task<long> RunAsync(string yaml, params (string Name, string Value)[] parameters)
    {
        await PushAsync(yaml);
        return await Engine.Starter.StartAsync(
            "t",
            parameters.ToDictionary(p => p.Name, p => Value.String(p.Value)),
            null,
            Ann
        );
    }

    /// <summary>Waits until a step is running.</summary>
    public async Task InFlightAsync(long run, string step)
    {
        for (var i = 0; !await Engine.Reader.ReadAsync(run, (s, _) => s.Find(step) is { IsInFlight: true }); i++)
        {
            Assert.True(i < 4000, $"{step} does not start");
            await Task.Delay(10);
        }
        // Its start is decided; the work begins when that is on disk.
        await Task.Delay(50);
    }

    /// <summary>A file comes into the work folder, written at the moment that the clock shows.</summary>
    public void Arrive(string name)
    {
        var written = _folder[Guid.NewGuid().ToString("N")];
        File.WriteAllText(written, "1");
        File.SetLastWriteTimeUtc(written, Clock.GetUtcNow().UtcDateTime);
        File.Move(written, Path.Combine(Work, name), overwrite: true);
    }

    /// <summary>Turns the clock to the next moment that a run waits for; not while one is running.</summary>
    /// <param name="within">What lies behind that is not turned to; null for anything.</param>
    public async Task TurnAsync(TimeSpan? within = null)
    {
        var next = DateTimeOffset.MaxValue;
        foreach (
            var head in (await Store.Runs.ListAsync(new(Limit: 1000))).Where(h =>
                h.Ended is null || h.ResumeAt is not null
            )
        )
        {
            var (busy, due) = await Engine.Reader.ReadAsync(head.Id, (s, _) =>
                (s.AllSteps.Any(x => x.IsInFlight), s.HasEnded ? s.ResumeAt : s.NextDue)
            );
            if (busy)
                return;
            next = due < next ? due.Value : next;
        }
        var now = Clock.GetUtcNow();
        // What is due already has a timer that strikes in a moment: one that was set while the clock was turned, too.
        if (next <= now)
            Clock.Advance(TimeSpan.FromMilliseconds(1));
        else if (next - now <= (within ?? TimeSpan.FromDays(1_000)))
            Clock.SetUtcNow(next);
    }

    /// <summary>
    /// Waits for the run to end, and turns the clock to whatever it waits for; gives its steps in words.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="within">What lies behind that is not turned to; null for anything.</param>
    public async Task<string> TurnToEndAsync(long run, TimeSpan? within = null)
    {
        var patience = Stopwatch.StartNew();
        while (await Store.Runs.FindAsync(run) is not { Ended: not null, ResumeAt: null })
        {
            Assert.True(patience.Elapsed < TimeSpan.FromMinutes(1), $"run {run} does not end");
            await TurnAsync(within);
            await Task.Delay(1);
        }
        return await EndAsync(run);
    }

    /// <summary>Waits for the run to end; gives its steps in words.</summary>
    public async Task<string> EndAsync(long run)
    {
        for (var i = 0; i < 4000; i++)
        {
            var (ended, words) = await Engine.Reader.ReadAsync(run, (s, _) =>
                (s.HasEnded, $"{s.Word}: {string.Join(", ", s.AllSteps.Select(x => $"{x.Path} {x.Word}"))}")
            );
            if (ended)
                return words;
            await Task.Delay(10);
        }
        var all = (await Store.Runs.ListAsync(new(Limit: 100))).Select(h =>
            $"{h.Id} {h.Chain} {h.State} {h.Error} of {h.Parent}"
        );
        throw new TimeoutException(
            await Engine.Reader.ReadAsync(run, (s, _) =>
                string.Join(", ", s.AllSteps.Select(x => $"{x} {x.Error?.Message} {x.Child}"))
            )
                + "\n"
                + string.Join("\n", all)
                + $"\nwriter {Store.Journal.Writer}"
        );
    }

    /// <summary>Ends the engine as a service ends in good order.</summary>
    public Task EndEngineAsync() => EndAsync(Engine);

    // What does not end by itself has its patience at once.
    async Task EndAsync(ChainEngine engine)
    {
        var ending = engine.DisposeAsync().AsTask();
        while (!ending.IsCompleted)
        {
            await Task.WhenAny(ending, Task.Delay(5));
            Clock.Advance(TimeSpan.FromSeconds(1));
        }
        await ending;
    }

    public async ValueTask DisposeAsync()
    {
        Count.Release();
        foreach (var (engine, store) in Enumerable.Reverse(_engines))
        {
            await EndAsync(engine);
            await store.DisposeAsync();
        }
        _folder.Dispose();
    }
}

/// <summary>Counts its effects by step; steps can be told to fail or to hang.</summary>
sealed class CountKind : IStepKind
{
    readonly TaskCompletionSource _released = new(TaskCreationOptions.RunContinuationsAsynchronously);

    public ConcurrentDictionary<string, int> Effects { get; } = new();
    public ConcurrentDictionary<string, bool> Marks { get; } = new();
    public ConcurrentDictionary<string, int> Working { get; } = new();

    /// <summary>The most steps that worked at once.</summary>
    public int Most { get; private set; }

    public ConcurrentDictionary<string, bool> Failing { get; } = new();

    /// <summary>Which further steps fail, by path.</summary>
    public Func<string, bool> Fails { get; set; } = _ => false;

    public ConcurrentDictionary<string, bool> Hanging { get; } = new();

    /// <summary>Steps that hang, and do not end when they are asked to.</summary>
    public ConcurrentDictionary<string, bool> Stubborn { get; } = new();

    public KindDescription Description { get; } =
        new(
            "count",
            "Counts.",
            SettingShape.Record(
                new SettingMember("n", new(SettingForm.Any), false, null, ""),
                new SettingMember("ms", new(SettingForm.Int), false, null, ""),
                new SettingMember("once", new(SettingForm.Bool), false, null, ""),
                new SettingMember("keep", new(SettingForm.Text), false, null, "")
            ),
            new Dictionary<string, CelType> { ["n"] = CelType.Int }
        );

    public void Release() => _released.TrySetResult();

    public async ValueTask<AttemptResult> RunAsync(Value settings, AttemptContext context, CancellationToken cancel)
    {
        if (Stubborn.ContainsKey(context.Step))
            await _released.Task;
        if (Hanging.ContainsKey(context.Step))
        {
            try
            {
                await _released.Task.WaitAsync(cancel);
            }
            catch (OperationCanceledException)
            {
                return AttemptResult.Fail("stopped", "ended early");
            }
        }
        if (Failing.ContainsKey(context.Step) || Fails(context.Step))
            return AttemptResult.Fail("test", "told to fail");
        if (settings.AsMap.Find("n") is { Kind: ValueKind.String, AsString: "throw" })
            throw new InvalidOperationException("a bug of the kind");
        context.Log.Out($"counting {context.Step}");
        Working.AddOrUpdate(context.Step, 1, (_, old) => old + 1);
        var most = Working.Values.Sum();
        Most = Math.Max(Most, most);
        if (settings.AsMap.Find("ms") is { Kind: ValueKind.Int } ms)
            await Task.Delay((int)ms.AsInt, CancellationToken.None);
        Working.AddOrUpdate(context.Step, 0, (_, old) => old - 1);
        // As a mark in another database does it: a piece of work that was done is not done again.
        if (
            settings.AsMap.Find("once") is { Kind: ValueKind.Bool, AsBool: true }
            && !Marks.TryAdd(context.WorkKey.ToString(), true)
        )
        {
            return AttemptResult.Done(("n", Value.Int(Effects[context.Step])));
        }
        var n = Effects.AddOrUpdate(context.Step, 1, (_, old) => old + 1);
        if (settings.AsMap.Find("keep") is not { Kind: ValueKind.String, AsString: var keep })
            return AttemptResult.Done(("n", Value.Int(n)));
        // As a load that goes on where it got to: one further each time.
        var position = Value.Int((context.Position(keep)?.AsInt ?? 0) + 1);
        return AttemptResult.Done(("n", position)) with
        {
            Positions = new Dictionary<string, Value> { [keep] = position },
        };
    }
}

static class StoreDamage
{
    /// <summary>Makes a journal row unreadable; gives what makes it readable again.</summary>
    public static async Task<Action> DamageAsync(this SqlStore store, long run, long seq)
    {
        TestStore.NeedsFile();
        var file = ((SqliteStore)store).Path;
        // Wherever it lies: what it looks like is damaged.
        var row = (await store.Journal.ReadAsync(run).FirstAsync(r => r.Seq == seq)).Body;
        using var connection = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={file}");
        connection.Open();
        var damaged = 0;
        var repairs = new List<(string Sql, object Values)>();
        foreach (
            var (table, key, value) in (IEnumerable<(string, string, string)>)
                [("journal", "rowid", "body"), ("journal_tail", "id", "block")]
        )
        {
            var found = connection.Query<(long Key, byte[] Value)>($"SELECT {key}, {value} FROM {table}").ToList();
            foreach (var (at, bytes) in found.Where(f => f.Value.AsSpan().IndexOf(row) >= 0))
            {
                repairs.Add(
                    ($"UPDATE {table} SET {value} = @bytes WHERE {key} = @at", new { bytes = bytes.ToArray(), at })
                );
                bytes.AsSpan(bytes.AsSpan().IndexOf(row), row.Length).Clear();
                // Without the checksum, as of an earlier version: what is damaged is found only where it is folded.
                damaged += connection.Execute(
                    $"UPDATE {table} SET {value} = @bytes, sum = NULL WHERE {key} = @at",
                    new { bytes, at }
                );
            }
        }
        Assert.NotEqual(0, damaged);
        return () =>
        {
            using var again = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={file}");
            again.Open();
            foreach (var (sql, values) in repairs)
                again.Execute(sql, values);
        };
    }
}
