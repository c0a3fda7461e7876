using System.Text;
using DbUp.Engine;
using DbUp.ScriptProviders;
using GateChain.Core.Identity;
using GateChain.Storage.Postgres;
using GateChain.Storage.Tests.Contract;
using Npgsql;

namespace GateChain.Storage.Tests.Postgres;

/// <summary>Services that share a database: who is there, whose runs are whose, what they tell each other.</summary>
public sealed class NodesTests
{
    static readonly TimeSpan Long = TimeSpan.FromMinutes(1);

    static StoredNode Node(string id, bool ownsRuns = true) =>
        new(
            id,
            id.Split('.')[0],
            "http://127.0.0.1:1",
            ["warehouse", "zone=dmz"],
            "1.0.0",
            default,
            default,
            default,
            ownsRuns
        );

    static StoredRun Head(long id) =>
        new(id, "c", "hash", "running", 1, Actor.Person("ann"), DateTimeOffset.UnixEpoch, null, "{}", null);

    static async Task<AppendOutcome> AppendAsync(IStore store, long run, long seq, long epoch = 1, bool ends = false)
    {
        var listener = new Listener();
        var head = Head(run) with { Ended = ends ? DateTimeOffset.UnixEpoch : null };
        store.Journal.Append(
            new(run, epoch, seq, Encoding.UTF8.GetBytes($"{seq}"), seq == 1 || ends ? head : null, listener)
        );
        return await listener.Outcome(run, seq);
    }

    static async Task<long> BeginAsync(IStore store)
    {
        var run = await store.Runs.NextIdAsync();
        Assert.Equal(AppendOutcome.Written, await AppendAsync(store, run, 1));
        return run;
    }

