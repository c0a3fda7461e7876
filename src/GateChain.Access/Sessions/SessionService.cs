using System.Collections.Concurrent;
using GateChain.Access.Basics;
using GateChain.Access.People;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Storage;

namespace GateChain.Access.Sessions;

/// <summary>People who have signed in with a browser. Thread-safe.</summary>
public sealed class SessionService
{
    /// <summary>How long a session lasts at most.</summary>
    public static TimeSpan Longest { get; } = TimeSpan.FromHours(12);

    /// <summary>How long it lasts when nothing is done with it.</summary>
    public static TimeSpan Idle { get; } = TimeSpan.FromHours(1);

    readonly AccessState _state;
    readonly AccessSettings _settings;
    readonly TimeProvider _time;

    // By hash: seen since it was last written down.
    readonly ConcurrentDictionary<string, DateTimeOffset> _seen = new();

    internal SessionService(AccessState state, AccessSettings settings, TimeProvider time) =>
        (_state, _settings, _time) = (state, settings, time);

    /// <summary>Begins a session.</summary>
    /// <param name="account">Whose.</param>
    /// <param name="source">The address that they come from.</param>
    /// <param name="agent">What their browser says of itself.</param>
    /// <param name="through">How they showed who they are.</param>
    /// <returns>What the browser shows from then on; only its hash is kept.</returns>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task<string> BeginAsync(Account account, string source, string agent, string through)
    {
        var secret = RandomText.Secret();
        var now = _time.GetUtcNow();
        var session = new Session(
            RandomText.Hash(secret),
            account.Id,
            now,
            now,
            source,
            agent[..Math.Min(agent.Length, 200)]
        );
        var actor = AccountService.ActorOf(account) with { Source = source, Through = through };
        await _state
            .ChangeAsync(async store =>
            {
                await store
                    .AddAsync(session, new(now, actor, "sign in", $"account {account.Name}"))
                    .ConfigureAwait(false);
                if (_state.Accounts.GetValueOrDefault(account.Id) is { } current)
                    await store.SaveAsync(current with { SignedIn = now }, null).ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        return secret;
    }

    /// <summary>Who shows something; null when it is no session that lasts.</summary>
    /// <param name="secret">What the browser shows.</param>
    /// <param name="isActive">Whether a person does something: what a page does by itself keeps no session
    /// alive.</param>
    public (Session Session, Account Account, Rights Rights)? Find(string secret, bool isActive = true)
    {
        var hash = RandomText.Hash(secret);
        if (
            !_state.Sessions.TryGetValue(hash, out var session)
            || !_state.Accounts.TryGetValue(session.Account, out var account)
            || account.Disabled
            || IsOver(session)
        )
        {
            return null;
        }
        if (isActive)
            _seen[hash] = _time.GetUtcNow();
        return (session, account, NeedsCodes(account) ? Rights.None : _state.RightsOf(account.Id));
    }

    /// <summary>Whether somebody has to set up one-time codes before they may do anything else.</summary>
    public bool NeedsCodes(Account account) =>
        account is { CodeCipher: null, Issuer: null }
        && account.Grants.Any(g => _settings.SignIn.CodesFor.Contains(g.Role.Word()));

    DateTimeOffset SeenAt(Session session) =>
        _seen.TryGetValue(session.Hash, out var at) && at > session.Seen ? at : session.Seen;

    bool IsOver(Session session)
    {
        var now = _time.GetUtcNow();
        return now - session.Began >= Longest || now - SeenAt(session) >= Idle;
    }

    /// <summary>The sessions of somebody that last, the latest used first.</summary>
    public IReadOnlyList<Session> Of(Account account) =>
        [
            .. _state
                .Sessions.Values.Where(s => s.Account == account.Id && !IsOver(s))
                .Select(s => s with { Seen = SeenAt(s) })
                .OrderByDescending(s => s.Seen),
        ];

    /// <summary>Ends sessions.</summary>
    /// <param name="account">Whose; sessions of others are left alone.</param>
    /// <param name="which">Those to end.</param>
    /// <param name="by">Who ends them.</param>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task EndAsync(Account account, Func<Session, bool> which, Actor by)
    {
        var hashes = _state
            .Sessions.Values.Where(s => s.Account == account.Id && which(s))
            .Select(s => s.Hash)
            .ToList();
        if (hashes.Count == 0)
            return;
        var line = new AuditLine(
            _time.GetUtcNow(),
            by,
            "sign out",
            $"account {account.Name}",
            hashes.Count == 1 ? null : $"{hashes.Count} sessions"
        );
        await _state.ChangeAsync(s => s.RemoveSessionsAsync(hashes, line)).ConfigureAwait(false);
        foreach (var hash in hashes)
            _seen.TryRemove(hash, out _);
    }

    /// <summary>Writes down who was seen, and removes sessions whose time is over.</summary>
    internal async Task TidyAsync()
    {
        var seen = _seen.ToArray();
        if (seen.Length > 0)
        {
            await _state
                .Store.TouchAsync(new Dictionary<string, DateTimeOffset>(), seen.ToDictionary())
                .ConfigureAwait(false);
        }
        var over = _state.Sessions.Values.Where(IsOver).Select(s => s.Hash).ToList();
        if (over.Count > 0)
            await _state.ChangeAsync(s => s.RemoveSessionsAsync(over, null)).ConfigureAwait(false);
        foreach (var hash in over)
            _seen.TryRemove(hash, out _);
    }
}
