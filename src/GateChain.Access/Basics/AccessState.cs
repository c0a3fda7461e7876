using GateChain.Core.Access;
using GateChain.Storage;

namespace GateChain.Access.Basics;

/// <summary>
/// Accounts, tokens and sessions as they are stored, in memory: every request asks. Changes go to the store first, one
/// after the other. Thread-safe.
/// </summary>
sealed class AccessState(IAccessStore store) : IDisposable
{
    sealed record Content(
        IReadOnlyDictionary<string, Account> Accounts,
        IReadOnlyDictionary<string, Rights> Rights,
        IReadOnlyDictionary<string, AccessToken> Tokens,
        IReadOnlyDictionary<string, Session> Sessions,
        IReadOnlyDictionary<string, string> Settings
    );

    volatile Content _content = Of(new([], [], [], new Dictionary<string, string>()));
    readonly SemaphoreSlim _changing = new(1, 1);

    static Content Of(AccessContent stored) =>
        new(
            stored.Accounts.ToDictionary(a => a.Id),
            stored.Accounts.ToDictionary(a => a.Id, a => new Rights(a.Grants)),
            stored.Tokens.ToDictionary(t => t.Hash),
            stored.Sessions.ToDictionary(s => s.Hash),
            stored.Settings
        );

    public IAccessStore Store => store;

    /// <summary>By id.</summary>
    public IReadOnlyDictionary<string, Account> Accounts => _content.Accounts;

    /// <summary>By hash.</summary>
    public IReadOnlyDictionary<string, AccessToken> Tokens => _content.Tokens;

    /// <summary>By hash.</summary>
    public IReadOnlyDictionary<string, Session> Sessions => _content.Sessions;

    /// <summary>By name.</summary>
    public IReadOnlyDictionary<string, string> Settings => _content.Settings;

    /// <summary>What an account may do; nothing for one that is not there or kept out.</summary>
    public Rights RightsOf(string account)
    {
        var content = _content;
        return content.Accounts.GetValueOrDefault(account) is { Disabled: false }
            ? content.Rights[account]
            : Rights.None;
    }

    /// <summary>The account of a name, whatever the case of letters; null for none.</summary>
    public Account? Named(string name) =>
        _content.Accounts.Values.FirstOrDefault(a => a.Name.Equals(name, StringComparison.OrdinalIgnoreCase));

    public async Task LoadAsync() => _content = Of(await store.LoadAsync().ConfigureAwait(false));

    /// <summary>Changes what is stored, and takes it in.</summary>
    public async Task<T> ChangeAsync<T>(Func<IAccessStore, Task<T>> change)
    {
        await _changing.WaitAsync().ConfigureAwait(false);
        try
        {
            var result = await change(store).ConfigureAwait(false);
            await LoadAsync().ConfigureAwait(false);
            return result;
        }
        finally
        {
            _changing.Release();
        }
    }

    /// <summary>Changes what is stored, and takes it in.</summary>
    public Task ChangeAsync(Func<IAccessStore, Task> change) =>
        ChangeAsync(async s =>
        {
            await change(s).ConfigureAwait(false);
            return true;
        });

    public void Dispose() => _changing.Dispose();
}