    static async Task ExecuteAsync(string database, string sql)
    {
        await using var connection = new NpgsqlConnection(database);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    sealed record House(string Database, PostgresStore One, PostgresStore Two) : IAsyncDisposable
    {
        public static async Task<House> BuildAsync()
        {
            var database = await PostgresServer.NewAsync();
            var one = await PostgresStore.OpenAsync(database, node: "one.1");
            var two = await PostgresStore.OpenAsync(database, node: "two.1");
            await one.Nodes.JoinAsync(Node("one.1"));
            await two.Nodes.JoinAsync(Node("two.1", ownsRuns: false));
            return new(database, one, two);
        }

        public Task SilenceAsync(string id, int seconds) =>
            ExecuteAsync(Database, $"UPDATE nodes SET seen = seen - interval '{seconds} s' WHERE id = '{id}'");

        public Task<IReadOnlyList<Orphan>> TakeAsync(params string[] living) =>
            Two.Nodes.ClaimOrphansAsync("two.1", ["two.1", .. living], TimeSpan.FromSeconds(10), 100);

        public async ValueTask DisposeAsync()
        {
            await One.DisposeAsync();
            await Two.DisposeAsync();
        }
    }

    [Fact]
    public async Task WhatIsSaidOfANodeIsThereForAll()
    {
        await using var house = await House.BuildAsync();
        var nodes = await house.One.Nodes.AllAsync();
        Assert.Equal(["one.1", "two.1"], nodes.Select(n => n.Id));
        Assert.Equal(["warehouse", "zone=dmz"], nodes[0].Labels);
        Assert.Equal([true, false], nodes.Select(n => n.OwnsRuns));
        Assert.All(nodes, n => Assert.True(n.Silent < Long));
        // A name is taken as long as somebody has it.
        var taken = await Assert.ThrowsAsync<StorageException>(() => house.Two.Nodes.JoinAsync(Node("one.2")));
        Assert.Contains("there is a node “one” already", taken.Message, StringComparison.Ordinal);
        await house.SilenceAsync("one.1", 8);
        Assert.InRange((await house.Two.Nodes.AllAsync())[0].Silent.TotalSeconds, 8, 60);
        await house.Two.Nodes.JoinAsync(Node("one.2"));
        Assert.Equal(["one.2", "two.1"], (await house.One.Nodes.AllAsync()).Select(n => n.Id));
        // To be drained.
        var line = new AuditLine(DateTimeOffset.UnixEpoch, Actor.Person("ann"), "drain", "node two");
        Assert.False((await house.One.Nodes.RenewAsync("two.1")).Draining);
        Assert.True(await house.One.Nodes.DrainAsync("two", true, line));
        Assert.False(await house.One.Nodes.DrainAsync("three", true, line));
        Assert.True((await house.One.Nodes.RenewAsync("two.1")).Draining);
        Assert.Single(await house.One.Audit.ListAsync());
    }

    [Fact]
    public async Task RunsOfANodeThatIsGoneAreTakenAndItWritesNothingMore()
    {
        await using var house = await House.BuildAsync();
        var (run, ended) = (await BeginAsync(house.One), await BeginAsync(house.One));
        await AppendAsync(house.One, ended, 2, ends: true);
        Assert.Equal("one.1", await house.Two.Nodes.OwnerAsync(run));
        Assert.Equal(1, (await house.Two.Nodes.OwnedAsync())["one.1"]);
        Assert.Empty(await house.TakeAsync("one.1"));
        // The others say that it is gone.
        Assert.Equal(1, await house.Two.Nodes.OrphansAsync(["two.1"], Long));
        var orphan = Assert.Single(await house.TakeAsync());
        Assert.Equal((run, "one.1", 2), (orphan.Claim.Run.Id, orphan.From, orphan.Claim.Epoch));
        Assert.True(orphan.Silent < Long);
        Assert.Equal(AppendOutcome.Fenced, await AppendAsync(house.One, run, 2));
        Assert.Equal(AppendOutcome.Written, await AppendAsync(house.Two, run, 2, epoch: 2));
        Assert.Equal("two.1", await house.One.Nodes.OwnerAsync(run));
        Assert.Equal(0, await house.Two.Nodes.OrphansAsync(["two.1"], Long));
        // It goes on with others of its own.
        Assert.Equal(AppendOutcome.Written, await AppendAsync(house.One, await house.One.Runs.NextIdAsync(), 1));
    }

    [Fact]
    public async Task OneThatIsSilentForTooLongIsTakenFromThoughItIsSaidToLive()
    {
        await using var house = await House.BuildAsync();
        var run = await BeginAsync(house.One);
        await house.SilenceAsync("one.1", 9);
        Assert.Empty(await house.TakeAsync("one.1"));
        await house.SilenceAsync("one.1", 9);
        var orphan = Assert.Single(await house.TakeAsync("one.1"));
        Assert.InRange(orphan.Silent!.Value.TotalSeconds, 18, 60);
        // What it gave up and somebody else has is not its any more; what nobody has is.
        var other = await BeginAsync(house.One);
        Assert.Equal([other], (await house.One.Nodes.ClaimAgainAsync("one.1", [run, other])).Select(c => c.Run.Id));
    }

    [Fact]
    public async Task WhatIsLetGoOrLeftInGoodOrderIsTakenWithoutWaiting()
    {
        await using var house = await House.BuildAsync();
        var (given, left) = (await BeginAsync(house.One), await BeginAsync(house.One));
        Assert.True(await house.One.Nodes.LetGoAsync(given, 1));
        Assert.False(await house.One.Nodes.LetGoAsync(given, 7));
        Assert.Null(await house.Two.Nodes.OwnerAsync(given));
        Assert.Null(Assert.Single(await house.TakeAsync("one.1")).Silent);
        Assert.Equal("two.1", await house.Two.Nodes.OwnerAsync(given));
        await house.One.Nodes.LeaveAsync("one.1");
        var orphan = Assert.Single(await house.TakeAsync("one.1"));
        Assert.Equal((left, null), (orphan.Claim.Run.Id, orphan.Silent));
    }

    [Fact]
    public async Task OfOneThatIsGoneForSureItIsKnownHowLong()
    {
        await using var house = await House.BuildAsync();
        await BeginAsync(house.One);
        await house.Two.Nodes.BuryAsync("one.1");
        Assert.NotNull(Assert.Single(await house.TakeAsync("one.1")).Silent);
        Assert.NotNull((await house.Two.Nodes.AllAsync()).First(n => n.Id == "one.1").Left);
    }

    [Fact]
    public async Task OfTwoWhoTakeTheSameOneGetsIt()
    {
        await using var house = await House.BuildAsync();
        var runs = new List<long>();
        for (var i = 0; i < 60; i++)
            runs.Add(await BeginAsync(house.One));
        await using var three = await PostgresStore.OpenAsync(house.Database, node: "three.1");
        await three.Nodes.JoinAsync(Node("three.1"));
        string[] living = ["two.1", "three.1"];
        var taken = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(i =>
                    i % 2 == 0
                        ? house.Two.Nodes.ClaimOrphansAsync("two.1", living, Long, 20)
                        : three.Nodes.ClaimOrphansAsync("three.1", living, Long, 20)
                )
        );
        Assert.Equal(runs, taken.SelectMany(t => t).Select(o => o.Claim.Run.Id).Order());
        Assert.All(taken.SelectMany(t => t), o => Assert.Equal(2, o.Claim.Epoch));
    }

