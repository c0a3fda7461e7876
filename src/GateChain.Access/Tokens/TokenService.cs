using System.Collections.Concurrent;
using GateChain.Access.Basics;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Storage;

namespace GateChain.Access.Tokens;

/// <summary>What programs show to be let in. Thread-safe.</summary>
public sealed class TokenService
{
    /// <summary>What every token begins with, so that it is known where it should not be.</summary>
    public const string Mark = "gct_";

    readonly AccessState _state;
    readonly TimeProvider _time;

    // By id: used since it was last written down.
    readonly ConcurrentDictionary<string, DateTimeOffset> _used = new();

    // What tokens and their owners may both do, while neither changes.
    readonly ConcurrentDictionary<string, (AccessToken Token, Rights Owner, Rights Both)> _rights = new();

    internal TokenService(AccessState state, TimeProvider time) => (_state, _time) = (state, time);

    /// <summary>All of them, the newest first.</summary>
    public IReadOnlyList<(AccessToken Token, Account Owner)> All =>
        [
            .. _state
                .Tokens.Values.Where(t => _state.Accounts.ContainsKey(t.Account))
                .OrderByDescending(t => t.Created)
                .Select(t => (t with { Used = UsedAt(t) }, _state.Accounts[t.Account])),
        ];

    DateTimeOffset? UsedAt(AccessToken token) => _used.TryGetValue(token.Id, out var at) ? at : token.Used;

    /// <summary>Makes a token.</summary>
    /// <param name="owner">Whose.</param>
    /// <param name="name">What it is for.</param>
    /// <param name="grants">What it allows, as far as its owner may.</param>
    /// <param name="holds">How long; null for until it is revoked.</param>
    /// <param name="by">Who makes it.</param>
    /// <returns>The token as it is kept, and what is shown once.</returns>
    /// <exception cref="AccessException">The owner may not do what it is to allow.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task<(AccessToken Token, string Secret)> AddAsync(
        Account owner,
        string name,
        IReadOnlyList<Grant> grants,
        TimeSpan? holds,
        Actor by
    )
    {
        name = name.Trim();
        if (name.Length is 0 or > 100 || name.Any(char.IsControl))
        {
            throw new AccessException(
                RefusalKind.Invalid,
                "a token has a name that says what it is for, up to 100 characters"
            );
        }
        var rights = _state.RightsOf(owner.Id);
        if (grants.Count == 0)
            throw new AccessException(RefusalKind.Invalid, "a token allows something: give it a role");
        if (
            grants
                .Select(g => (Grant?)g)
                .FirstOrDefault(g => !g!.Value.Role.Permissions().All(p => rights.Allow(p, g.Value.Area))) is
            { } tooMuch
        )
        {
            throw new AccessException(
                RefusalKind.Conflict,
                $"“{owner.Name}” is not {tooMuch}, and a token allows no more than its owner may"
            );
        }
        var secret = Mark + RandomText.Secret();
        var now = _time.GetUtcNow();
        var token = new AccessToken(
            RandomText.Id(),
            RandomText.Hash(secret),
            owner.Id,
            name,
            [.. grants.Distinct()],
            now,
            now + holds
        );
        await _state
            .ChangeAsync(s =>
                s.AddAsync(
                    token,
                    new AuditLine(
                        now,
                        by,
                        "add",
                        $"token {name}",
                        $"of {owner.Name}: {string.Join(", ", token.Grants)}; "
                            + (token.Expires is { } end ? $"until {end:yyyy-MM-dd HH:mm} UTC" : "without an end")
                    )
                )
            )
            .ConfigureAwait(false);
        return (token, secret);
    }

    /// <summary>The token of an id.</summary>
    /// <exception cref="AccessException">There is none.</exception>
    public AccessToken WithId(string id) =>
        _state.Tokens.Values.FirstOrDefault(t => t.Id == id)
        ?? throw new AccessException(RefusalKind.NotFound, $"there is no token {id}");

    /// <summary>Revokes a token: from now on nobody gets in with it.</summary>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task RevokeAsync(AccessToken token, Actor by)
    {
        await _state
            .ChangeAsync(s =>
                s.RemoveTokenAsync(
                    token.Id,
                    new(
                        _time.GetUtcNow(),
                        by,
                        "revoke",
                        $"token {token.Name}",
                        $"of {_state.Accounts.GetValueOrDefault(token.Account)?.Name}"
                    )
                )
            )
            .ConfigureAwait(false);
        _rights.TryRemove(token.Id, out _);
        _used.TryRemove(token.Id, out _);
    }

    /// <summary>Who shows something; null when it is no token that counts.</summary>
    /// <param name="secret">What is shown.</param>
    public (AccessToken Token, Account Owner, Rights Rights)? Find(string secret)
    {
        if (
            !secret.StartsWith(Mark, StringComparison.Ordinal)
            || !_state.Tokens.TryGetValue(RandomText.Hash(secret), out var token)
            || !_state.Accounts.TryGetValue(token.Account, out var owner)
            || owner.Disabled
            || token.Expires <= _time.GetUtcNow()
        )
        {
            return null;
        }
        _used[token.Id] = _time.GetUtcNow();
        return (token, owner, RightsOf(token));
    }

    Rights RightsOf(AccessToken token)
    {
        var owner = _state.RightsOf(token.Account);
        if (_rights.TryGetValue(token.Id, out var kept) && kept.Token == token && ReferenceEquals(kept.Owner, owner))
            return kept.Both;
        var both = new Rights(token.Grants).Within(owner);
        _rights[token.Id] = (token, owner, both);
        return both;
    }

    /// <summary>Who a token is to runs and the audit log.</summary>
    public static Actor ActorOf(AccessToken token, Account owner) =>
        new(ActorKind.Token, token.Id, $"{token.Name} ({owner.Name})");

    /// <summary>Writes down which were used.</summary>
    internal Task TidyAsync() =>
        _used.IsEmpty
            ? Task.CompletedTask
            : _state.Store.TouchAsync(_used.ToDictionary(), new Dictionary<string, DateTimeOffset>());
}
