using System.Text;
using GateChain.Core.Identity;

namespace GateChain.Storage.Tests.Contract;

/// <summary>Where a store under test has its data.</summary>
public interface IStorePlace : IAsyncDisposable
{
    /// <summary>Opens a store on the data; another one may have it open.</summary>
    Task<IStore> OpenAsync();
}

/// <summary>
/// What every store does. A class per room; each store derives from them, and says where its data lie.
/// </summary>
public abstract class StoreContract(IStorePlace place) : IAsyncLifetime
{
    protected static DateTimeOffset Epoch => DateTimeOffset.UnixEpoch;

    protected static Actor Ann { get; } = Actor.Person("ann");

    protected IStore Store { get; private set; } = null!;

    private protected Listener Listener { get; } = new();

    public virtual async ValueTask InitializeAsync() => Store = await place.OpenAsync();

    public async ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        await Store.DisposeAsync();
        await place.DisposeAsync();
    }

    /// <summary>Ends the store in good order, and opens it again.</summary>
    protected async Task ReopenAsync()
    {
        await Store.DisposeAsync();
        Store = await place.OpenAsync();
    }

    /// <summary>Opens another one beside it, as a second owner does.</summary>
    protected Task<IStore> OpenAnotherAsync() => place.OpenAsync();

    protected static StoredRun Head(
        long id,
        string state = "running",
        DateTimeOffset? ended = null,
        string chain = "c"
    ) => new(id, chain, "hash", state, 1, Ann, Epoch, ended, "{}", null);

    protected static AuditLine Line(string action, string what = "chain c", DateTimeOffset? at = null) =>
        new(at ?? Epoch, Ann, action, what);

    /// <summary>A run, registered with its first row.</summary>
    protected async Task<long> NewRunAsync(string chain = "c")
    {
        var id = await Store.Runs.NextIdAsync();
        Assert.Equal(AppendOutcome.Written, await AppendAsync(id, 1, "born", stored: Head(id, chain: chain)));
        return id;
    }

    protected Task<AppendOutcome> AppendAsync(
        long run,
        long seq,
        string body = "x",
        long epoch = 1,
        StoredRun? stored = null,
        AppendExtras? extras = null
    )
    {
        Store.Journal.Append(new(run, epoch, seq, Encoding.UTF8.GetBytes(body), stored, Listener) { Extras = extras });
        return Listener.Outcome(run, seq).WaitAsync(TimeSpan.FromSeconds(20));
    }

    /// <summary>The rows of a run: their numbers and what they hold.</summary>
    protected async Task<string> RowsAsync(long run, long after = 0) =>
        string.Join(
            ' ',
            await Store
                .Journal.ReadAsync(run, after)
                .Select(r => $"{r.Seq}:{Encoding.UTF8.GetString(r.Body)}")
                .ToListAsync()
        );

    protected static Push Push(
        IReadOnlyList<Release> releases,
        IReadOnlyDictionary<string, string>? files = null,
        string? note = null
    ) => new(releases, files ?? new Dictionary<string, string>(), Line("push"), note);

    protected static Release Content(string hash, string chain = "milk", string? source = null) =>
        new(hash, chain, "Milk", source ?? hash, new Dictionary<string, byte[]> { ["a.sql"] = [1, 2] }, Epoch);
}