    [Fact]
    public async Task ATableOfMembersChangesForWhoHasSeenItAsItIs()
    {
        await using var house = await House.BuildAsync();
        var members = house.One.Members;
        Assert.True(await members.WriteAsync(new("a", 1, "x"), 1));
        Assert.False(await members.WriteAsync(new("b", 1, "y"), 1));
        Assert.False(await members.WriteAsync(new("a", 3, "x"), 2));
        Assert.True(await house.Two.Members.WriteAsync(new("a", 2, "z"), 2));
        await members.TouchAsync("a", body => body + "!");
        var (version, _, rows) = await members.ReadAsync();
        Assert.Equal((2, new MemberRow("a", 2, "z!")), (version, Assert.Single(rows)));
        var all = await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(i => (i % 2 == 0 ? house.One : house.Two).Members.WriteAsync(new($"m{i}", 1, ""), 3))
        );
        Assert.Single(all, true);
        await members.RemoveAsync(["a"]);
        Assert.Single((await members.ReadAsync()).Rows);
    }

    [Fact]
    public async Task WhatOneChangesTheOthersHearOf()
    {
        await using var house = await House.BuildAsync();
        var heard = System.Threading.Channels.Channel.CreateUnbounded<StoredPart>();
        await using var following = house.Two.Follow(parts =>
        {
            foreach (var part in parts)
                heard.Writer.TryWrite(part);
            return Task.CompletedTask;
        });
        async Task HearsAsync(StoredPart part, Func<Task> change)
        {
            // Until it listens, and then once.
            using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(30));
            while (true)
            {
                await change();
                using var soon = CancellationTokenSource.CreateLinkedTokenSource(patience.Token);
                soon.CancelAfter(500);
                try
                {
                    while (await heard.Reader.ReadAsync(soon.Token) != part)
                    {
                        // Of what was changed before.
                    }
                    return;
                }
                catch (OperationCanceledException) when (!patience.IsCancellationRequested)
                {
                    // Once more.
                }
            }
        }
        var line = new AuditLine(DateTimeOffset.UnixEpoch, Actor.Person("ann"), "x", "y");
        await HearsAsync(StoredPart.Secrets, () =>
            house.One.Secrets.SetAsync(new("s", Area.Root, "cipher", "ann", DateTimeOffset.UnixEpoch), line)
        );
        await HearsAsync(StoredPart.Access, () => house.One.Access.SetAsync("a", "b", line));
        await HearsAsync(StoredPart.Triggers, () =>
            house.One.Triggers.SetHoldAsync("", new("", "ann", DateTimeOffset.UnixEpoch, null), line)
        );
        // Whoever waits until it has caught up has been told of everything before, however slowly it is read.
        for (var i = 0; i < 20; i++)
        {
            while (heard.Reader.TryRead(out _)) { }
            await house.One.Secrets.SetAsync(new($"s{i}", Area.Root, "x", "ann", DateTimeOffset.UnixEpoch), line);
            await following.CaughtUpAsync();
            Assert.True(heard.Reader.TryRead(out var told) && told == StoredPart.Secrets);
        }
        // Without a connection for a while anything may have changed.
        await ExecuteAsync(
            house.Database,
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query = 'LISTEN gatechain'"
        );
        var all = new HashSet<StoredPart>();
        using var most = new CancellationTokenSource(TimeSpan.FromSeconds(30));
        while (all.Count < Enum.GetValues<StoredPart>().Length)
            all.Add(await heard.Reader.ReadAsync(most.Token));
    }

    [Fact]
    public async Task WhatOneHoldsTheOtherWaitsFor()
    {
        await using var house = await House.BuildAsync();
        var order = new List<string>();
        var first = await house.One.HoldAsync("workspace");
        var second = Task.Run(async () =>
        {
            await using (await house.Two.HoldAsync("workspace"))
                order.Add("two");
        });
        await using (await house.Two.HoldAsync("something else"))
            order.Add("one");
        await first.DisposeAsync();
        await second;
        Assert.Equal(["one", "two"], order);
        // Who has a database alone and who shares one are not there together.
        var refused = await Assert.ThrowsAsync<StorageException>(() =>
            PostgresStore.OpenAsync(house.Database, alone: true)
        );
        Assert.Contains("another service works with this database", refused.Message, StringComparison.Ordinal);
    }

    sealed class OneMore : IScriptProvider
    {
        public IEnumerable<SqlScript> GetScripts(DbUp.Engine.Transactions.IConnectionManager connections) =>
            new EmbeddedScriptProvider(typeof(PostgresStore).Assembly, n =>
                n.EndsWith(".sql", StringComparison.Ordinal)
            )
                .GetScripts(connections)
                .Append(new("GateChain.Storage.Postgres.Schema.9999-other.alone.sql", "CREATE TABLE other (x int)"));
    }

    // A new version that changes what older ones need.
    [Fact]
    public async Task AChangeThatOthersCannotLiveWithWaitsForThem()
    {
        var database = await PostgresServer.NewAsync();
        var old = await PostgresStore.OpenAsync(database, node: "old.1");
        var waits = new TaskCompletionSource<string>(TaskCreationOptions.RunContinuationsAsynchronously);
        var changing = Task.Run(() => PostgresSchema.Prepare(database, new OneMore(), waits.SetResult));
        Assert.Contains("until the services that do have ended", await waits.Task.WaitAsync(TimeSpan.FromMinutes(1)));
        Assert.False(changing.IsCompleted);
        // It works on meanwhile.
        Assert.True(await old.Runs.NextIdAsync() > 0);
        await old.DisposeAsync();
        await changing.WaitAsync(TimeSpan.FromMinutes(1));
        // An older one does not come back.
        Assert.Contains(
            "newer version",
            (await Assert.ThrowsAsync<StorageException>(() => PostgresStore.OpenAsync(database, node: "old.2"))).Message
        );
    }
}
